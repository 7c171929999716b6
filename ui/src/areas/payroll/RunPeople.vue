<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from "vue";
import type { Schemas } from "../../api/client";
import { figure } from "../../money";

// The run by employee, for those who may see pay.
const props = defineProps<{ run: Schemas["RunView"] }>();
const cols = computed(() =>
  props.run.sections
    .filter((s) => s.name !== "Net pay")
    .flatMap((s) => s.rows.map((r) => ({ ...r, section: s.name })))
    .filter((r) => !/^-?0*\.?0*$/.test(r.report)),
);

// Five hundred rows of thirty figures take a second to lay out: the first screenful is
// painted at once, the rest follows frame by frame.
const shown = ref(24);
let frame = 0;
function more() {
  if (shown.value >= props.run.employees.length) return;
  frame = requestAnimationFrame(() => {
    shown.value += 40;
    more();
  });
}
onMounted(more);
onUnmounted(() => cancelAnimationFrame(frame));
</script>

<template>
  <div class="scroll" tabindex="0" role="region" aria-label="The run by employee">
    <table>
      <thead>
        <tr>
          <th class="name">Employee</th>
          <th>Group</th>
          <th v-for="c in cols" :key="c.item_id" class="n">{{ c.name }}<small v-if="c.section.startsWith('Employer')">, employer</small></th>
          <th class="n">Net pay</th>
          <th>Check</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="e in run.employees.slice(0, shown)" :key="e.id">
          <td class="name">{{ e.name }}</td>
          <td class="q">{{ e.group }}</td>
          <td v-for="c in cols" :key="c.item_id" class="n">{{ e.items[c.item_id] ? figure(e.items[c.item_id]!) : "–" }}</td>
          <td class="n">
            <b>{{ figure(e.net) }}</b>
          </td>
          <td>{{ e.check }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td class="name"><b>Report</b></td>
          <td />
          <td v-for="c in cols" :key="c.item_id" class="n">
            <b>{{ figure(c.report) }}</b>
          </td>
          <td class="n">
            <b>{{ figure(run.net) }}</b>
          </td>
          <td />
        </tr>
      </tfoot>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
  font-size: 12.5px;
}
td {
  height: 24px;
}
th {
  white-space: normal;
  min-width: 76px;
}
.name {
  position: sticky;
  left: 0;
  background: var(--paper);
  min-width: 130px;
}
</style>
