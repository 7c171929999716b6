<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute } from "vue-router";
import { useClientId, useClientState, useOpening, useOpenings } from "../../api/queries";
import { day } from "../../format";
import PileFilter from "../../frame/PileFilter.vue";
import { isZero, plain, words } from "../../money";
import BringOpening from "./BringOpening.vue";
import FileList from "../../sheet/FileList.vue";
import BatchTable from "./BatchTable.vue";

// What all parts of the opening share: the loose ends on the left, where each
// batch stands on top, the parts as tabs. Each part fills the bench and the why.
const text = defineModel<string>("filter", { default: "" });
const id = useClientId();
const route = useRoute();
const { data: d } = useOpening();
const { data: o } = useOpenings();
const { data: state } = useClientState();
const bringing = ref(false);
const base = computed(() => `/c/${id.value}/openings`);
const tabs = computed(() => [
  { to: base.value, name: "Balances" },
  { to: `${base.value}/invoices`, name: "Open invoices" },
  { to: `${base.value}/bills`, name: "Open bills" },
  { to: `${base.value}/parties`, name: "Customers and vendors", n: o.value?.open_parties },
  { to: `${base.value}/bank`, name: "Bank" },
  { to: `${base.value}/sign-off`, name: "Sign-off" },
]);
const clearingName = (s: { side: string; clearing: { number: string; name: string } }) =>
  s.clearing.name ? `${s.clearing.number} ${s.clearing.name}` : s.side === "receivable" ? "Receivables, clearing" : "Payables, clearing";
const left = computed(() => (o.value?.sides ?? []).filter((s) => !isZero(s.left)));
const banksOff = computed(() => (o.value?.banks ?? []).filter((b) => b.said && !isZero(b.tie.difference)));
</script>

<template>
  <aside class="pile" aria-label="Openings">
    <PileFilter v-model="text" words="filter rows" />
    <template v-if="left.length || banksOff.length">
      <div class="g">Does not hold</div>
      <RouterLink v-for="s in left" :key="s.side" class="r" :to="`${base}/${s.side === 'receivable' ? 'invoices' : 'bills'}`"
        ><span
          >{{ clearingName(s) }}<small>{{ s.count || s.held_count ? "left once all is posted" : "its items have not come yet" }}</small></span
        ><span class="bad">{{ words(s.left) }}</span></RouterLink
      >
      <RouterLink v-for="b in banksOff" :key="b.account.id" class="r" :to="`${base}/bank`"
        ><span>{{ b.account.number }} {{ b.account.name }}<small>statement ± uncleared is not the book</small></span
        ><span class="bad">{{ plain(b.tie.difference) }}</span></RouterLink
      >
    </template>
    <template v-if="d && ((d.batch_id && d.blocks.length) || d.unplaced || o?.open_parties)">
      <div class="g">Loose ends</div>
      <template v-if="d.batch_id">
        <RouterLink v-for="b in d.blocks" :key="b.words" class="r" :to="b.link ? `/c/${id}/${b.link}` : base"
          ><span>{{ b.words }}<small>stops the posting</small></span
          ><span
        /></RouterLink>
      </template>
      <RouterLink v-if="d.unplaced" class="r" :to="`${base}/rack?show=loose`"
        ><span>Rows not yet placed<small>open, suggested, left out or broken</small></span
        ><span>{{ d.unplaced }}</span></RouterLink
      >
      <RouterLink v-if="o?.open_parties" class="r" :to="`${base}/parties`"
        ><span>Names not settled<small>their items are held</small></span
        ><span>{{ o.open_parties }}</span></RouterLink
      >
    </template>
    <div class="g">The rack</div>
    <RouterLink class="r" :to="`${base}/rack`"
      ><span>Old accounts to new accounts</span><span>{{ d?.lines.length || "–" }}</span></RouterLink
    >
    <FileList :purpose="['trial-balance', 'open-invoices', 'open-bills', 'parties', 'bank-uncleared', 'statement', 'crosswalk']" :filter="text" />
  </aside>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>Opening balances</h1>
      <span v-if="d" class="sub">as of {{ day(d.day) }}<template v-if="state?.client.locked_through">, signed off and locked</template></span>
      <div class="acts">
        <button class="btn prime" aria-haspopup="dialog" @click="bringing = true">Bring a file in</button>
      </div>
    </div>
    <BringOpening v-if="bringing" @close="bringing = false" />
    <div class="pair noprint"><slot name="tape" /><BatchTable v-if="d && o" :draft="d" :over="o" /></div>
    <nav class="tabs noprint" aria-label="Parts of the opening">
      <RouterLink v-for="t in tabs" :key="t.to" :to="t.to" :class="{ on: route.path === t.to }" :aria-current="route.path === t.to ? 'page' : undefined"
        >{{ t.name }}<b v-if="t.n"> {{ t.n }}</b></RouterLink
      >
    </nav>
    <slot />
  </main>
  <aside class="why" aria-label="Why"><slot name="why" /></aside>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 20px;
  margin-bottom: 12px;
  align-items: start;
}
/* Without a tape the batches begin where the rest does. */
.pair > span:empty {
  display: none;
}
.pair:has(> span:empty) {
  grid-template-columns: minmax(0, 1fr);
}
.tabs {
  gap: 18px;
}
.tabs a {
  padding: 3px 0 7px;
  color: var(--quiet);
  text-decoration: none;
  white-space: nowrap;
}
.tabs a:hover {
  color: var(--ink);
}
.tabs a.on {
  color: var(--ink);
  font-weight: 650;
  box-shadow: inset 0 -2px 0 var(--brass);
}
.tabs b {
  margin-left: 5px;
  color: var(--brass-text);
  font-weight: 600;
}
</style>
