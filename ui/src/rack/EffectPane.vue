<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../api/client";
import { useClientId, useClientState } from "../api/queries";
import { day } from "../format";
import DayInput from "../frame/DayInput.vue";
import { words } from "../money";
import type { Row } from "./rows";

const props = defineProps<{ labels: number[]; account: number; rows: Row[]; targets: Schemas["Target"][] }>();
const emit = defineEmits<{ settle: [from: string, repost: boolean]; close: [] }>();
const id = useClientId();
const { data: state } = useClientState();
const to = computed(() => props.targets.find((t) => t.id === props.account));
const names = computed(() => props.rows.filter((r) => props.labels.includes(r.label_id)).map((r) => r.name));
const from = ref("");
const start = computed(() => from.value || (state.value?.client.opening_day ?? ""));
const { data: e } = useQuery({
  queryKey: ["client", id, "effect", computed(() => [...props.labels, props.account])],
  queryFn: () =>
    unwrap(
      api.POST("/api/clients/{client}/rack/effect", { params: { path: { client: id.value } }, body: { label_ids: props.labels, account_id: props.account } }),
    ),
});
</script>

<template>
  <h1>What it would move</h1>
  <div class="sub">{{ names.slice(0, 2).join(", ") }}{{ names.length > 2 ? ` and ${names.length - 2} more` : "" }}, to {{ to?.number }} {{ to?.name }}</div>
  <template v-if="e">
    <p>{{ e.words }}</p>
    <p v-for="w in e.warnings" :key="w" class="warn">{{ w }}</p>
    <div v-for="l in e.lines.slice(0, 8)" :key="`${l.entry_id}-${l.no}`" class="kv">
      <span
        >entry {{ l.entry_id }}, line {{ l.no }}<br /><span class="q s">now {{ l.account }}</span></span
      ><span
        >{{ words(l.amount) }}<br /><span class="q s">{{ day(l.day) }}, {{ l.locked ? "locked" : "unlocked" }}</span></span
      >
    </div>
    <div class="three">
      <button class="btn prime" :disabled="e.locked > 0" @click="emit('settle', '', true)">
        {{ e.postings ? "Repost the opening entry" : "Save it and post again" }}<small>reversal and new entry, dated as before</small>
      </button>
      <label class="q s" for="from-day">or from a date on</label><DayInput id="from-day" v-model="from" :min="state?.client.opening_day" width="100%" />
      <button class="btn" @click="emit('settle', start, false)">From {{ day(start) }} on<small>touches nothing posted</small></button>
      <button class="btn plain" @click="emit('close')">Cancel</button>
    </div>
  </template>
  <p v-else class="q">looking at what is posted…</p>
</template>

<style scoped>
.three {
  display: grid;
  gap: 7px;
  margin-top: 12px;
}
.three .btn {
  height: auto;
  padding: 5px 12px;
  line-height: 17px;
  text-align: left;
}
.three .btn small {
  display: block;
  font-weight: 400;
  font-size: 12px;
  line-height: 15px;
  color: var(--quiet);
}
.three .btn.prime small {
  color: #e3ebf1;
}
</style>
