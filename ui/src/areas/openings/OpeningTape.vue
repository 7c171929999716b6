<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../../api/client";
import { cents, fromCents, isCredit, isZero, plain, sum } from "../../money";

const props = defineProps<{ draft: Schemas["Draft"] }>();
const of = (ways: string[]) => props.draft.lines.filter((l) => ways.includes(l.way));
const parts = computed(() =>
  [
    { words: "placed", lines: of(["line"]) },
    { words: "to clearing", lines: of(["control"]) },
    { words: "not yet placed", lines: of(["unplaced"]) },
    { words: "nothing to post", lines: of(["nothing"]) },
  ].filter((p) => p.lines.length),
);
const debit = (ls: Schemas["DraftLine"][]) => sum(ls.map((l) => (isCredit(l.amount) ? "0.00" : l.amount)));
const credit = (ls: Schemas["DraftLine"][]) => fromCents(-cents(sum(ls.map((l) => (isCredit(l.amount) ? l.amount : "0.00")))));
</script>

<template>
  <div class="tape-hold">
    <div class="tape">
      <table aria-label="What becomes of the rows">
        <thead>
          <tr>
            <th>rows</th>
            <th>what</th>
            <th>debit</th>
            <th>credit</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in parts" :key="p.words">
            <td class="cnt">{{ p.lines.length }}</td>
            <td>{{ p.words }}</td>
            <td>{{ plain(debit(p.lines)) }}</td>
            <td>{{ plain(credit(p.lines)) }}</td>
          </tr>
          <tr class="sum">
            <td class="cnt">{{ draft.lines.length }}</td>
            <td>{{ isZero(draft.difference) ? "in balance" : "differ" }}</td>
            <td class="amt">{{ plain(draft.debit) }}</td>
            <td class="amt" :class="{ bad: !isZero(draft.difference) }">{{ plain(draft.credit) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.tape {
  width: 352px;
}
.tape td:nth-child(2),
.tape th:nth-child(2) {
  text-align: left;
  white-space: nowrap;
}
</style>
