<script setup lang="ts">
import DatePicker from "ant-design-vue/es/date-picker";
import { computed, ref, watch } from "vue";
import { day, dayTyped } from "../format";

// Days are typed, in any usual form, and shown as "1 Jul 2026" everywhere; the value is the ISO
// date. What is typed counts when the field is left, and what is no day is said on the spot. The
// calendar opens only when it is asked for, so that it never lies over the next fields.
const props = defineProps<{ id: string; label?: string; width?: string; min?: string; none?: string }>();
const value = defineModel<string>({ default: "" });
const text = ref("");
const open = ref(false);
const field = ref<HTMLInputElement>();
// In a field a day has plain spaces, as a person types it.
const typed = (d: string) => day(d).replaceAll("\u00a0", " ");
watch(value, (v) => (text.value = v ? typed(v) : ""), { immediate: true });

const wrong = computed(() => {
  if (!text.value.trim() || (value.value && text.value === typed(value.value))) return "";
  const d = dayTyped(text.value);
  if (!d) return `${text.value.trim()} is no day; type it like 1 Jul 2026`;
  return props.min && d < props.min ? `${day(d)} is before ${day(props.min)}` : "";
});
const said = ref("");
function take() {
  said.value = wrong.value;
  field.value?.setCustomValidity(wrong.value);
  if (wrong.value) return;
  value.value = dayTyped(text.value) ?? "";
  text.value = value.value ? typed(value.value) : "";
}
function picked(v: unknown) {
  open.value = false;
  text.value = typeof v === "string" ? typed(v) : "";
  field.value?.dispatchEvent(new Event("change", { bubbles: true })); // as if it had been typed
  field.value?.focus();
}
function mend() {
  field.value?.setCustomValidity("");
  said.value = "";
}
const early = (d: { format: (f: string) => string }) => !!props.min && d.format("YYYY-MM-DD") < props.min;
</script>

<template>
  <label v-if="label" class="sr" :for="id">{{ label }}</label>
  <span class="day" :style="{ width: width ?? '132px' }"
    ><input
      :id="id"
      ref="field"
      v-model="text"
      class="input"
      :class="{ bad: said }"
      autocomplete="off"
      :placeholder="none ?? 'day'"
      :aria-invalid="!!said"
      :aria-describedby="said ? `${id}-said` : undefined"
      @input="mend"
      @change="take"
      @keydown.enter.prevent="take"
      @keydown.down.prevent="open = true"
    /><button type="button" class="cal" tabindex="-1" aria-label="Pick it in a calendar" title="Pick it in a calendar" @mousedown.prevent @click="open = !open">
      ▾</button
    ><span class="under" inert
      ><DatePicker
        :open="open"
        :value="value || undefined"
        value-format="YYYY-MM-DD"
        :disabled-date="early"
        :show-today="true"
        @update:value="picked"
        @open-change="(o: boolean) => (open = o)" /></span
    ><span v-if="said" :id="`${id}-said`" class="saying" role="alert">{{ said }}</span></span
  >
</template>

<style scoped>
.day {
  position: relative;
  display: inline-block;
}
.input {
  padding-right: 24px;
}
.bad {
  border-color: var(--fails);
}
.cal {
  position: absolute;
  top: 1px;
  right: 1px;
  width: 24px;
  height: 28px;
  border: 0;
  background: none;
  color: var(--quiet);
  cursor: pointer;
}
.under {
  position: absolute;
  left: 0;
  top: 0;
  opacity: 0;
  pointer-events: none;
  z-index: -1;
}
.saying {
  display: block;
  font-size: 12px;
  line-height: 16px;
  white-space: normal;
  color: var(--fails);
}
</style>
