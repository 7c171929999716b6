<script setup lang="ts">
import type { Schemas } from "../../api/client";
import { figure, upDown } from "../../money";
import { less } from "./payroll";
import FigureTable from "../../frame/FigureTable.vue";

// What a corrected register changes, item by item and, for those allowed, by employee.
defineProps<{ run: Schemas["RunView"] }>();
</script>

<template>
  <section aria-label="What the corrected register changes">
    <h2>What it corrects</h2>
    <FigureTable class="changes" :give="[1]">
      <thead>
        <tr>
          <th>Item</th>
          <th class="n" style="width: 110px">Was</th>
          <th class="n" style="width: 110px">Now</th>
          <th class="n" style="width: 110px">Change</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in run.changes" :key="c.item_id + (c.employee ?? '')">
          <td :class="{ part: c.employee }">{{ c.employee || c.item }}</td>
          <td class="n">{{ figure(c.was) }}</td>
          <td class="n">{{ figure(c.now) }}</td>
          <td class="n">{{ upDown(less(c.now, c.was)) }}</td>
        </tr>
      </tbody>
    </FigureTable>
    <p class="q">Only what changed is posted; the first posting stands beside it.</p>
  </section>
</template>

<style scoped>
.changes {
  font-size: 12.5px;
  margin-bottom: 6px;
}
.changes td {
  height: 24px;
}
.part {
  padding-left: 18px !important;
  color: var(--quiet);
}
</style>
