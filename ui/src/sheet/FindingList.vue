<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../api/client";
import { plural } from "../format";
import { asideWords } from "./meanings";

const props = defineProps<{ findings: Schemas["TableFinding"][]; aside: Record<string, number>; at: number; open: boolean }>();
const emit = defineEmits<{ go: [i: number]; fix: [f: Schemas["Fix"]]; confirm: [code: string] }>();
// What refuses comes first, then what holds the posting, then notes; each keeps its place in the list.
const order: Record<string, number> = { "refuse-file": 0, "refuse-row": 1, "hold-posting": 2, note: 3 };
const sorted = computed(() => props.findings.map((f, i) => ({ f, i })).sort((a, b) => (order[a.f.severity] ?? 9) - (order[b.f.severity] ?? 9)));
const set = computed(() => asideWords(props.aside));
const where = (f: Schemas["TableFinding"]) => (f.record ? `row ${f.record}${f.cell ? `, ${f.cell}` : ""}` : "the file");
</script>

<template>
  <div class="finds" role="region" aria-label="Findings" tabindex="0">
    <table>
      <tbody>
        <tr v-for="{ f, i } in sorted" :key="i" :class="{ hand: i === at }">
          <td class="where">
            <button class="linkish" @click="emit('go', i)">{{ where(f) }}</button>
          </td>
          <td class="msg">
            <span :class="{ bad: f.severity.startsWith('refuse'), warn: f.severity === 'hold-posting' }">{{ f.message }}</span>
          </td>
          <td class="act">
            <template v-if="open && f.record && f.severity === 'refuse-row'">
              <button v-if="f.suggestion" class="btn small" @click="emit('fix', { record: f.record, column: f.column, text: f.suggestion })">
                Use {{ f.suggestion }}
              </button>
              <button class="btn small" @click="emit('fix', { record: f.record, class: 'note' })">Set row aside</button
              ><button v-if="f.can_count" class="btn small" @click="emit('fix', { record: f.record, class: 'row' })">It counts</button>
            </template>
            <template v-else-if="open && f.can_count">
              <button class="btn small" @click="emit('fix', { record: f.record, class: 'note' })">Skip this row</button
              ><button class="btn small" @click="emit('fix', { record: f.record, class: 'row' })">Keep both</button>
            </template>
            <button
              v-else-if="open && f.record && f.suggestion && f.severity === 'hold-posting'"
              class="btn small"
              @click="emit('fix', { record: f.record, column: f.column, text: f.suggestion })"
            >
              Use {{ f.suggestion }}
            </button>
            <button v-else-if="f.confirmable" class="btn small" @click="emit('confirm', f.code)">It is right</button>
            <span v-else class="q s">{{ f.severity === "note" ? "worth a look" : f.severity === "hold-posting" ? "holds posting" : "" }}</span>
          </td>
        </tr>
        <tr v-if="set.n">
          <td class="where q">{{ plural(set.n, "row") }}</td>
          <td class="msg" colspan="2">set aside: {{ set.words }}; change it in the margin</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.finds {
  flex: none;
  max-height: 34%;
  overflow: auto;
  margin-top: 8px;
}
td {
  height: 29px;
}
.where {
  width: 104px;
}
.msg {
  white-space: normal;
  line-height: 17px;
  padding-top: 4px;
  padding-bottom: 4px;
}
.act {
  text-align: right;
  width: 1%;
}
.act .btn + .btn {
  margin-left: 6px;
}
</style>
