<script setup lang="ts">
import Select from "ant-design-vue/es/select";
import { computed, nextTick, onMounted, ref } from "vue";

// A labelled choice among options; long lists are searched by typing.
const props = defineProps<{ id: string; label: string; options: { value: string | number; label: string }[]; disabled?: boolean }>();
const value = defineModel<string | number>({ required: true });
const box = ref<HTMLElement>();
const search = computed(() => props.options.length > 9);
const filter = (text: string, o?: { label?: string }) => (o?.label ?? "").toLowerCase().includes(text.toLowerCase());

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
      :show-search="search"
      :filter-option="filter as never"
      :dropdown-match-select-width="false"
      style="width: 100%"
      @dropdown-visible-change="mend"
    />
  </div>
</template>
