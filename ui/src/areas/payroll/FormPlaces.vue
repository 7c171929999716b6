<script setup lang="ts">
import { type Schemas } from "../../api/client";
import { plural } from "../../format";
import { figure } from "../../money";
import FigureTable from "../../frame/FigureTable.vue";

// Boxes 15 to 20 of Form W-2: a line a state, then a line a locality.
defineProps<{ places: Schemas["FormPlace"][]; at?: string }>();
defineEmits<{ pick: [key: string] }>();
const key = (p: Schemas["FormPlace"]) => `${p.local} ${p.place}`;
const named = (p: Schemas["FormPlace"]) => p.place || (p.local ? "no locality named" : "no state named");
</script>

<template>
  <section>
    <h2>Form W-2, boxes 15 to 20 by place</h2>
    <FigureTable class="form lines" :give="[2, 3, 6]">
      <thead>
        <tr>
          <th style="width: 62px">Boxes</th>
          <th>State or locality</th>
          <th style="width: 128px">Employer's number</th>
          <th class="n" style="width: 92px">Wages</th>
          <th class="n" style="width: 86px">Tax</th>
          <th style="width: 118px; padding-left: 14px">Whose</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in places" :key="key(p)" tabindex="0" :class="{ hand: at === key(p) }" @click="$emit('pick', key(p))" @focus="$emit('pick', key(p))">
          <td>
            <b>{{ p.local ? "18–20" : "15–17" }}</b>
          </td>
          <td :class="{ q: !p.place }">{{ named(p) }}</td>
          <td>
            <template v-if="p.employer_id">{{ p.employer_id }}</template><span v-else-if="!p.local && p.place" class="q">not said</span>
          </td>
          <td class="n">{{ figure(p.wages) }}</td>
          <td class="n">{{ figure(p.tax) }}</td>
          <td style="padding-left: 14px">
            {{ plural(p.people, "employee") }}<span v-if="!p.divided" class="bad" title="wages not divided" aria-label="wages not divided"> ▲</span>
          </td>
        </tr>
      </tbody>
    </FigureTable>
  </section>
</template>

<style scoped>
h2 {
  margin: 14px 0 2px;
}
.form {
  font-size: 12.5px;
}
.lines {
}
.form td {
  height: 24px;
}
</style>
