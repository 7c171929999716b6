<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId } from "../../api/queries";
import RefusalBox from "../../frame/RefusalBox.vue";
import { figure } from "../../money";

// Where a line of boxes 15 to 20 comes from, and the employer's number for box 15.
const props = defineProps<{ place: Schemas["FormPlace"]; employees: Schemas["FormPerson"][] }>();
const id = useClientId();
const number = ref("");
watch(
  () => props.place,
  (p) => (number.value = p.employer_id),
  { immediate: true },
);
const whose = computed(() =>
  props.employees.flatMap((e) =>
    e.places.filter((p) => p.local === props.place.local && p.place === props.place.place).map((p) => ({ id: e.id, name: e.name, ...p })),
  ),
);
const put = (client: number, state: string, number: string) =>
  unwrap(api.PUT("/api/clients/{client}/payroll/state-ids", { params: { path: { client } }, body: { state, number } }));
const say = useAct((client, v: string) => put(client, props.place.place, v), undefined, {
  undo: (_v, client) => {
    const { place, employer_id } = props.place;
    return { words: `number with ${place}`, run: () => put(client, place, employer_id) };
  },
});
</script>

<template>
  <h1>{{ place.place || (place.local ? "No locality named" : "No state named") }}</h1>
  <p class="sub">{{ place.local ? "Boxes 18 to 20 of Form W-2" : "Boxes 15 to 17 of Form W-2" }}</p>
  <h2>{{ place.place ? "Items that name it" : "Items behind the tax" }}</h2>
  <div v-for="x in place.items" :key="x.item_id + (x.fraction ?? '')" class="kv">
    <span
      >{{ x.item }}<small v-if="x.fraction && x.fraction !== 'less'" class="q">, {{ x.fraction }}</small></span
    ><span>{{ figure(x.amount) }}</span>
  </div>
  <p v-if="!place.items.length" class="q">none: wages of people taxed in several places that no item divides</p>
  <p v-if="!place.place" class="q gap">
    Its name says none. <RouterLink :to="`/c/${id}/payroll/items`">Say it on the item</RouterLink>, so that it stands in box {{ place.local ? 20 : 15 }}.
  </p>
  <p v-if="place.items.length || !place.divided" class="q gap">
    {{
      place.divided
        ? "Of somebody taxed in one place all wages are its; of several, what items name, and the rest of the only one that none names."
        : "Say on the items which pay is of which place, or divide these wages by hand."
    }}
  </p>
  <template v-if="whose.length">
    <h2>Wages and tax by employee</h2>
    <table class="byname">
      <tbody>
        <tr v-for="w in whose" :key="w.id">
          <td>{{ w.name }}</td>
          <td class="n">{{ figure(w.wages) }}<i v-if="!w.divided" class="bad" aria-label="not divided"> ▲</i></td>
          <td class="n">{{ figure(w.tax) }}</td>
        </tr>
      </tbody>
    </table>
  </template>
  <template v-if="!place.local && place.place">
    <h2>Employer's number with {{ place.place }}</h2>
    <form class="number" @submit.prevent="say.mutate(number)">
      <label class="sr" for="state-id">Number for box 15</label>
      <input id="state-id" v-model="number" class="input" maxlength="20" placeholder="for box 15" />
      <button class="btn small">Keep it</button>
    </form>
    <RefusalBox :error="say.error.value" />
  </template>
  <h2>Source</h2>
  <p class="q">Form W-2, General Instructions for Forms W-2 and W-3; what a state counts as wages may differ: compare before relying.</p>
</template>

<style scoped>
.gap {
  margin-top: 8px;
}
.number {
  display: flex;
  gap: 6px;
}
.byname {
  width: 100%;
  font-size: 12.5px;
}
.byname td {
  height: 22px;
}
</style>
