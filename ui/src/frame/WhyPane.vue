<script setup lang="ts">
import WholeText from "./WholeText.vue";
import { computed, ref, watch } from "vue";
import { type WhyOf, useClientId, useWhy } from "../api/queries";
import { moment } from "../format";
import { words } from "../money";

const props = defineProps<{ what: WhyOf }>();
const id = useClientId();
const from = ref(0);
watch(
  () => JSON.stringify(props.what),
  () => (from.value = 0),
);
const what = computed(() => ({ ...props.what, from: from.value || undefined }));
const { data: why, isPending } = useWhy(what);
</script>

<template>
  <p v-if="isPending" class="q">looking it up…</p>
  <template v-else-if="why">
    <p>{{ why.words }}</p>
    <div v-for="s in why.sources" :key="s.fact_id" class="src">
      from
      <RouterLink :to="`/c/${id}/sheet/${s.batch_id}?row=${s.record}`"
        ><b>{{ s.file }}</b></RouterLink
      ><br />
      <template v-if="s.sheet">“{{ s.sheet }}”, </template>row {{ s.record }}, cell {{ s.cell }}: {{ words(s.amount) }}<br />
      <code><WholeText :text="s.raw" /></code>
      <template v-if="s.fixed"><br />corrected to {{ s.fixed }}</template>
      <br />{{ s.kind === "old account" ? "old" : s.kind }} {{ s.label }} → {{ s.mapping
      }}<template v-if="s.mapped_by">, by {{ s.mapped_by }} {{ moment(s.mapped_at ?? "") }}</template> <br />taken in {{ moment(s.taken_at) }} by
      {{ s.taken_by }}
    </div>
    <p v-if="why.more || why.from" class="q pages">
      Rows {{ why.from + 1 }} to {{ why.from + why.sources.length }} of {{ (why.from + why.sources.length + why.more).toLocaleString("en-US") }}
      <button v-if="why.from" class="btn small" @click="from = Math.max(0, from - 50)">Earlier 50</button>
      <button v-if="why.more" class="btn small" @click="from += 50">Next {{ Math.min(50, why.more) }}</button>
    </p>
  </template>
</template>

<style scoped>
.pages {
  display: flex;
  gap: 8px;
  align-items: center;
}
code {
  font:
    12px/17px ui-monospace,
    "DejaVu Sans Mono",
    monospace;
  color: var(--ink);
  overflow-wrap: anywhere;
}
.src {
  overflow-wrap: anywhere;
}
</style>
