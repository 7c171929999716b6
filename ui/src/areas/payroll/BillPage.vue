<script setup lang="ts">
import { computed, reactive, watch } from "vue";
import { useRoute } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useBill, useClientId, usePayroll } from "../../api/queries";
import { day } from "../../format";
import ChooseOne from "../../frame/ChooseOne.vue";
import DayInput from "../../frame/DayInput.vue";
import PaperList from "../../frame/PaperList.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useReverse } from "../../frame/reverse";
import { figure, isZero, plain } from "../../money";
import BillPayment from "./BillPayment.vue";
import PayrollShell from "./PayrollShell.vue";
import { less } from "./payroll";
import FigureTable from "../../frame/FigureTable.vue";

// A carrier's bill against the payroll of its month, or the provider's invoice
// against what the bank paid.
const route = useRoute();
const id = useClientId();
const billId = computed(() => Number(route.params.bill));
const { data: b, isPending, error } = useBill(billId);
const { data: p } = usePayroll();
const r = reactive({ party: "", number: "", day: "", month: "", employee_item: 0, employer_item: 0, from_account: 0, run_id: 0 });
watch(
  b,
  (x) =>
    x &&
    Object.assign(r, {
      party: x.party,
      number: x.number,
      day: x.day,
      month: x.month,
      employee_item: x.employee_item ?? 0,
      employer_item: x.employer_item ?? 0,
      from_account: x.from_account ?? 0,
      run_id: x.run_id ?? 0,
    }),
  { immediate: true },
);
const path = (client: number) => ({ params: { path: { client, bill: billId.value } } });
const bodyOf = (x: Schemas["PayBill"]): Schemas["BillFacts"] => {
  const { party, number, day, month, employee_item, employer_item, from_account, run_id } = x;
  return { party, number, day, month, employee_item, employer_item, from_account, run_id, whole: true };
};
const say = useAct(
  (client, body: Schemas["BillFacts"]) => unwrap(api.PUT("/api/clients/{client}/payroll/bills/{bill}", { ...path(client), body })),
  undefined,
  {
    undo: (_v, client) => {
      const was = b.value;
      const where = path(client);
      return (
        was && { words: `bill of ${was.party}`, run: () => unwrap(api.PUT("/api/clients/{client}/payroll/bills/{bill}", { ...where, body: bodyOf(was) })) }
      );
    },
  },
);
const post = useAct((client) => unwrap(api.POST("/api/clients/{client}/payroll/bills/{bill}/post", path(client))), undefined, { grave: true });
const back = useReverse();
const items = (section: string) => [
  { value: 0, label: "none" },
  ...(p.value?.items ?? []).filter((i) => i.section === section).map((i) => ({ value: i.id, label: i.name })),
];
const payers = (payables: boolean) =>
  (p.value?.targets ?? [])
    .filter((t) => t.active && !t.parent && (t.sort === "bank" || (payables && t.role === "payables control")))
    .map((t) => ({ value: t.id, label: `${t.number} ${t.name}${t.sort === "bank" ? "" : ", paid later"}` }));
const runs = computed(() => (p.value?.runs ?? []).filter((x) => x.check_date).map((x) => ({ value: x.id, label: `run of ${day(x.check_date)}` })));
const months = (m: string) =>
  m ? new Date(`${m}-15T00:00:00Z`).toLocaleDateString("en-US", { month: "long", year: "numeric", timeZone: "UTC" }) : "a month not said";
const subtitle = computed(() => {
  if (!b.value) return "";
  const x = b.value;
  return `${x.kind === "fee" ? "invoice" : "bill"}${x.number ? ` ${x.number}` : ""}${x.day ? ` of ${day(x.day)}` : ""}${x.kind === "carrier" ? `, for ${months(x.month)}` : ""}`;
});
const onPayroll = computed(() => (b.value ? less(b.value.deducted, less("0.00", b.value.contributed)) : "0.00"));
const off = computed(() => (b.value ? less(b.value.total, less(onPayroll.value, b.value.before)) : "0.00"));
</script>

<template>
  <PayrollShell>
    <main class="bench" tabindex="0">
      <p v-if="isPending" class="busy">reading the bill…</p>
      <RefusalBox :error="error" />
      <template v-if="b">
        <div class="head">
          <h1>{{ b.party || "Bill" }}</h1>
          <span class="sub">{{ subtitle }}</span>
          <div class="acts">
            <RouterLink class="btn" :to="`/c/${id}/sheet/${b.batch_id}`">The file</RouterLink>
            <button
              v-if="!b.unit && b.kind === 'carrier'"
              class="btn prime"
              :disabled="post.isPending.value || b.state !== 'ready'"
              @click="post.mutate(undefined)"
            >
              Post the bill, {{ figure(b.total) }}
            </button>
          </div>
        </div>
        <RefusalBox :error="say.error.value ?? post.error.value ?? back.error.value" />
        <p v-if="b.unit" class="said">
          Posted. <RouterLink :to="`/c/${id}/books/posted`">Look at it in just posted</RouterLink>
          <button
            style="margin-left: 8px"
            class="linkish"
            :disabled="back.pending.value"
            @click="back.reverse(b.unit, `the bill of ${b.party}`, 'You can undo this: post the bill again.')"
          >
            {{ back.words(b.unit) }}…
          </button>
        </p>
        <BillPayment v-if="b.payable" :bill="b" :banks="payers(false)" />
        <ul v-else-if="!b.unit && b.blocks.length" class="said stops" aria-label="What stops the bill">
          <li v-for="x in b.blocks" :key="x.words">{{ x.words }}</li>
        </ul>
        <template v-if="b.kind === 'fee'">
          <div class="kv">
            <span>The invoice asks</span><span>{{ figure(b.total) }}</span>
          </div>
          <div class="kv">
            <span>The bank paid</span><span>{{ b.drawn ? figure(b.drawn) : "nothing seen yet" }}</span>
          </div>
          <p v-if="b.drawn" :class="b.drawn === b.total ? 'ok' : 'bad'">
            {{
              b.drawn === b.total
                ? "they are the same ✓"
                : `${plain(less(b.drawn, b.total))} ${less(b.drawn, b.total).startsWith("-") ? "less" : "more"} ▲: the bank's amount is what is posted`
            }}
          </p>
          <ChooseOne
            v-if="runs.length"
            id="bill-run"
            :model-value="r.run_id"
            label="It is for the"
            :options="runs"
            @update:model-value="(v) => say.mutate({ run_id: Number(v) })"
          />
        </template>
        <template v-else>
          <FigureTable class="against" :give="[1]">
            <tbody>
              <tr>
                <td>The bill</td>
                <td class="n">{{ figure(b.total) }}</td>
              </tr>
              <tr v-if="!isZero(b.before)">
                <td>Earlier bills of the same plan and month</td>
                <td class="n">{{ figure(b.before) }}</td>
              </tr>
              <tr>
                <td>Deducted from employees in the month's runs</td>
                <td class="n">{{ figure(b.deducted) }}</td>
              </tr>
              <tr>
                <td>The employer's part in the month's runs</td>
                <td class="n">{{ figure(b.contributed) }}</td>
              </tr>
              <tr class="sum">
                <td>{{ isZero(b.before) ? "Bill" : "Bills" }} less payroll</td>
                <td class="n" :class="isZero(off) ? 'ok' : 'bad'">{{ figure(off) }}{{ isZero(off) ? " ✓" : " ▲" }}</td>
              </tr>
              <tr v-for="g in b.gaps" :key="g.words">
                <td class="part">{{ g.words }}</td>
                <td class="n">{{ figure(g.amount) }}</td>
              </tr>
            </tbody>
          </FigureTable>
          <p v-if="off.startsWith('-')" class="q">
            A bill that comes before its runs, or covers part of a month, leaves what the runs bring: normal until the month ends.
          </p>
          <h2>How it posts</h2>
          <p class="q">
            {{
              b.accrued
                ? "The runs accrued the employer's part, so the bill debits only the liability."
                : "The employee part goes to the liability, prefilled from the runs; the employer's part becomes an expense now."
            }}
          </p>
          <FigureTable class="entry" :give="[1]">
            <thead>
              <tr>
                <th>Account</th>
                <th class="n" style="width: 110px">Dr</th>
                <th class="n" style="width: 110px">Cr</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(l, i) in b.entry" :key="i">
                <td>{{ l.account || "not said" }}</td>
                <td class="n">{{ l.amount.startsWith("-") ? "" : plain(l.amount) }}</td>
                <td class="n">{{ l.amount.startsWith("-") ? plain(l.amount) : "" }}</td>
              </tr>
            </tbody>
          </FigureTable>
          <template v-if="b.sees_pay && b.lines.length">
            <h2>Who is on it</h2>
            <FigureTable class="entry" :give="[1]">
              <thead>
                <tr>
                  <th>Name</th>
                  <th class="n" style="width: 110px">Employee part</th>
                  <th class="n" style="width: 110px">Employer's</th>
                  <th class="n" style="width: 110px">Not divided</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="(l, i) in b.lines" :key="i">
                  <td>{{ l.name || "nobody named" }}</td>
                  <td class="n">{{ isZero(l.employee) ? "" : figure(l.employee) }}</td>
                  <td class="n">{{ isZero(l.employer) ? "" : figure(l.employer) }}</td>
                  <td class="n">{{ isZero(l.whole) ? "" : figure(l.whole) }}</td>
                </tr>
              </tbody>
            </FigureTable>
          </template>
          <p v-else-if="!b.sees_pay" class="q">Who is on it is hidden from you.</p>
        </template>
        <PaperList :batch="b.batch_id" :can-see="b.sees_pay" />
      </template>
    </main>
    <aside class="why" aria-label="Why" tabindex="0">
      <template v-if="b && b.kind === 'carrier'">
        <h1>What it is for</h1>
        <form v-if="!b.unit" @submit.prevent="say.mutate({ ...r, whole: true })">
          <div class="field"><label for="bill-party">Payee</label><input id="bill-party" v-model="r.party" class="input" /></div>
          <div class="field"><label for="bill-number">Number</label><input id="bill-number" v-model="r.number" class="input" /></div>
          <div class="field"><label for="bill-day">Day</label><DayInput id="bill-day" v-model="r.day" label="Day of the bill" /></div>
          <div class="field">
            <label for="bill-month">Month of the runs</label><input id="bill-month" v-model="r.month" class="input" placeholder="2026-07" />
          </div>
          <ChooseOne id="bill-ee" v-model="r.employee_item" label="Deduction" :options="items('Deductions')" />
          <ChooseOne id="bill-er" v-model="r.employer_item" label="Employer's part" :options="items('Employer benefits')" />
          <ChooseOne id="bill-from" v-model="r.from_account" label="Paid from" :options="payers(true)" />
          <button class="btn prime small" :disabled="say.isPending.value">Keep these</button>
        </form>
        <p v-else class="q">It is posted. Reverse it to change what it is for.</p>
      </template>
      <template v-else>
        <h1>The provider's invoice</h1>
        <p>It is held against the fee that the bank paid for its run. The draw posts the fee, so an invoice is never posted itself.</p>
      </template>
    </aside>
  </PayrollShell>
</template>

<style scoped>
.stops {
  border-left-color: var(--fails);
  background: #f8ece9;
  color: var(--ink);
  margin: 0 0 8px;
  padding-left: 30px;
}
.against,
.entry {
  font-size: 12.5px;
  margin-bottom: 10px;
}
.against td,
.entry td {
  height: 25px;
}
.against .n {
  width: 130px;
}
.sum td {
  font-weight: 650;
  border-top: 1px solid var(--ink);
}
.part {
  padding-left: 18px !important;
}
</style>
