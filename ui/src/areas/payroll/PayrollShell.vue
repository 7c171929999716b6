<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute } from "vue-router";
import type { Schemas } from "../../api/client";
import { useBills, useClientId, usePayroll } from "../../api/queries";
import { day, plural } from "../../format";
import ChooseOne from "../../frame/ChooseOne.vue";
import PileFilter from "../../frame/PileFilter.vue";
import VeilBox from "../../frame/VeilBox.vue";
import MoneyFigure from "../../frame/MoneyFigure.vue";
import { figure } from "../../money";
import BringFile from "../../sheet/BringFile.vue";
import FileList from "../../sheet/FileList.vue";
import { purposes } from "../../sheet/meanings";
import ProviderBox from "./ProviderBox.vue";

// What every part of payroll shares: the runs on the left, what is stopped first.
const id = useClientId();
const route = useRoute();
const { data: p } = usePayroll();
const text = ref("");
const bringing = ref(false);
const linking = ref(false);
const { data: bills } = useBills();
const billWords = (b: Schemas["PayBill"]) =>
  b.kind === "fee"
    ? b.drawn && b.drawn !== b.total
      ? `invoice; drawn ${figure(b.drawn)}`
      : "the provider's invoice"
    : b.state === "stopped"
      ? (b.blocks[0]?.words ?? "stopped")
      : `${b.state === "posted" ? "posted" : "to post"}${b.gaps.length ? `, ${plural(b.gaps.length, "gap")}` : ""}`;
const what = ref("payroll-register");
const base = computed(() => `/c/${id.value}/payroll`);
const hit = (s: string) => s.toLowerCase().includes(text.value.toLowerCase());
const groups = computed(() => {
  const of = (words: string, ...states: string[]) => ({
    words,
    runs: (p.value?.runs ?? []).filter((r) => states.includes(r.state) && hit(`run of ${r.check_date ? day(r.check_date) : r.file} ${r.words}`)),
  });
  return [
    of("Stopped", "stopped"),
    of("To post", "ready"),
    of("Posted", "posted"),
    of("Corrected since", "replaced"),
    of("Before the opening day", "early"),
    of("Taken in, not posted", "prior"),
  ].filter((g) => g.runs.length);
});
const loose = computed(() => {
  const c = p.value?.counts ?? {};
  return (c.open ?? 0) + (c.suggested ?? 0) + (c.broken ?? 0);
});
const notes: Record<string, string> = {
  "payroll-register": "The provider's register of one run: a column or a row for each item, with its titles and totals.",
  "pay-bill": "A carrier's bill, a row a person, or the provider's invoice, a row a charge. It is held against the runs of its month.",
  "payroll-forms": "What the provider's own Forms 941, 940 and W-2 say, a row a line or box, in total. It lies beside ours.",
  "payroll-to-date": "What each employee was paid this year before the opening day. It is never posted; forms and wage bases need it.",
};
</script>

<template>
  <aside class="pile" aria-label="Payroll">
    <PileFilter v-model="text" words="filter runs" />
    <template v-for="g in groups" :key="g.words">
      <div class="g">{{ g.words }} <span>gross</span></div>
      <RouterLink v-for="r in g.runs" :key="r.id" class="r" :class="{ on: route.path === `${base}/${r.id}` }" :to="`${base}/${r.id}`"
        ><span
          >{{ r.state === "prior" ? "Year to date" : r.check_date ? `Run of ${day(r.check_date)}` : r.file
          }}<small>{{ r.words || (r.state === "prior" ? `${r.people} people` : r.kind === "regular" ? `${r.people} people` : r.kind) }}</small></span
        ><span><MoneyFigure :m="r.gross" /></span
      ></RouterLink>
    </template>
    <template v-if="bills?.length">
      <div class="g">Bills and invoices <span>total</span></div>
      <RouterLink v-for="b in bills" :key="b.id" class="r" :class="{ on: route.path === `${base}/bills/${b.id}` }" :to="`${base}/bills/${b.id}`"
        ><span
          >{{ b.party || b.file }}<small>{{ billWords(b) }}</small></span
        ><span><MoneyFigure :m="b.total" /></span
      ></RouterLink>
    </template>
    <div class="g">Items</div>
    <RouterLink class="r" :class="{ on: route.path.endsWith('/items') }" :to="`${base}/items`"
      ><span>Where items go</span><span>{{ loose ? `${loose} loose` : (p?.items.length ?? "–") }}</span></RouterLink
    >
    <div class="g">Figures</div>
    <RouterLink class="r" :class="{ on: route.path.endsWith('/forms') }" :to="`${base}/forms`"><span>Forms 941, 940, W-2</span><span /></RouterLink>
    <RouterLink class="r" :class="{ on: route.path.endsWith('/owed') }" :to="`${base}/owed`"><span>Payroll liabilities</span><span /></RouterLink>
    <FileList :purpose="['payroll-register', 'payroll-to-date', 'pay-bill', 'payroll-forms']" :filter="text" />
    <div class="bring">
      <button class="btn small" aria-haspopup="dialog" @click="bringing = true">Bring a file in</button>
      <RouterLink class="btn small" :to="`${base}/typed`">Type one from paper</RouterLink>
      <button class="btn small" aria-haspopup="dialog" @click="linking = true">Connected provider</button>
    </div>
    <ProviderBox v-if="linking" @close="linking = false" />
    <VeilBox v-if="bringing" words="Bring a file in" :width="520" @close="bringing = false">
      <ChooseOne id="what-register" v-model="what" label="The file is" :options="Object.keys(notes).map((v) => ({ value: v, label: purposes[v]!.name }))" />
      <p class="q" style="margin: 0 0 14px">{{ notes[what] }} It is read on a sheet first; nothing is posted until you say so.</p>
      <BringFile :key="what" :purpose="what" words="Choose the file"><button class="btn plain" @click="bringing = false">Cancel</button></BringFile>
    </VeilBox>
  </aside>
  <slot />
</template>

<style scoped>
.bring {
  margin: 14px 16px;
  display: grid;
  gap: 6px;
  justify-items: start;
}
</style>
