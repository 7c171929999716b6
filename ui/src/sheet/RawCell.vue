<script setup lang="ts">
import { nextTick, ref, useTemplateRef } from "vue";

// One cell of a file as it came: shown, corrected in place, with what stood in the file.
const props = defineProps<{ row: number; text: string; file?: string; fixed: boolean; mark?: string; open: boolean }>();
const emit = defineEmits<{ fix: [text: string] }>();
const typed = ref<string>();
const input = useTemplateRef<HTMLInputElement>("input");
function edit() {
  if (!props.open) return;
  typed.value = props.text;
  void nextTick(() => input.value?.focus());
}
function save() {
  const now = typed.value;
  typed.value = undefined;
  if (now !== undefined && now !== props.text) emit("fix", now);
}
defineExpose({ edit });
</script>

<template>
  <span role="cell" class="c" :class="[{ fixed }, mark]" :title="fixed ? `in the file: ${file ?? ''}` : undefined" @dblclick="edit">
    <input
      v-if="typed !== undefined"
      ref="input"
      v-model="typed"
      class="cellin"
      :aria-label="`Correct row ${row}`"
      @blur="save"
      @keydown.enter="save"
      @keydown.esc="typed = undefined"
    />
    <button v-else-if="open && mark" class="quiet-link" :aria-label="`Correct ${text || 'empty cell'} in row ${row}`" @click="edit">
      {{ text || "·" }}
    </button>
    <template v-else>{{ text }}</template>
  </span>
</template>

<style scoped>
.c.fixed {
  font-weight: 650;
  color: var(--holds) !important;
}
.c.cell {
  background: var(--fails-wash) !important;
  color: var(--fails) !important;
  font-weight: 650;
  outline: 2px solid var(--fails);
  outline-offset: -2px;
}
.c.ask {
  outline: 2px solid var(--brass);
  outline-offset: -2px;
}
.cellin {
  width: 100%;
  height: 20px;
  border: 1px solid var(--slate);
  font: inherit;
  text-align: inherit;
  padding: 0 2px;
}
.c .quiet-link {
  width: 100%;
  text-align: inherit;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
