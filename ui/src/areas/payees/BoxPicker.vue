<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from "vue";
import type { Schemas } from "../../api/client";
import { findBoxes } from "./payees";

// A box, typed by form and number or by what it is called.
const props = defineProps<{ name: string; rules: Schemas["PayeesRule"][]; first?: string }>();
const emit = defineEmits<{ take: [box: string]; out: []; line: []; close: [] }>();
const text = ref("");
const at = ref(0);
const box = ref<HTMLInputElement>();
onMounted(() => nextTick(() => box.value?.focus()));
watch(text, () => (at.value = 0));
const options = computed(() => {
  const list = findBoxes(text.value, props.rules);
  const top = !text.value && list.find((r) => r.box === props.first);
  return top ? [top, ...list.filter((r) => r !== top)] : list;
});
function onKey(e: KeyboardEvent) {
  const n = options.value.length + 1;
  if (e.key === "ArrowDown") at.value = Math.min(at.value + 1, n);
  else if (e.key === "ArrowUp") at.value = Math.max(at.value - 1, 0);
  else if (e.key === "Enter") choose(at.value);
  else if (e.key === "Escape") emit("close");
  else return;
  e.preventDefault();
  e.stopPropagation();
}
function choose(i: number) {
  if (i < options.value.length) emit("take", options.value[i]!.box);
  else if (i === options.value.length) emit("line");
  else emit("out");
}
</script>

<template>
  <div class="pick-box">
    <label class="sr" for="box-in">Box for {{ name }}</label>
    <input
      id="box-in"
      ref="box"
      v-model="text"
      class="input"
      role="combobox"
      aria-expanded="true"
      aria-controls="box-opts"
      :aria-activedescendant="`box-opt-${at}`"
      placeholder="NEC 1, rents, attorney…"
      @keydown="onKey"
      @blur="emit('close')"
    />
    <div id="box-opts" role="listbox" :aria-label="`Boxes for ${name}`" @mousedown.prevent>
      <button
        v-for="(o, i) in [...options.map((r) => ({ k: r.box, w: r.caption })), { k: '', w: 'decide line by line' }, { k: '', w: 'leave it out' }]"
        :id="`box-opt-${i}`"
        :key="o.k + o.w"
        class="opt"
        :class="{ first: i === at }"
        role="option"
        :aria-selected="i === at"
        tabindex="-1"
        @click="choose(i)"
      >
        <b>{{ o.k }}</b><span>{{ o.w }}</span>
      </button>
    </div>
  </div>
</template>

<style scoped>
.pick-box {
  position: relative;
}
#box-opts {
  position: absolute;
  z-index: 5;
  left: 0;
  top: 30px;
  width: 300px;
  max-height: 260px;
  overflow: auto;
  background: var(--card);
  border: 1px solid var(--rule-firm);
  box-shadow: 0 3px 10px #3a2b2230;
}
.opt {
  display: grid;
  grid-template-columns: 62px minmax(0, 1fr);
  width: 100%;
  min-height: 28px;
  align-items: center;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: var(--card);
  font: 400 13px/18px var(--body);
  color: var(--ink);
  text-align: left;
  padding: 3px 8px;
  cursor: pointer;
  white-space: normal;
}
.opt.first {
  background: #e9eef2;
}
</style>
