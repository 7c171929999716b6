<script setup lang="ts">
import { computed, nextTick, onMounted, ref } from "vue";
import type { Answer, Ask } from "./ask";
import VeilBox from "./VeilBox.vue";

// Asked before an act that cannot be undone or moves much. Cancel has the focus, so Enter and
// Escape both change nothing.
const props = defineProps<{ ask: Ask }>();
const emit = defineEmits<{ answer: [a: Answer | undefined] }>();
const sure = ref(false);
const reason = ref("");
const cancel = ref<HTMLButtonElement>();
onMounted(() => nextTick(() => cancel.value?.focus()));
const missing = computed(() => {
  if (props.ask.doubts?.length && !sure.value) return "Tick the box above first";
  return props.ask.mustReason && !reason.value.trim() ? "Give a reason first" : "";
});
</script>

<template>
  <VeilBox :words="ask.title" :width="520" @close="emit('answer', undefined)">
    <dl v-if="ask.facts.length">
      <template v-for="[name, value] in ask.facts" :key="name"
        ><dt>{{ name }}</dt>
        <dd>{{ value }}</dd></template
      >
    </dl>
    <p>{{ ask.undo }}</p>
    <div v-if="ask.doubts?.length" class="doubts">
      <p v-for="d in ask.doubts" :key="d">{{ d }}</p>
      <label><input v-model="sure" type="checkbox" /> I have read this. It is right to go on.</label>
    </div>
    <div v-if="ask.reason" class="field">
      <label for="ask-reason">{{ ask.reason }}</label><input id="ask-reason" v-model="reason" class="input" maxlength="300" autocomplete="off" />
    </div>
    <div class="acts">
      <button ref="cancel" class="btn" @click="emit('answer', undefined)">Cancel</button>
      <button class="btn grave" :disabled="!!missing" :title="missing" @click="emit('answer', { sure, reason: reason.trim() })">{{ ask.act }}</button>
    </div>
  </VeilBox>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 4px 16px;
  margin: 12px 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  font-variant-numeric: tabular-nums;
  overflow-wrap: anywhere;
}
p {
  line-height: 19px;
}
.doubts {
  margin: 12px 0 0;
  padding: 8px 12px;
  background: var(--waits-wash, #f7f1e6);
  border-left: 3px solid var(--waits, #a06a1b);
}
.doubts p {
  margin-bottom: 4px;
}
.doubts label {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 6px;
  font-weight: 600;
}
.field {
  margin-top: 12px;
}
.acts {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  margin-top: 18px;
}
.acts .btn:focus {
  outline: 2px solid var(--slate);
  outline-offset: 2px;
}
.grave {
  border-color: var(--fails);
  color: var(--fails);
  font-weight: 600;
  white-space: normal;
  height: auto;
  min-height: 30px;
}
.grave:disabled {
  color: var(--quiet);
  border-color: var(--rule-firm);
}
</style>
