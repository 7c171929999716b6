<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../api/client";
import StatePeg from "../frame/StatePeg.vue";
import WhyPane from "../frame/WhyPane.vue";
import { words } from "../money";
import type { Row } from "./rows";

const props = defineProps<{ row: Row; targets: Schemas["Target"][]; picked: number }>();
const emit = defineEmits<{ split: [] }>();
const nameOf = (id: number) => {
  const t = props.targets.find((x) => x.id === id);
  return t ? `${t.number} ${t.name}` : "";
};
const target = computed(() => props.targets.find((t) => t.id === props.row.target_id));
</script>

<template>
  <h1>{{ row.name || row.number }}</h1>
  <div class="sub">old {{ row.number || row.outside_id || "account" }}{{ row.kind ? `, ${row.kind}` : "" }}, {{ words(row.seen) }}</div>
  <div class="kv">
    <span>State</span><span><StatePeg :state="row.state" :revisit="row.revisit" /></span>
  </div>
  <div v-if="target" class="kv">
    <span>{{ row.state === "suggested" ? "Suggested" : "Goes to" }}</span><span>{{ target.number }} {{ target.name }}</span>
  </div>
  <div v-for="p in row.parts ?? []" :key="p.account_id" class="kv">
    <span>of it to {{ nameOf(p.account_id) }}</span
    ><span>{{ words(p.amount) }}</span>
  </div>
  <div v-if="row.evidence" class="kv">
    <span>Evidence</span><span>{{ row.evidence }}</span>
  </div>
  <div v-if="row.from" class="kv">
    <span>From</span><span>{{ row.from }}</span>
  </div>
  <p style="margin-top: 8px">
    <button class="btn small" aria-haspopup="dialog" @click="emit('split')">{{ row.parts?.length ? "Change the split…" : "Split it over several…" }}</button>
  </p>
  <h2>Where it comes from</h2>
  <WhyPane :what="{ label: row.label_id }" />
</template>
