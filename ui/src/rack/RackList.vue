<script setup lang="ts">
import { useVirtualizer } from "@tanstack/vue-virtual";
import { computed, nextTick, ref, watch } from "vue";
import type { Schemas } from "../api/client";
import StatePeg from "../frame/StatePeg.vue";
import { useKeys } from "../keys";
import { isCredit, isZero, plain } from "../money";
import ReasonBox from "./ReasonBox.vue";
import type { Row } from "./rows";
import TargetPicker from "./TargetPicker.vue";

const props = defineProps<{ rows: Row[]; targets: Schemas["Target"][] }>();
const at = defineModel<number>("at", { required: true });
const picked = defineModel<Set<number>>("picked", { required: true });
const emit = defineEmits<{ set: [account: number]; leaveOut: [reason: string]; revisit: [on: boolean]; takeBack: []; undo: []; nextLoose: [] }>();
const box = ref<HTMLElement>();
const typing = ref(0);
const asking = ref(false);
const byId = computed(() => new Map(props.targets.map((t) => [t.id, t])));
const list = useVirtualizer(computed(() => ({ count: props.rows.length, getScrollElement: () => box.value ?? null, estimateSize: () => 41, overscan: 16 })));
const index = computed(() => props.rows.findIndex((r) => r.label_id === at.value));
const hand = computed(() => props.rows[index.value]);

watch(at, () => {
  typing.value = 0;
  asking.value = false;
  void nextTick(() => index.value >= 0 && list.value.scrollToIndex(index.value));
});
function move(n: number) {
  const r = props.rows[Math.max(0, Math.min(props.rows.length - 1, index.value + n))];
  if (r) at.value = r.label_id;
}
function pick(id: number) {
  const s = new Set(picked.value);
  if (!s.delete(id)) s.add(id);
  picked.value = s;
}
const top = computed(() => {
  const v = list.value.getVirtualItems().find((x) => x.index === index.value);
  return v ? v.start + 41 : 0;
});
function take(account: number) {
  typing.value = 0;
  box.value?.focus();
  emit("set", account);
}
useKeys([
  { key: "j", words: "next old account", run: () => move(1) },
  { key: "k", words: "previous old account", run: () => move(-1) },
  { key: "ArrowDown", words: "next old account", run: () => move(1) },
  { key: "ArrowUp", words: "previous old account", run: () => move(-1) },
  {
    key: "Enter",
    words: "take the suggestion, or set a target",
    run: () => (hand.value?.state === "suggested" ? emit("set", hand.value.target_id) : (typing.value = at.value)),
  },
  { key: "t", words: "set a target", run: () => (typing.value = at.value) },
  { key: "c", words: "create an account here", run: () => (typing.value = at.value) },
  { key: "x", words: "leave out, with a reason", run: () => (asking.value = true) },
  { key: "r", words: "mark for another look, or unmark", run: () => hand.value && emit("revisit", !hand.value.revisit) },
  { key: "z", words: "undo the last choice", run: () => emit("undo") },
  { key: "u", words: "take this choice back", run: () => emit("takeBack") },
  { key: "s", words: "choose this row too", run: () => pick(at.value) },
  { key: "p", words: "next loose thing", run: () => emit("nextLoose") },
]);
defineExpose({ next: () => move(1) });
// The column of amounts is as wide as the longest of them: no figure is cut.
const seen = computed(() => `${Math.max(92, props.rows.reduce((w, r) => Math.max(w, plain(r.seen).length), 0) * 8 + 14)}px`);
</script>

<template>
  <div
    ref="box"
    class="racklist"
    :style="{ '--seen': seen }"
    role="grid"
    tabindex="0"
    :aria-rowcount="rows.length + 1"
    aria-label="Old accounts and their targets"
  >
    <div class="cols rackhead" role="row" aria-rowindex="1">
      <span role="columnheader"><span class="sr">chosen</span></span
      ><span role="columnheader">Old account</span><span role="columnheader" class="n">Seen</span><span role="columnheader" style="padding-left: 14px">Peg</span
      ><span role="columnheader">Target</span><span role="columnheader">Evidence</span>
    </div>
    <div role="rowgroup" :style="{ height: `${list.getTotalSize() + (typing ? 260 : 0)}px`, position: 'relative' }">
      <div
        v-for="v in list.getVirtualItems()"
        :key="rows[v.index]!.label_id"
        class="cols row"
        role="row"
        :aria-rowindex="v.index + 2"
        :aria-selected="rows[v.index]!.label_id === at"
        :class="{ hand: rows[v.index]!.label_id === at }"
        :style="{ transform: `translateY(${v.start}px)` }"
        @click="at = rows[v.index]!.label_id"
      >
        <span role="gridcell"
          ><input
            type="checkbox"
            :checked="picked.has(rows[v.index]!.label_id)"
            :aria-label="`Choose ${rows[v.index]!.name}`"
            @click.stop
            @change="pick(rows[v.index]!.label_id)"
        /></span>
        <span role="gridcell"
          ><b v-if="rows[v.index]!.label_id === at">{{ rows[v.index]!.name || rows[v.index]!.number }}</b
          ><template v-else>{{ rows[v.index]!.name || rows[v.index]!.number }}</template
          ><small>{{ rows[v.index]!.number ? `old ${rows[v.index]!.number}` : rows[v.index]!.group }}</small></span
        >
        <span role="gridcell" class="n"
          >{{ isZero(rows[v.index]!.seen) ? "0.00" : plain(rows[v.index]!.seen)
          }}<small>{{ isCredit(rows[v.index]!.seen) ? "credit, " : "" }}row {{ rows[v.index]!.record }}</small></span
        >
        <span role="gridcell" style="padding-left: 14px"><StatePeg :state="rows[v.index]!.state" :revisit="rows[v.index]!.revisit" /></span>
        <span role="gridcell" class="tgt">
          <TargetPicker
            v-if="typing === rows[v.index]!.label_id"
            :row="rows[v.index]!"
            :targets="targets"
            @take="take"
            @close="
              typing = 0;
              box?.focus();
            "
          />
          <ReasonBox
            v-else-if="asking && rows[v.index]!.label_id === at"
            @take="
              (r) => {
                asking = false;
                box?.focus();
                emit('leaveOut', r);
              }
            "
            @close="
              asking = false;
              box?.focus();
            "
          />
          <button
            v-else
            class="quiet-link"
            :class="{ q: !rows[v.index]!.target_id }"
            @click.stop="
              at = rows[v.index]!.label_id;
              $nextTick(() => (typing = rows[v.index]!.label_id));
            "
          >
            <span class="sr">Set the target of {{ rows[v.index]!.name }}: </span
            ><template v-if="byId.get(rows[v.index]!.target_id)"
              ><b class="num">{{ byId.get(rows[v.index]!.target_id)!.number }}</b
              >{{ byId.get(rows[v.index]!.target_id)!.name
              }}<small :class="{ ind: byId.get(rows[v.index]!.target_id)!.number }"
                >{{ byId.get(rows[v.index]!.target_id)!.kind }}{{ byId.get(rows[v.index]!.target_id)!.active ? "" : ", inactive" }}</small
              ></template
            >
            <template v-else-if="rows[v.index]!.state === 'left out'">–</template>
            <template v-else>type number, name, kind…</template>
          </button>
        </span>
        <span role="gridcell" class="ev"
          >{{ rows[v.index]!.state === "left out" ? rows[v.index]!.reason : rows[v.index]!.evidence
          }}<small v-if="rows[v.index]!.suggestion">confidence {{ rows[v.index]!.suggestion!.confidence.toFixed(2) }}</small
          ><small v-else-if="rows[v.index]!.by">by {{ rows[v.index]!.by }}{{ rows[v.index]!.from ? `, from ${rows[v.index]!.from}` : "" }}</small></span
        >
      </div>
      <!-- A grid holds rows of cells, and so does what opens below one. -->
      <div v-if="typing" role="row"><div id="picker-slot" role="gridcell" class="slot" :style="{ top: `${top}px` }" /></div>
    </div>
  </div>
  <p v-if="!rows.length" class="empty"><b>Nothing here under this filter</b>Click the count again, or clear the filter in the pile.</p>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: 24px minmax(100px, 1.3fr) var(--seen) 106px minmax(110px, 1.45fr) minmax(64px, 0.9fr);
}
.rackhead {
  position: sticky;
  top: 0;
  z-index: 4;
  background: var(--paper);
  font-size: 12px;
  color: var(--quiet);
  border-bottom: 1px solid var(--rule-firm);
  padding: 4px 0 5px;
}
.rackhead > span {
  padding: 0 5px;
}
.racklist {
  flex: 1 1 auto;
  min-height: 120px;
  overflow: auto;
}
.racklist:focus {
  outline: 0;
}
.row {
  position: absolute;
  left: 0;
  right: 0;
  height: 41px;
  border-bottom: 1px solid var(--rule);
  align-items: center;
  line-height: 17px;
  cursor: default;
}
.row.hand {
  background: var(--hand);
}
.row > span {
  padding: 0 5px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.row > span:first-child {
  padding: 0 0 0 3px;
}
.row > .tgt {
  overflow: visible;
}
.tgt > .quiet-link {
  display: block;
  width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  text-align: left;
}
small {
  display: block;
  font-size: 12px;
  line-height: 16px;
  color: var(--quiet);
  font-weight: 400;
  overflow: hidden;
  text-overflow: ellipsis;
}
.num {
  display: inline-block;
  min-width: 40px;
  font-weight: 600;
}
small.ind {
  padding-left: 40px;
}
.ev {
  font-size: 12px;
  color: var(--quiet);
}
.slot {
  position: absolute;
  left: 60px;
  right: 6px;
  z-index: 8;
}
input[type="checkbox"] {
  accent-color: var(--brass-text);
  margin: 0;
  width: 15px;
  height: 15px;
}
</style>
