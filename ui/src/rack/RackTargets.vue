<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../api/client";
import StatePeg from "../frame/StatePeg.vue";
import { isCredit, isZero, plain, size, sum } from "../money";
import FlowPicture from "./FlowPicture.vue";
import { byTarget, type Row } from "./rows";
import FigureTable from "../frame/FigureTable.vue";

const props = defineProps<{ rows: Row[]; targets: Schemas["Target"][]; flow: boolean }>();
const emit = defineEmits<{ open: [target: number] }>();
const list = computed(() => byTarget(props.rows, props.targets).sort((a, b) => size(b.amount) - size(a.amount)));
</script>

<template>
  <div class="scroller" tabindex="0" role="region" aria-label="Where old accounts go">
    <FlowPicture v-if="flow" :list="list" @open="(t) => emit('open', t)" />
    <FigureTable :give="[1, 2, 5]">
      <thead>
        <tr>
          <th>New account</th>
          <th>Kind</th>
          <th class="n">Old accounts</th>
          <th class="n">Amount</th>
          <th style="padding-left: 22px">Peg</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in list" :key="t.id">
          <td>
            <button class="quiet-link" :disabled="t.id <= 0" @click="emit('open', t.id)">{{ t.name }}</button><small v-if="!flow" class="q">
              {{
                t.rows
                  .map((r) => r.name)
                  .slice(0, 4)
                  .join(", ")
              }}{{ t.rows.length > 4 ? ", …" : "" }}</small
            >
          </td>
          <td class="q">{{ t.kind }}</td>
          <td class="n">{{ t.rows.length }}</td>
          <td class="n"><span v-if="isCredit(t.amount)" class="dc">credit</span>{{ plain(t.amount) }}</td>
          <td style="padding-left: 22px">
            <StatePeg v-if="t.id <= 0" :state="t.id ? 'left out' : 'open'" /><template v-else
              ><StatePeg v-if="t.set" :state="'set'" /> <StatePeg v-if="t.suggested" :state="'suggested'"
            /></template>
          </td>
        </tr>
        <tr class="sum">
          <td>in all</td>
          <td></td>
          <td class="n">{{ rows.length }}</td>
          <td class="n">
            <span v-if="isCredit(sum(rows.map((r) => r.seen)))" class="dc">credit</span
            >{{ isZero(sum(rows.map((r) => r.seen))) ? "0.00" : plain(sum(rows.map((r) => r.seen))) }}
          </td>
          <td></td>
        </tr>
      </tbody>
    </FigureTable>
  </div>
</template>

<style scoped>
.scroller {
  flex: 1 1 auto;
  overflow: auto;
  min-height: 0;
}
td {
  height: 26px;
  font-size: 12.5px;
}
td small {
  display: block;
  max-width: 46ch;
}
.sum td {
  font-weight: 650;
  border-bottom: 0;
  border-top: 1px solid var(--rule-firm);
}
</style>
