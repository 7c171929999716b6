<script setup lang="ts">
import { computed, ref } from "vue";
import { type Schemas } from "../api/client";
import { useGridRows } from "./gridRows";
import RawCell from "./RawCell.vue";
import { meanings, rowClassWords } from "./meanings";
import { columnsOf, holdsFigures } from "./widths";

const props = defineProps<{ file: Schemas["Batch"]; open: boolean; busy: boolean }>();
const emit = defineEmits<{ change: [s: Schemas["Setting"]]; fix: [f: Schemas["Fix"]] }>();
const box = ref<HTMLElement>();
const mark = ref({ record: 0, column: 0 });
const cells = new Map<string, InstanceType<typeof RawCell>>();

const columns = computed(() => props.file.reading?.columns ?? []);
const gutter = computed(() => Math.max(34, 12 + 8 * String(props.file.records).length));
const { rows, items, at, reload, longest } = useGridRows(() => props.file, box);
const layout = computed(() =>
  columnsOf(
    gutter.value,
    columns.value.map((c) => c.meaning),
    longest.value,
  ),
);
const template = computed(() => layout.value.template);
const least = computed(() => layout.value.least);
const isMoney = (i: number) => holdsFigures(columns.value[i]?.meaning ?? "");
const marks = computed(() => {
  const m = new Map<string, string>();
  for (const f of props.file.reading?.findings ?? [])
    if (f.column) m.set(`${f.record}:${f.column}`, f.severity === "note" ? "ask" : f.severity === "hold-posting" ? "ask" : "cell");
  for (const q of props.file.reading?.questions ?? []) if (q.column) m.set(`${q.record}:${q.column}`, "ask");
  return m;
});

// A heading or a total may run over the empty cell beside it.
const runsOver = (row: number, i: number) => {
  const r = at(row);
  return !!r && ["section", "subtotal", "grand_total"].includes(r.class) && !isMoney(i) && i + 1 < columns.value.length && !shown(r, i + 1) && !!shown(r, i);
};

function goTo(record: number, column: number) {
  mark.value = { record, column };
  rows.value.scrollToIndex(Math.max(0, record - 1), { align: "center" });
}
function keep(record: number, column: number, cell: unknown) {
  if (cell) cells.set(`${record}:${column}`, cell as InstanceType<typeof RawCell>);
  else cells.delete(`${record}:${column}`);
}
const shown = (r: Schemas["GridRow"], i: number) => r.fixed?.[String(i + 1)] ?? r.cells[i] ?? "";
// The grid works from the keyboard: arrows move, Enter or F2 corrects the cell.
function onKey(e: KeyboardEvent) {
  if (e.target !== box.value) return;
  const m = mark.value.record ? mark.value : { record: 1, column: 1 };
  const by: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
    PageUp: [-15, 0],
    PageDown: [15, 0],
  };
  const step = by[e.key];
  if (step) goTo(Math.min(props.file.records, Math.max(1, m.record + step[0])), Math.min(columns.value.length, Math.max(1, (m.column || 1) + step[1])));
  else if ((e.key === "Enter" || e.key === "F2") && props.open && mark.value.column) {
    cells.get(`${m.record}:${m.column}`)?.edit();
  } else return;
  e.preventDefault();
  e.stopPropagation();
}
defineExpose({ goTo, reload });
</script>

<template>
  <div
    ref="box"
    class="rawgrid"
    data-wide
    :style="{ '--least': least }"
    role="table"
    :aria-rowcount="file.records + 1"
    :aria-label="`Rows of ${file.name}; arrows move, Enter corrects a cell`"
    @keydown="onKey"
    tabindex="0"
  >
    <div class="heads line" role="row" :style="{ gridTemplateColumns: template }">
      <span role="columnheader"><span class="sr">row</span></span
      ><span role="columnheader"><span class="sr">class</span></span>
      <span v-for="c in columns" :key="c.index" role="columnheader">
        <select
          class="pick"
          :class="{ none: c.meaning === 'ignore' }"
          :value="c.meaning"
          :disabled="!open || busy"
          :aria-label="`Column ${c.index} ${c.title} is`"
          @change="emit('change', { key: `column.${c.index}`, value: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="m in meanings(file.purpose)" :key="m.value" :value="m.value">{{ m.words }}</option>
        </select>
      </span>
    </div>
    <div role="rowgroup" :style="{ height: `${rows.getTotalSize()}px`, position: 'relative' }">
      <div
        v-for="v in items"
        :key="v.index"
        class="line"
        role="row"
        :aria-rowindex="v.index + 2"
        :class="[at(v.index)?.class, { mark: mark.record === v.index + 1 }]"
        :style="{ gridTemplateColumns: template, transform: `translateY(${v.start}px)` }"
      >
        <span class="ln" role="rowheader">{{ v.index + 1 }}</span>
        <span class="cls" role="cell">
          <select
            v-if="open && at(v.index)"
            :value="at(v.index)?.class"
            :aria-label="`Row ${v.index + 1} is`"
            @change="emit('fix', { record: v.index + 1, class: ($event.target as HTMLSelectElement).value })"
          >
            <option v-for="(w, k) in rowClassWords" :key="k" :value="k" :disabled="k === 'refused' || k === 'blank'">{{ w }}</option>
          </select>
          <template v-else>{{ rowClassWords[at(v.index)?.class ?? ""] ?? "" }}</template>
        </span>
        <RawCell
          v-for="(c, i) in columns"
          :key="c.index"
          :ref="(el) => keep(v.index + 1, i + 1, el)"
          :row="v.index + 1"
          :text="at(v.index) ? shown(at(v.index)!, i) : ''"
          :file="at(v.index)?.cells[i]"
          :fixed="at(v.index)?.fixed?.[String(i + 1)] !== undefined"
          :mark="marks.get(`${v.index + 1}:${i + 1}`)"
          :open="open"
          :class="{ n: isMoney(i), over: runsOver(v.index, i), hit: mark.record === v.index + 1 && mark.column === i + 1 }"
          @fix="(text) => emit('fix', { record: v.index + 1, column: i + 1, text })"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.rawgrid {
  flex: 1 1 auto;
  min-height: 150px;
  overflow: auto;
  background: var(--card);
  border: 1px solid var(--rule);
  font-size: 12.5px;
}
.line {
  display: grid;
  height: 24px;
  line-height: 18px;
  width: 100%;
  min-width: var(--least);
}
.line:not(.heads) {
  position: absolute;
  left: 0;
  top: 0;
}
.heads {
  position: sticky;
  top: 0;
  z-index: 3;
  height: 36px;
  background: var(--paper);
  border-bottom: 1px solid var(--rule-firm);
  align-items: center;
}
.pick {
  width: calc(100% - 4px);
  height: 27px;
  border: 1px solid #8f8371;
  border-radius: 4px;
  background: var(--card);
  color: var(--ink);
  padding: 0 4px;
  font: 600 12.5px/1 var(--body);
}
.pick.none {
  font-weight: 400;
  color: var(--quiet);
}
.line > span {
  padding: 3px 5px 2px;
  border-bottom: 1px solid #efe8db;
  border-right: 1px solid #efe8db;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.heads > span {
  border: 0;
  padding: 0;
}
.line > .ln {
  text-align: right;
  color: var(--quiet);
  font-size: 11.5px;
  background: var(--paper);
  border-right: 0;
}
.line > .cls {
  background: var(--paper);
  border-right-color: var(--rule-firm);
  padding: 1px 2px;
  font-size: 11.5px;
  color: var(--brass-text);
}
.cls select {
  width: 100%;
  border: 0;
  background: none;
  font: 11.5px/18px var(--body);
  color: var(--brass-text);
  height: 20px;
  padding: 0;
}
.line.row .cls select {
  color: var(--quiet);
}
.line:not(.row):not(.refused):not(.heads) .c {
  color: var(--quiet);
  background: #fdfbf7;
}
.line.header .c {
  font-weight: 600;
}
.line.title .c,
.line.note .c,
.line.page_header .c,
.line.page_footer .c {
  overflow: visible;
  border-right-color: transparent;
}
.c.over {
  position: relative;
  z-index: 1;
  overflow: visible;
  border-right-color: transparent;
}
.line.title .c:empty,
.line.note .c:empty {
  background: none !important;
}
.line.grand_total .c {
  border-top: 1px solid var(--rule-firm);
}
.line.mark .ln,
.line.mark .cls {
  background: var(--hand-pile);
}
.line.mark .c {
  background: var(--hand) !important;
}
</style>
