<script setup lang="ts">
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import ChooseOne from "../../frame/ChooseOne.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import { figure } from "../../money";
import PaidPicture from "./PaidPicture.vue";
import FigureTable from "../../frame/FigureTable.vue";

// The year at a glance, and the accounts that payments were made from: a method that is
// not said follows from them.
const props = defineProps<{ payees: Schemas["Payees"] }>();
const say = useAct(
  (client, v: { label: number; sort: string }) =>
    unwrap(api.PUT("/api/clients/{client}/payees/funds/{label}", { params: { path: { client, label: v.label } }, body: { sort: v.sort as "bank" } })),
  undefined,
  {
    undo: (v, client) => {
      const was = props.payees.funds.find((f) => f.label_id === v.label);
      return (
        was && {
          words: was.name,
          run: () =>
            unwrap(api.PUT("/api/clients/{client}/payees/funds/{label}", { params: { path: { client, label: v.label } }, body: { sort: was.sort as "bank" } })),
        }
      );
    },
  },
);
</script>

<template>
  <section class="funds">
    <PaidPicture />
    <RefusalBox :error="say.error.value" />
    <FigureTable :give="[1, 3]">
      <thead>
        <tr>
          <th>Paid from</th>
          <th class="n" style="width: 86px">Amount</th>
          <th style="width: 138px">It is</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in payees.funds" :key="f.label_id">
          <td :title="f.name">{{ f.name }}</td>
          <td class="n">{{ figure(f.paid, "back") }}</td>
          <td>
            <ChooseOne
              v-if="f.label_id"
              :id="`fund-${f.label_id}`"
              :model-value="f.sort"
              :label="`What ${f.name} is`"
              :options="[
                { value: '', label: 'not known' },
                { value: 'bank', label: 'a bank account' },
                { value: 'card', label: 'a card account' },
                { value: 'network', label: 'a network' },
                { value: 'cash', label: 'cash' },
              ]"
              @update:model-value="(v) => v && say.mutate({ label: f.label_id, sort: String(v) })"
            />
            <span v-else class="q">methods undecided unless said</span>
          </td>
        </tr>
      </tbody>
    </FigureTable>
    <p class="q s" style="margin-top: 6px">Select a payee on the left to see every line with its bucket and the reason.</p>
  </section>
</template>

<style scoped>
.funds {
  flex: 1;
  min-width: 0;
}
td :deep(.field) {
  margin: 0;
}
td :deep(label) {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
table {
  font-size: 12.5px;
}
td {
  height: 28px;
}
td :deep(.ant-select-selector) {
  height: 25px !important;
}
td :deep(.ant-select-selection-item) {
  line-height: 23px !important;
  font-size: 12.5px;
}
</style>
