<script setup lang="ts">
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../api/client";
import { useAct, useChart } from "../api/queries";
import AccountForm from "../areas/chart/AccountForm.vue";
import VeilBox from "../frame/VeilBox.vue";
import { plural } from "../format";

// What a prepared crosswalk would set, held against the old accounts and the chart. An account
// that the chart lacks is made from its row; a row that nothing here answers is set aside.
const props = defineProps<{ lines: Schemas["CrosswalkLine"][]; file: Schemas["Batch"] }>();
const emit = defineEmits<{ fix: [f: Schemas["Fix"]] }>();
const { data: chart } = useChart();
const start = ref<Schemas["Account"]>();
const count = (what: string) => props.lines.filter((l) => l.what === what).length;
const names = computed(() => props.file.reading?.party_kind);
const off = computed(() => props.lines.filter((l) => (l.what !== "same" && l.what !== "sets") || l.differs.length));
const propose = useAct(
  (client, text: string) => unwrap(api.GET("/api/clients/{client}/propose-account", { params: { path: { client }, query: { text } } })),
  (a) => (start.value = a),
);
</script>

<template>
  <h2>
    Importing it sets {{ plural(count("sets"), names ? "old name" : "old account") }}, changes {{ count("changes") }}, leaves {{ count("same") }} as
    {{ count("same") === 1 ? "it is" : "they are" }}
  </h2>
  <table v-if="off.length" class="off">
    <tbody>
      <tr v-for="l in off" :key="l.record">
        <td class="where q">row {{ l.record }}</td>
        <td class="say">
          {{ l.old }} → {{ l.new }}<template v-if="l.takes">, {{ l.takes }}</template
          ><template v-if="l.what === 'changes'">, now {{ l.now }}</template
          ><span v-else-if="l.what === 'no balance'" class="warn">: its balance is not known yet; import the trial balance first</span
          ><span v-else-if="l.what === 'no new name'" class="warn">: nobody of that name is here; import the list of customers or vendors first</span
          ><span v-else-if="l.what === 'several names'" class="warn">: several have that name; write the number of the one that is meant</span
          ><span v-else-if="l.what.startsWith('no ')" class="warn">: {{ l.what }} of that number or name is here</span
          ><span v-for="d in l.differs" :key="d" class="warn">; {{ d }}</span>
        </td>
        <td class="n">
          <button v-if="l.what === 'no new account'" class="btn small" aria-haspopup="dialog" @click="propose.mutate(l.new)">Make {{ l.new }}</button
          ><button v-if="l.what.startsWith('no ') || l.what === 'several names'" class="btn small" @click="emit('fix', { record: l.record, class: 'note' })">
            Skip the row
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <VeilBox v-if="start && chart" words="New account" :width="760" @close="start = undefined">
    <AccountForm :chart="chart" :start="start" @close="start = undefined" @saved="start = undefined" />
  </VeilBox>
</template>

<style scoped>
.off {
  width: 100%;
}
td {
  height: 29px;
}
.where {
  width: 64px;
}
.say {
  white-space: normal;
}
.n {
  width: 1px;
  white-space: nowrap;
}
.n button + button {
  margin-left: 6px;
}
</style>
