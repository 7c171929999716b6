<script setup lang="ts">
import { computed } from "vue";
import { useRoute } from "vue-router";
import type { Schemas } from "../../api/client";
import { useClientId, usePayees } from "../../api/queries";
import { isZero, plain } from "../../money";
import { useYear } from "./year";

// One form as a readable page, in a plain layout of our own. Each box leads to its
// payment lines.
const props = defineProps<{ form: Schemas["PayeeForm"]; year: number; payer: Schemas["PayerFacts"] }>();
const id = useClientId();
const route = useRoute();
const { data: p } = usePayees(useYear());
const boxes = computed(() => {
  const own = new Map(props.form.boxes.map((b) => [b.box, b.amount]));
  const rules = (p.value?.rules ?? []).filter((r) => r.box.startsWith(`${props.form.kind} `));
  const rows = rules.map((r) => ({
    no: Number(r.box.split(" ")[1]),
    caption: r.caption,
    amount: own.get(r.box) ?? "",
    tick: r.tick,
    check: r.mark === "check",
  }));
  rows.push({ no: 4, caption: "Federal income tax withheld", amount: isZero(props.form.withheld) ? "" : props.form.withheld, tick: false, check: false });
  return rows.sort((a, b) => a.no - b.no);
});
</script>

<template>
  <section class="page" :aria-label="`Form 1099-${form.kind} of ${form.name}`">
    <header>
      <h2>Form 1099-{{ form.kind }}, {{ form.kind === "NEC" ? "Nonemployee Compensation" : "Miscellaneous Information" }}</h2>
      <b>{{ year }}</b>
    </header>
    <div class="sides">
      <div><span>Payer</span>{{ payer.name }}<br />{{ payer.address }}<br />{{ payer.telephone }} · TIN {{ payer.tax_id_masked || "missing" }}</div>
      <div>
        <span>Recipient</span><RouterLink :to="{ path: `/c/${id}/payees/${form.payee}`, query: route.query }">{{ form.line_1 }}</RouterLink
        ><br />TIN {{ form.tax_id_masked || "missing" }}
      </div>
    </div>
    <div class="boxes">
      <div v-for="b in boxes" :key="b.no" :class="{ filled: b.amount }">
        <small
          ><b>{{ b.no }}</b> {{ b.caption }}</small
        >
        <RouterLink
          v-if="b.amount"
          :to="{ path: `/c/${id}/payees/${form.payee}`, query: { ...route.query, of: b.no === 4 ? 'withheld' : `${form.kind} ${b.no}` } }"
          :title="`the payment lines of box ${b.no}`"
          >{{ b.tick ? "X" : plain(b.amount) }}</RouterLink
        >
        <span v-else>–</span>
        <small v-if="b.amount && b.check" class="q">Not verified against the form</small>
      </div>
    </div>
    <p v-for="x in form.faults" :key="x.code" :class="x.grade === 'worth a look' ? 'warn' : 'bad'">{{ x.words.charAt(0).toUpperCase() + x.words.slice(1) }}.</p>
  </section>
</template>

<style scoped>
.page {
  background: var(--card);
  border: 1px solid var(--rule-firm);
  margin: 18px 0 16px;
  padding: 12px 16px 12px;
}
header {
  display: flex;
  justify-content: space-between;
}
header b {
  font: 700 18px/22px var(--slab);
}
.sides {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
  margin: 6px 0 8px;
  line-height: 18px;
}
.sides span {
  display: block;
  color: var(--quiet);
  font-size: 12px;
}
.boxes {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  border-top: 1px solid var(--rule);
  border-left: 1px solid var(--rule);
}
.boxes > div {
  border-right: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
  padding: 4px 8px 5px;
  display: flex;
  flex-direction: column;
  justify-content: space-between;
  gap: 2px;
  min-height: 46px;
}
.boxes small {
  color: var(--quiet);
  font-size: 12px;
  line-height: 14px;
}
.boxes a,
.boxes span {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.boxes span {
  color: var(--quiet);
}
.filled {
  background: #f6eedf80;
}
p {
  margin-top: 6px;
}
</style>
