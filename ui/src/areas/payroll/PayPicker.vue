<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from "vue";
import type { Schemas } from "../../api/client";
import { useChart } from "../../api/queries";
import AccountForm from "../chart/AccountForm.vue";
import { find, type Need } from "./payroll";

// Where one half of a pay item goes: typed by number, name, kind or role, or made
// here without leaving the run.
const props = defineProps<{ need: Need; name: string; targets: Schemas["Target"][] }>();
const emit = defineEmits<{ take: [account: number]; close: [] }>();
const { data: chart } = useChart();
const text = ref("");
const at = ref(0);
const creating = ref(false);
const box = ref<HTMLInputElement>();
onMounted(() => nextTick(() => box.value?.focus()));
const options = computed(() => {
  const list = find(text.value, props.need.facet, props.targets);
  const s = props.need.suggestion;
  if (text.value || !s) return list;
  const top = props.targets.find((t) => t.id === s.target_id);
  return top ? [top, ...list.filter((t) => t.id !== top.id)] : list;
});
watch(text, () => (at.value = 0));
const kinds: Record<string, [string, string]> = {
  expense: ["Expense", "payroll expense"],
  liability: ["Liability", "payroll liability"],
  contra: ["Expense", "payroll expense"],
  bank: ["Asset", "bank"],
};
const start = computed(() => {
  const like = options.value[0] ?? props.targets.find((t) => t.kind === kinds[props.need.facet]![0]);
  const free = like ? String(Number(like.number) + 1) : "";
  return {
    number: props.targets.some((t) => t.number === free) ? "" : free,
    name: text.value || props.name,
    kind: chart.value?.kinds.find((k) => k.kind.toLowerCase() === kinds[props.need.facet]![0].toLowerCase())?.kind ?? "",
    sort: kinds[props.need.facet]![1],
    active: true,
    role: "",
    tax_code: "",
    note: "",
    parent_id: 0,
  } as unknown as Schemas["Account"];
});
function onKey(e: KeyboardEvent) {
  const n = options.value.length;
  if (e.key === "ArrowDown") at.value = Math.min(at.value + 1, n);
  else if (e.key === "ArrowUp") at.value = Math.max(at.value - 1, 0);
  else if (e.key === "Enter") {
    if (at.value === n) creating.value = true;
    else emit("take", options.value[at.value]!.id);
  } else if (e.key === "Escape") emit("close");
  else return;
  e.preventDefault();
  e.stopPropagation();
}
</script>

<template>
  <div class="pick">
    <label class="q" :for="`pay-${need.item_id}-${need.facet}`"
      >{{ need.facet }}<template v-if="need.group"> of {{ need.group }}</template></label
    >
    <input
      :id="`pay-${need.item_id}-${need.facet}`"
      ref="box"
      v-model="text"
      class="input"
      role="combobox"
      aria-expanded="true"
      aria-controls="pay-opts"
      :aria-activedescendant="`pay-opt-${at}`"
      placeholder="number, name, kind or role"
      @keydown="onKey"
    />
    <div id="pay-opts" role="listbox" :aria-label="`Accounts for ${name}`" @mousedown.prevent>
      <button
        v-for="(o, i) in options"
        :id="`pay-opt-${i}`"
        :key="o.id"
        class="opt"
        :class="{ first: i === at }"
        role="option"
        :aria-selected="i === at"
        tabindex="-1"
        @click="emit('take', o.id)"
      >
        <b>{{ o.number }}</b><span>{{ o.name }}</span
        ><small>{{ o.kind }}</small>
      </button>
      <button
        :id="`pay-opt-${options.length}`"
        class="opt new"
        :class="{ first: at === options.length }"
        role="option"
        :aria-selected="at === options.length"
        tabindex="-1"
        @click="creating = true"
      >
        <b>+</b><span>create “{{ text || name }}” here</span><small />
      </button>
    </div>
    <AccountForm v-if="creating && chart" :chart="chart" :start="start" @close="creating = false" @saved="(a: Schemas['Account']) => emit('take', a.id)" />
  </div>
</template>

<style scoped>
.pick {
  margin: 8px 0;
}
.opt {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr) auto;
  width: 100%;
  min-height: 26px;
  align-items: center;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: var(--card);
  font: 400 13px/18px var(--body);
  color: var(--ink);
  text-align: left;
  padding: 0 8px;
  cursor: pointer;
}
.opt.first {
  background: #e9eef2;
}
.opt span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.opt small {
  color: var(--quiet);
  font-size: 12px;
}
.opt.new {
  color: var(--slate);
}
</style>
