<script setup lang="ts">
import type { Schemas } from "../../api/client";
import { day } from "../../format";
import { plain } from "../../money";
import FigureTable from "../../frame/FigureTable.vue";

defineProps<{ entries: Schemas["RunEntry"][] }>();
</script>

<template>
  <FigureTable v-for="(e, i) in entries" :key="i" class="entry" :give="[1, 2]">
    <caption>
      {{
        day(e.day)
      }}<template v-if="e.party">, {{ e.party }}</template
      >:
      {{
        e.memo
      }}
    </caption>
    <thead>
      <tr>
        <th>Account</th>
        <th style="width: 110px">Agency</th>
        <th class="n" style="width: 110px">Dr</th>
        <th class="n" style="width: 110px">Cr</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(l, k) in e.lines" :key="k">
        <td>{{ l.account }}</td>
        <td class="q">{{ l.agency }}</td>
        <td class="n">{{ l.amount.startsWith("-") ? "" : plain(l.amount) }}</td>
        <td class="n">{{ l.amount.startsWith("-") ? plain(l.amount) : "" }}</td>
      </tr>
    </tbody>
  </FigureTable>
</template>

<style scoped>
.entry {
  margin: 10px 0 16px;
  font-size: 12.5px;
}
.entry td {
  height: 24px;
}
.entry caption {
  text-align: left;
  font-weight: 600;
  padding-bottom: 2px;
}
</style>
