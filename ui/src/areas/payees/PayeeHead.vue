<script setup lang="ts">
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";
import { useClientId, usePayees } from "../../api/queries";
import { useYear } from "./year";
import ChooseOne from "../../frame/ChooseOne.vue";

// The tax year, printed large, and the parts of the work; a change of the year moves
// every part.
const id = useClientId();
const route = useRoute();
const router = useRouter();
const year = useYear();
const { data: p } = usePayees(year);
const base = computed(() => `/c/${id.value}/payees`);
const parts = computed(() => [
  { to: "", words: "Buckets", on: !/payees\/(look|forms|filing|names)/.test(route.path) },
  { to: "/look", words: "Second look", on: route.path.endsWith("/look") },
  { to: "/forms", words: "Forms and totals", on: route.path.endsWith("/forms") },
  { to: "/filing", words: "Filing", on: route.path.endsWith("/filing") },
  { to: "/names", words: p.value?.unsettled ? `Who is who, ${p.value.unsettled} open` : "Who is who", on: route.path.endsWith("/names") },
]);
const years = computed(() => {
  const have = new Set([...(p.value?.years ?? []), p.value?.due_year ?? 0, p.value?.year ?? 0].filter(Boolean));
  return [...have].sort((a, b) => b - a).map((y) => ({ value: y, label: y === p.value?.due_year ? `${y}, due next` : String(y) }));
});
</script>

<template>
  <div class="head payees-head">
    <h1>Payees</h1>
    <strong class="year">{{ p?.year ?? "" }}</strong>
    <span class="sub">by date paid, 1 Jan – 31 Dec; federal, states may differ</span>
    <span class="acts">
      <ChooseOne
        v-if="p"
        id="tax-year"
        :model-value="p.year"
        label="Tax year"
        :options="years"
        @update:model-value="(v) => router.replace({ query: { ...route.query, year: Number(v) } })"
      />
    </span>
  </div>
  <nav class="tabs" aria-label="Parts of payees">
    <RouterLink
      v-for="t in parts"
      :key="t.to"
      :to="{ path: base + t.to, query: route.query.year ? { year: route.query.year } : {} }"
      :class="{ on: t.on }"
      :aria-current="t.on ? 'page' : undefined"
      >{{ t.words }}</RouterLink
    >
  </nav>
  <p v-if="p && !p.in_book" class="warn" style="margin-bottom: 10px">{{ p.note }}: nothing can be decided for {{ p.year }}.</p>
</template>

<style scoped>
.payees-head {
  margin-bottom: 8px;
}
.year {
  font: 700 24px/30px var(--slab);
  color: var(--brass-text);
  margin-left: 10px;
}
.acts {
  align-items: center;
}
.acts :deep(label) {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
.acts :deep(.field) {
  margin: 0;
  width: 148px;
}
.tabs a {
  padding: 3px 0 7px;
  color: var(--quiet);
  text-decoration: none;
}
.tabs a.on {
  color: var(--ink);
}
</style>
