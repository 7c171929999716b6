<script setup lang="ts">
import { computed, ref } from "vue";
import { useClientId, useHistory } from "../../api/queries";
import { moment } from "../../format";
import PileFilter from "../../frame/PileFilter.vue";
import FigureTable from "../../frame/FigureTable.vue";

const id = useClientId();
const { data: lines, isPending } = useHistory();
const text = ref("");
const say = (v: unknown): string =>
  v === undefined || v === null
    ? ""
    : typeof v === "string"
      ? v
      : Object.entries(v as Record<string, unknown>)
          .filter(([, x]) => x !== null && x !== "" && x !== false && !(Array.isArray(x) && !x.length))
          .map(([k, x]) => `${k.replaceAll("_", " ")}: ${typeof x === "object" ? JSON.stringify(x) : String(x)}`)
          .join(", ");
const shown = computed(() =>
  (lines.value ?? []).filter((l) => `${l.what} ${l.subject} ${l.by.name} ${say(l.before)} ${say(l.after)}`.toLowerCase().includes(text.value.toLowerCase())),
);
</script>

<template>
  <aside class="pile" aria-label="Filter"><PileFilter v-model="text" words="filter the history" /></aside>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>History</h1>
      <span class="sub">who changed what, newest first; nothing is ever taken out</span>
    </div>
    <p v-if="isPending" class="busy">reading the history…</p>
    <FigureTable v-else :give="[3, 4, 5]">
      <thead>
        <tr>
          <th style="width: 92px">When</th>
          <th style="width: 36px">Who</th>
          <th style="width: 178px">What</th>
          <th>Before</th>
          <th>After</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in shown" :key="l.id">
          <td>{{ moment(l.at) }}</td>
          <td>{{ l.by.initials }}</td>
          <td>{{ l.what }}</td>
          <td class="w q">{{ say(l.before) || "–" }}</td>
          <td class="w">{{ say(l.after) || "–" }}</td>
        </tr>
      </tbody>
    </FigureTable>
    <p v-if="lines && !shown.length" class="empty"><b>Nothing matches</b>Clear the filter to see every change.</p>
  </main>
  <aside class="why" aria-label="About">
    <h1>Kept for good</h1>
    <p>Changes to mappings, postings, particulars and files stand here with who, when, before and after.</p>
    <p style="margin-top: 8px"><RouterLink :to="`/c/${id}/books/posted`">What was posted</RouterLink></p>
  </aside>
</template>

<style scoped>
.w {
  white-space: normal;
  overflow-wrap: anywhere;
  line-height: 17px;
  padding-top: 4px;
  padding-bottom: 4px;
}
table {
}
td {
}
</style>
