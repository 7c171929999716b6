<script setup lang="ts">
import type { Schemas } from "../../api/client";
import { figure, plain } from "../../money";
import { less as apart } from "./payroll";

defineProps<{ ties: Schemas["RunTie"][] }>();
</script>

<template>
  <div v-for="t in ties" :key="t.key" class="tie">
    <div>{{ t.sentence }}</div>
    <span>{{ figure(t.left) }}</span><i>{{ t.left === t.right ? "=" : t.holds ? "≈" : "≠" }}</i
    ><span :class="{ bad: !t.holds }">{{ figure(t.right) }}</span
    ><em :class="t.holds ? 'ok' : 'bad'"
      >{{ t.holds ? "✓" : "▲" }}<span class="sr">{{ t.holds ? "holds" : "does not hold" }}</span></em
    >
    <p v-if="t.holds && t.left !== t.right" class="q">{{ plain(apart(t.left, t.right)) }} apart: rounding, check by check</p>
    <p v-for="c in t.causes" :key="c.words" class="q">{{ c.words }}</p>
    <p v-for="r in t.rows" :key="r.words" class="q">{{ r.words }}</p>
  </div>
</template>

<style scoped>
.tie {
  display: grid;
  grid-template-columns: 1fr 24px 84px 18px;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
  line-height: 18px;
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.tie div,
.tie p {
  grid-column: 1 / 5;
  text-align: left;
  font-size: 12.5px;
}
.tie i,
.tie em {
  font-style: normal;
}
.tie i {
  text-align: center;
  color: var(--quiet);
}
.tie em {
  font-weight: 600;
}
</style>
