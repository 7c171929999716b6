<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../../api/client";
import { isZero, plain } from "../../money";
import { bucketWords, paidWords } from "./payees";

// Every cent in one bucket: the tape, its total and the figure it must equal.
const props = defineProps<{ payees: Schemas["Payees"] }>();
const rows = computed(() => props.payees.tape.filter((t) => t.lines > 0 || t.bucket !== "of another year"));
</script>

<template>
  <div class="tape-hold">
    <div class="tape">
      <table :aria-label="`The buckets of ${payees.year}`">
        <thead>
          <tr>
            <th style="text-align: left; overflow: visible">payees</th>
            <th></th>
            <th>amount</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in rows" :key="t.bucket" :class="{ loose: t.bucket === 'undecided' && t.lines }">
            <td class="cnt">{{ t.payees || "–" }}</td>
            <td>{{ bucketWords(t.bucket) }}</td>
            <td>{{ t.lines ? paidWords(t.amount) : "–" }}</td>
          </tr>
          <tr class="sum">
            <td class="cnt"></td>
            <td>paid in {{ payees.year }}</td>
            <td class="amt">{{ paidWords(payees.total) }}</td>
          </tr>
          <tr v-for="x in payees.parts" :key="x.words" class="part">
            <td colspan="2">{{ x.words }}</td>
            <td>{{ paidWords(x.amount) }}</td>
          </tr>
          <tr class="part">
            <td colspan="2">difference</td>
            <td>
              <span :class="isZero(payees.difference) ? 'ok' : 'bad'">{{ plain(payees.difference) }} {{ isZero(payees.difference) ? "✓" : "▲" }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.tape {
  min-width: 280px;
}
.tape th:first-child,
.tape td.cnt {
  width: 30px;
}
.tape td {
  height: 22px;
}
.tape td.cnt {
  text-align: left;
}
.loose td {
  font-weight: 650;
}
.part td,
.part td:first-child {
  color: var(--quiet);
  height: 21px;
}
</style>
