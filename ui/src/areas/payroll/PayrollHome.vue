<script setup lang="ts">
import { watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { useBills, useClientId, usePayroll } from "../../api/queries";
import PayrollShell from "./PayrollShell.vue";

// What was just taken in opens by itself (?file), else the run that asks for something first.
const id = useClientId();
const router = useRouter();
const route = useRoute();
const { data: p, isPending, isFetching } = usePayroll();
const { data: bills, isFetching: asking } = useBills();
const order = ["stopped", "ready", "posted", "early", "prior", "replaced"];
watch(
  [p, bills, isFetching, asking],
  ([v]) => {
    const file = Number(route.query.file ?? 0);
    const run = v?.runs.find((r) => r.batch_id === file);
    const bill = bills.value?.find((b) => b.batch_id === file);
    if (run) return void router.replace(`/c/${id.value}/payroll/${run.id}`);
    if (bill) return void router.replace(`/c/${id.value}/payroll/bills/${bill.id}`);
    if (file && (isFetching.value || asking.value)) return; // what is here may be of before it
    const first = [...(v?.runs ?? [])].sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state))[0];
    if (first) void router.replace(`/c/${id.value}/payroll/${first.id}`);
  },
  { immediate: true },
);
</script>

<template>
  <PayrollShell>
    <main class="bench" tabindex="0">
      <div class="head"><h1>Payroll</h1></div>
      <p v-if="isPending" class="busy">looking for runs…</p>
      <div v-else-if="!p?.runs.length" class="empty">
        <b>No runs yet</b>Bring the provider's register of the first run in, as it comes: one column or one row for each item. If the ledger opens in mid-year,
        bring each employee's year to date in as well; forms and wage bases need it.
      </div>
    </main>
    <aside class="why" aria-label="Why" tabindex="0">
      <h1>How payroll gets in</h1>
      <p>A run is read from the register, not typed: provider, period, check date, every item of every employee.</p>
      <p style="margin-top: 8px">Each item is told once where it goes; later runs follow. An item first seen in a later run stops that run and nothing else.</p>
    </aside>
  </PayrollShell>
</template>
