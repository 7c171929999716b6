<script setup lang="ts">
import { computed, reactive } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, usePayroll } from "../../api/queries";
import ChooseOne from "../../frame/ChooseOne.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import VeilBox from "../../frame/VeilBox.vue";

// How a provider's runs are posted.
const props = defineProps<{ source: string; rules: Schemas["PayRules"] }>();
const emit = defineEmits<{ close: [] }>();
const { data: p } = usePayroll();
const r = reactive({ ...props.rules });
const save = useAct(
  (client, body: Schemas["PayRules"]) =>
    unwrap(api.PUT("/api/clients/{client}/payroll/rules", { params: { path: { client } }, body: { ...body, source: props.source } })),
  () => emit("close"),
  {
    undo: (_v, client) => {
      const [was, source] = [{ ...props.rules }, props.source];
      return {
        words: "how payroll is posted",
        run: () => unwrap(api.PUT("/api/clients/{client}/payroll/rules", { params: { path: { client } }, body: { ...was, source } })),
      };
    },
  },
);
const plans = computed(() => (p.value?.items ?? []).filter((i) => i.source === props.source && i.section === "Employer benefits"));
const byBill = [
  { value: "run", label: "is accrued with the run; the bill debits only the liability" },
  { value: "draw", label: "comes only with the carrier's bill" },
];
const holds = [
  { value: 0, label: "is held for a look, always" },
  ...[2, 3, 6, 12].map((n) => ({ value: n, label: `posts by itself after ${n} clean ones; anything unusual is held` })),
];
const after = computed({ get: () => r.after ?? 0, set: (v) => (r.after = Number(v)) });
const banks = () => (p.value?.targets ?? []).filter((t) => t.sort === "bank" && t.active).map((t) => ({ value: t.id, label: `${t.number} ${t.name}` }));
const shapes = [
  { value: "clearing", label: "one entry for the run; the draws clear it" },
  { value: "draws", label: "one entry for each bank draw" },
  { value: "checks", label: "one entry for each employee, and the draws" },
];
const taxes = [
  { value: "run", label: "owed and expensed with the run" },
  { value: "draw", label: "expensed when the provider draws it" },
];
const days = [
  { value: "check", label: "the check date" },
  { value: "period", label: "the period's last day" },
];
</script>

<template>
  <VeilBox words="How these runs are posted" :width="520" @close="emit('close')">
    <RefusalBox :error="save.error.value" />
    <p class="q" style="margin: 0 0 10px">All three shapes end in the same balances once everything is drawn. Runs already posted stay as they are.</p>
    <ChooseOne id="rule-shape" v-model="r.shape" label="Entries" :options="shapes" />
    <ChooseOne id="rule-tax" v-model="r.tax_with" label="The employer's taxes are" :options="taxes" />
    <ChooseOne
      id="rule-day"
      :model-value="r.period_end ? 'period' : 'check'"
      label="A run belongs to"
      :options="days"
      @update:model-value="(v) => (r.period_end = v === 'period')"
    />
    <ChooseOne id="rule-bank" v-model="r.bank_id" label="Draws leave" :options="banks()" />
    <div class="field">
      <label for="rule-payee">Payee of the draws</label
      ><input id="rule-payee" v-model="r.payee" class="input" placeholder="as the register names the provider" />
    </div>
    <div class="field"><label for="rule-collects">Payee of the tax draw, if another</label><input id="rule-collects" v-model="r.collects" class="input" /></div>
    <ChooseOne
      v-for="i in plans"
      :id="`rule-plan-${i.id}`"
      :key="i.id"
      :model-value="r.benefits?.[i.id] ?? 'run'"
      :label="`The employer's part of ${i.name}`"
      :options="byBill"
      @update:model-value="(v) => (r.benefits = { ...r.benefits, [i.id]: String(v) })"
    />
    <ChooseOne id="rule-after" v-model="after" label="A clean run" :options="holds" />
    <label class="checkline"><input v-model="r.expected" type="checkbox" /> post draws not yet seen on a statement as expected, on the check date</label>
    <p style="display: flex; gap: 8px; margin-top: 12px">
      <button class="btn prime" :disabled="save.isPending.value" @click="save.mutate({ ...r })">Keep these</button>
      <button class="btn plain" @click="emit('close')">Cancel</button>
    </p>
  </VeilBox>
</template>

<style scoped>
.checkline {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
</style>
