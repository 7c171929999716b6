<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useQuery } from "@tanstack/vue-query";
import { useRoute, useRouter } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, usePayee, usePayees } from "../../api/queries";
import { plural } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useKeys } from "../../keys";
import { figure } from "../../money";
import BoxRack from "./BoxRack.vue";
import FundList from "./FundList.vue";
import PaidLines from "./PaidLines.vue";
import PayeeHead from "./PayeeHead.vue";
import PayeeShell from "./PayeeShell.vue";
import PayeeTape from "./PayeeTape.vue";
import PayeeWhy from "./PayeeWhy.vue";
import RuleList from "./RuleList.vue";
import { useYear } from "./year";

// The buckets as a tape, the payee in hand with every line, the accounts on the rack.
const id = useClientId();
const route = useRoute();
const router = useRouter();
const year = useYear();
const { data: p, isPending } = usePayees(year);
const shown = computed(() => (route.params.payee !== undefined && route.params.payee !== "" ? Number(route.params.payee) : undefined));
const { data: one } = usePayee(
  computed(() => ({ id: shown.value ?? 0, year: p.value?.year ?? 0 })),
  computed(() => shown.value !== undefined && !!p.value),
);
const hand = ref("");
watch(shown, () => (hand.value = ""));
const account = computed(() => p.value?.accounts.find((a) => a.key === hand.value));
const order = computed(() => p.value?.payees ?? []);
function go(n: number) {
  const i = order.value.findIndex((r) => r.id === shown.value);
  const to = order.value[Math.max(0, Math.min(order.value.length - 1, i + n))];
  if (to) void router.push({ path: `/c/${id.value}/payees/${to.id}`, query: route.query });
}
useKeys([
  { key: "j", words: "next payee", run: () => go(1) },
  { key: "k", words: "previous payee", run: () => go(-1) },
  {
    key: "p",
    words: "next payee that is undecided",
    run: () => {
      const loose = order.value.filter((r) => r.state === "undecided" || r.state === "on a form with a fault");
      const i = loose.findIndex((r) => r.id === shown.value);
      const to = loose[(i + 1) % Math.max(loose.length, 1)];
      if (to) void router.push({ path: `/c/${id.value}/payees/${to.id}`, query: route.query });
    },
  },
]);
const take = useAct(
  (client, method: string) => unwrap(api.POST("/api/clients/{client}/payees/methods", { params: { path: { client } }, body: { method } })),
  undefined,
  {
    undo: (method, client, result) => ({
      words: `payments by ${method}`,
      run: async () => {
        const undo = result()?.lines ?? [];
        if (undo.length) await unwrap(api.POST("/api/clients/{client}/payees/methods", { params: { path: { client } }, body: { method, undo } }));
      },
    }),
  },
);
// What a choice would move is shown before it is made.
const try1 = computed<Schemas["BoxChoice"] | undefined>(() => {
  const a = account.value;
  if (!a || a.state !== "suggested" || !a.suggestion) return undefined;
  return a.suggestion.leave_out ? { keys: [a.key], leave_out: a.suggestion.leave_out } : { keys: [a.key], box: a.suggestion.box };
});
const { data: effect } = useQuery({
  queryKey: ["client", id, "box-effect", year, try1],
  queryFn: () =>
    unwrap(api.POST("/api/clients/{client}/payees/boxes/effect", { params: { path: { client: id.value }, query: { year: year.value } }, body: try1.value! })),
  enabled: computed(() => !!try1.value),
});
</script>

<template>
  <PayeeShell>
    <main class="bench" tabindex="0">
      <PayeeHead />
      <p v-if="isPending" class="busy">adding the year up…</p>
      <template v-else-if="p">
        <div v-if="!p.tape.some((t) => t.lines)" class="empty">
          <b>No payment of {{ p.year }} is here</b>
          <template v-for="w in p.blank.slice(1)" :key="w">{{ w.charAt(0).toUpperCase() + w.slice(1) }}. </template>
          Bring in the vendors first, then what they were paid; each as it comes from the old or the new ledger.
        </div>
        <template v-else>
          <p v-if="p.blank.length" class="said blank">Nothing is on a form yet: {{ p.blank.join("; ") }}.</p>
          <div v-for="m in p.suggested_methods" :key="m.method" class="said blank">
            <span class="one" :title="m.examples.join(', ')"
              ><b>{{ plural(m.lines, "line") }}</b
              >, {{ figure(m.amount, "back") }}, {{ m.decides ? `${m.decides} waiting for it,` : "no bucket changes," }} may be by {{ m.method }}:
              {{ m.examples.join(", ") }}</span
            >
            <button class="btn small" :disabled="take.isPending.value" @click="take.mutate(m.method)">They were</button>
          </div>
          <RefusalBox :error="take.error.value" />
          <div class="upper">
            <div>
              <PayeeTape :payees="p" />
              <p v-if="p.recognised.length" class="q s twice">
                {{ plural(p.recognised.length, "payment") }} posted in the ledger {{ p.recognised.length === 1 ? "is" : "are" }} in a file too and counted once.
              </p>
            </div>
            <PaidLines v-if="one && shown !== undefined" :payee="one" :rules="p.rules" @account="(k) => (hand = k)" />
            <FundList v-else :payees="p" />
          </div>
          <BoxRack :payees="p" :hand="hand" :vendor="one && one.id > 0 ? { id: one.id, name: one.facts.name } : undefined" @hand="(k) => (hand = k)" />
        </template>
      </template>
    </main>
    <aside class="why" aria-label="Why" tabindex="0">
      <template v-if="account && p">
        <h1>{{ account.number }} {{ account.name }}</h1>
        <div class="sub">{{ figure(account.paid, "back") }} in {{ plural(account.lines, "line") }} to {{ plural(account.payees, "payee") }}</div>
        <p v-if="account.warning" class="warn">{{ account.warning.charAt(0).toUpperCase() + account.warning.slice(1) }}.</p>
        <p v-if="account.evidence">
          {{ account.state === "suggested" ? `Suggested: ${account.suggestion?.leave_out || account.box}. ` : "" }}{{ account.evidence }}.
        </p>
        <template v-if="effect && try1">
          <h2>What taking it would move</h2>
          <p>{{ effect.words }}</p>
          <div v-for="m in effect.moves.slice(0, 6)" :key="m.from + m.to" class="kv">
            <span>{{ m.from }} → {{ m.to }}</span
            ><span>{{ figure(m.amount, "back") }}</span>
          </div>
        </template>
        <template v-if="account.only.length">
          <h2>Only for some vendors</h2>
          <div v-for="o in account.only" :key="o.party_id" class="kv">
            <span>{{ o.party }}</span><span>{{ o.answer }}</span>
          </div>
        </template>
        <button class="btn small plain" style="margin-top: 8px; align-self: start" @click="hand = ''">Back to the payee</button>
      </template>
      <PayeeWhy v-else-if="one && p && shown !== undefined" :key="one.id" :payee="one" :rules="p.rules" :sees="p.sees_tax_ids" :rate="p.withholding_rate" />
      <RuleList v-else-if="p" :payees="p" />
      <div class="keys">
        <span><kbd>j</kbd><kbd>k</kbd>payee</span><span><kbd>t</kbd>set</span><span><kbd>x</kbd>leave out</span><span><kbd>?</kbd>keys</span>
      </div>
    </aside>
  </PayeeShell>
</template>

<style scoped>
.upper {
  display: flex;
  gap: 16px;
  align-items: flex-start;
}
.blank {
  padding: 4px 10px;
  margin-bottom: 6px;
  border-color: var(--brass);
  background: var(--hand);
  color: var(--ink);
  display: flex;
  justify-content: space-between;
  gap: 12px;
  align-items: center;
}
.one {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.twice {
  width: 280px;
  margin-top: 8px;
}
</style>
