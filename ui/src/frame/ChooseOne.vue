<script setup lang="ts">
import Select from "ant-design-vue/es/select";
import { nextTick, onMounted, ref } from "vue";

// A labelled choice among options, found by typing: what begins like the text comes before what
// only holds it, so that "partnership" is not "LLC taxed as partnership".
const props = defineProps<{ id: string; label: string; options: { value: string | number; label: string }[]; disabled?: boolean }>();
const value = defineModel<string | number>({ required: true });
const box = ref<HTMLElement>();
const text = ref("");
const fits = (o?: { label?: string }) => (o?.label ?? "").toLowerCase().indexOf(text.value.toLowerCase());
const filter = (t: string, o?: { label?: string }) => ((text.value = t), fits(o) >= 0);
const nearest = (a: { label?: string }, b: { label?: string }) => Math.sign(fits(a)) - Math.sign(fits(b));

// The widget names a list that is not there until it opened once, and does not
// say whether it is open: both are mended here for those who listen.
async function mend(open: boolean) {
  await nextTick();
  const input = box.value?.querySelector("input");
  if (!input) return;
  input.setAttribute("aria-expanded", String(open));
  if (!open) for (const a of ["aria-owns", "aria-controls", "aria-activedescendant"]) input.removeAttribute(a);
  else input.setAttribute("aria-controls", `${props.id}_list`);
}
onMounted(() => void mend(false));
</script>

<template>
  <div ref="box" class="field">
    <label :for="id">{{ label }}</label>
    <Select
      :id="id"
      v-model:value="value"
      :options="options"
      :disabled="disabled"
      :show-search="true"
      :filter-option="filter as never"
      :filter-sort="nearest as never"
      :dropdown-match-select-width="false"
      style="width: 100%"
      @dropdown-visible-change="mend"
    />
  </div>
</template>
