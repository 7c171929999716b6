<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import ChooseOne from "../../frame/ChooseOne.vue";
import DayInput from "../../frame/DayInput.vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { monthNames } from "../../format";

const f = defineModel<Schemas["Facts"]>({ required: true });
type Need = Schemas["Facts"]["needs"][number];
// What it does where it is ticked; areas that are not offered stay as they were said.
const areas: { need: Need; words: string; what: string }[] = [
  { need: "payroll", words: "Payroll", what: "runs of an outside provider, posted and held against the forms" },
  { need: "payees", words: "Payees", what: "payments to vendors, and the information returns of the year" },
  { need: "inventory", words: "Inventory", what: "goods bought and sold have their accounts" },
  { need: "sales tax", words: "Sales tax", what: "what is collected has an account where it is owed" },
];
function need(n: Need, on: boolean) {
  const rest = f.value.needs.filter((x) => x !== n);
  f.value = { ...f.value, needs: on ? [...rest, n] : rest };
}
const { data: classes } = useQuery({ queryKey: ["classes"], queryFn: () => unwrap(api.GET("/api/entity-classes")), staleTime: Infinity });
</script>

<template>
  <div class="grid2">
    <div class="field"><label for="f-name">Name on the board</label><input id="f-name" v-model="f.name" class="input" required maxlength="120" /></div>
    <div class="field"><label for="f-legal">Legal name</label><input id="f-legal" v-model="f.legal_name" class="input" /></div>
    <div class="field"><label for="f-trade">Trade name, if another</label><input id="f-trade" v-model="f.trade_name" class="input" /></div>
    <ChooseOne
      id="f-class"
      v-model="f.entity_class"
      label="Entity class"
      :options="Object.entries(classes ?? {}).map(([c, ret]) => ({ value: c, label: ret ? `${c}: ${ret}` : c }))"
    />
    <div class="field">
      <label for="f-open">Opening day, first day in the new ledger</label
      ><DayInput id="f-open" v-model="f.opening_day" width="100%" none="such as 1 Jul 2026" />
    </div>
    <ChooseOne id="f-year" v-model="f.fiscal_year_end" label="Fiscal year ends with" :options="monthNames.map((m, i) => ({ value: i + 1, label: m }))" />
    <ChooseOne id="f-method" v-model="f.method" label="Accounting method" :options="['accrual', 'cash'].map((m) => ({ value: m, label: m }))" />
    <div class="field"><label for="f-cur">Currency</label><input id="f-cur" v-model="f.currency" class="input" maxlength="3" minlength="3" /></div>
    <div class="field"><label for="f-addr">Address</label><input id="f-addr" v-model="f.address" class="input" /></div>
    <div class="field"><label for="f-tel">Telephone</label><input id="f-tel" v-model="f.telephone" class="input" /></div>
  </div>
  <fieldset class="needs">
    <legend>What the client needs beyond chart and openings; the rest stays out of the way</legend>
    <label v-for="a in areas" :key="a.need" :for="`f-need-${a.need}`"
      ><input
        :id="`f-need-${a.need}`"
        type="checkbox"
        :checked="f.needs.includes(a.need)"
        @change="(e) => need(a.need, (e.target as HTMLInputElement).checked)"
      />
      <b>{{ a.words }}</b> <span class="q">{{ a.what }}</span></label
    >
  </fieldset>
</template>

<style scoped>
.needs {
  border: 0;
  padding: 0;
  margin: 4px 0 10px;
}
.needs legend {
  padding: 0;
  margin-bottom: 4px;
  font-size: 12px;
  color: var(--quiet);
}
.needs label {
  display: grid;
  grid-template-columns: 24px 84px 1fr;
  align-items: baseline;
  padding: 4px 0;
}
.needs b {
  font-weight: 600;
}
.grid2 {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
  gap: 2px 22px;
  align-items: start;
}
</style>
