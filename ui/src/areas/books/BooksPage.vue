<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute, useRouter } from "vue-router";
import { useChart, useClientId, useParties, useUnits } from "../../api/queries";
import PileFilter from "../../frame/PileFilter.vue";
import { useKeys } from "../../keys";
import MoneyFigure from "../../frame/MoneyFigure.vue";
import { isZero } from "../../money";
import AgingView from "./AgingView.vue";
import PartyView from "./PartyView.vue";
import PostedView from "./PostedView.vue";
import RegisterView from "./RegisterView.vue";
import StatementView from "./StatementView.vue";
import TrialBalanceView from "./TrialBalanceView.vue";

const id = useClientId();
const route = useRoute();
const router = useRouter();
const { data: chart } = useChart();
const { data: units } = useUnits();
const text = ref("");
const view = computed(() => String(route.params.view || "balance-sheet"));
const books = [
  { key: "trial-balance", name: "Trial balance" },
  { key: "balance-sheet", name: "Balance sheet" },
  { key: "income-statement", name: "Income statement" },
];
const accounts = computed(() =>
  (chart.value?.accounts ?? [])
    .filter((a) => (!isZero(a.balance) || text.value) && `${a.number} ${a.name}`.toLowerCase().includes(text.value.toLowerCase()))
    .slice(0, 200),
);
const { data: parties } = useParties();
// Customers and vendors are offered once one looks for them; the aging lists all.
const people = computed(() =>
  text.value.length > 1 ? (parties.value ?? []).filter((p) => p.name.toLowerCase().includes(text.value.toLowerCase())).slice(0, 20) : [],
);
// A balance on the side on which its account normally stands is a plain figure.
const onCredit = (a: { normal_side: string }) => a.normal_side === "credit";
const owed = (p: { kinds: string[] }) => p.kinds.length === 1 && p.kinds[0] === "vendor";
const standing = computed(() => (units.value ?? []).filter((u) => !u.reverses && !u.taken_back).length);
const order = ["trial-balance", "balance-sheet", "income-statement", "posted"];
const step = (n: number) => void router.push(`/c/${id.value}/books/${order[Math.max(0, Math.min(order.length - 1, order.indexOf(view.value) + n))]}`);
useKeys([
  { key: "j", words: "next book", run: () => step(1) },
  { key: "k", words: "previous book", run: () => step(-1) },
]);
</script>

<template>
  <aside class="pile" aria-label="Books">
    <PileFilter v-model="text" words="filter books and accounts" />
    <div class="g">Statements</div>
    <RouterLink v-for="b in books" :key="b.key" class="r" :class="{ on: view === b.key }" :to="`/c/${id}/books/${b.key}`"
      ><span>{{ b.name }}</span
      ><span
    /></RouterLink>
    <div class="g">Open items</div>
    <RouterLink
      v-for="s in ['receivable', 'payable']"
      :key="s"
      class="r"
      :class="{ on: view === 'aging' && route.params.account === s }"
      :to="`/c/${id}/books/aging/${s}`"
      ><span>Aging of {{ s }}s</span><span
    /></RouterLink>
    <RouterLink
      v-for="p in people"
      :key="p.id"
      class="r"
      :class="{ on: view === 'party' && Number(route.params.account) === p.id }"
      :to="`/c/${id}/books/party/${p.id}`"
      ><span>{{ p.name }}</span
      ><span><MoneyFigure :m="p.open" :credit="owed(p)" :other="owed(p) ? 'debit' : 'credit'" /></span
    ></RouterLink>
    <div class="g">Entries</div>
    <RouterLink class="r" :class="{ on: view === 'posted' }" :to="`/c/${id}/books/posted`"
      ><span>Just posted</span><span>{{ standing || "–" }}</span></RouterLink
    >
    <div class="g">Registers</div>
    <RouterLink
      v-for="a in accounts"
      :key="a.id"
      class="r"
      :class="{ on: view === 'register' && Number(route.params.account) === a.id }"
      :to="`/c/${id}/books/register/${a.id}`"
      ><span>{{ a.number }} {{ a.name }}</span
      ><span><MoneyFigure :m="a.balance" none="–" :credit="onCredit(a)" :other="onCredit(a) ? 'debit' : 'credit'" /></span
    ></RouterLink>
    <p v-if="!accounts.length" class="r q" style="cursor: default">no account has a balance yet</p>
  </aside>
  <TrialBalanceView v-if="view === 'trial-balance'" />
  <RegisterView v-else-if="view === 'register'" :key="String(route.params.account)" :account="Number(route.params.account)" />
  <AgingView v-else-if="view === 'aging'" :key="`aging${String(route.params.account)}`" :side="String(route.params.account || 'receivable')" />
  <PartyView v-else-if="view === 'party'" :key="`party${String(route.params.account)}`" :party="Number(route.params.account)" />
  <PostedView v-else-if="view === 'posted'" />
  <StatementView v-else :key="view" :which="view === 'income-statement' ? 'income-statement' : 'balance-sheet'" />
</template>
