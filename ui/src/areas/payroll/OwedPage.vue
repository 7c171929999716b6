<script setup lang="ts">
import { ref, watchEffect } from "vue";
import { useRouter } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useRollForward } from "../../api/queries";
import { day } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import { figure, isZero, plain } from "../../money";
import OwedPicture from "./OwedPicture.vue";
import PayrollShell from "./PayrollShell.vue";
import FigureTable from "../../frame/FigureTable.vue";

// Every liability that payroll brings, rolled forward: opening + added − paid = closing.
const id = useClientId();
const router = useRouter();
const { data: rows, isPending } = useRollForward();
const at = ref(0);
watchEffect(() => {
  if (!at.value && rows.value?.length) at.value = rows.value[0]!.account_id;
});
type Offer = Schemas["RollOffer"];
// A statement line that pays a liability is recorded like a bill of that month, which then posts it.
const record = useAct(
  async (client, o: Offer) => {
    const path = { client };
    const file = await unwrap(
      api.POST("/api/clients/{client}/payroll/typed", {
        params: { path },
        body: { what: "bill", provider: o.words, check_date: o.day, rows: [{ employee: "Remittance", whole: o.amount }], printed: o.amount },
      }),
    );
    const bill = (await unwrap(api.GET("/api/clients/{client}/payroll/bills", { params: { path } }))).find((b) => b.batch_id === file.id);
    if (!bill) throw new Error("The payment was recorded as a file, but its bill was not found.");
    await unwrap(
      api.PUT("/api/clients/{client}/payroll/bills/{bill}", {
        params: { path: { client, bill: bill.id } },
        body: { party: o.words, day: o.day, month: o.month, employee_item: o.item_id },
      }),
    );
    return { file: file.id, bill: bill.id };
  },
  (r) => void router.push(`/c/${id.value}/payroll/bills/${r.bill}`),
  {
    undo: (o, client, result) => ({
      words: `payment of ${plain(o.amount)} recorded`,
      run: async () => {
        const made = result();
        if (made)
          await unwrap(
            api
              .POST("/api/clients/{client}/batches/{batch}/put-back", { params: { path: { client, batch: made.file } } })
              .then(() => api.POST("/api/clients/{client}/batches/{batch}/set-aside", { params: { path: { client, batch: made.file } }, body: {} })),
          );
      },
    }),
  },
);
const monthWords = (m: string) => new Date(`${m}-15T00:00:00Z`).toLocaleDateString("en-US", { month: "short", year: "numeric", timeZone: "UTC" });
const owed = (m: string) => (isZero(m) ? figure(m) : `${plain(m)} ${m.startsWith("-") ? "Dr" : "Cr"}`);
</script>

<template>
  <PayrollShell>
    <main class="bench" tabindex="0">
      <div class="head">
        <h1>Payroll liabilities</h1>
        <span class="sub">opening balance, plus what runs added, less what was paid, by month</span>
      </div>
      <RefusalBox :error="record.error.value" />
      <p v-if="isPending" class="busy">rolling forward…</p>
      <div v-else-if="!rows?.length" class="empty"><b>No payroll liabilities yet</b>They appear here once a run is posted.</div>
      <section v-for="r in rows" :key="r.account_id" @click="at = r.account_id">
        <h2>
          <RouterLink class="quiet-link" :to="`/c/${id}/books/register/${r.account_id}`">{{ r.account }}</RouterLink>
        </h2>
        <FigureTable class="roll">
          <thead>
            <tr>
              <th style="width: 110px">Month</th>
              <th class="n">Opening</th>
              <th class="n">Added</th>
              <th class="n">Paid</th>
              <th class="n">Closing</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="m in r.months" :key="m.month">
              <td>{{ monthWords(m.month) }}</td>
              <td class="n">{{ owed(m.opening) }}</td>
              <td class="n">{{ figure(m.added) }}</td>
              <td class="n">{{ figure(m.paid) }}</td>
              <td class="n">
                <b>{{ owed(m.closing) }}</b>
              </td>
            </tr>
          </tbody>
        </FigureTable>
        <p :class="r.closing === r.expected ? (isZero(r.closing) ? 'ok' : 'q') : 'bad'">{{ r.words }}</p>
        <p v-for="o in r.offers" :key="`${o.batch_id} ${o.record}`" class="offer">
          <span>
            {{ plain(o.amount) }} left the bank on {{ day(o.day) }}, “{{ o.words }}” (<RouterLink :to="`/c/${id}/sheet/${o.batch_id}?row=${o.record}`"
              >{{ o.file }}, row {{ o.record }}</RouterLink
            >): the payment for {{ monthWords(o.month) }}?
          </span>
          <button class="btn small" :disabled="record.isPending.value" @click="record.mutate(o)">Record this payment</button>
        </p>
        <p v-for="g in r.gaps" :key="g.words" class="warn">{{ g.words }}, {{ plain(g.amount) }}{{ g.amount.startsWith("-") ? " less" : "" }}</p>
        <p v-if="r.agencies.length" class="q">
          By agency:
          <template v-for="(a, i) in r.agencies" :key="a.agency"
            >{{ i ? "; " : "" }}{{ a.agency }} added {{ figure(a.added) }}, paid {{ figure(a.paid) }}, holds {{ owed(a.closing) }}</template
          >
        </p>
      </section>
    </main>
    <aside class="why" aria-label="Why" tabindex="0">
      <h1>By month</h1>
      <OwedPicture v-if="rows?.length" :rows="rows" />
      <p class="q" style="margin-top: 8px">A carrier's bill that comes before its run leaves a debit balance until the month ends: normal.</p>
    </aside>
  </PayrollShell>
</template>

<style scoped>
.offer {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  margin: 4px 0;
}
.roll {
}
section {
  margin-bottom: 14px;
}
td {
  height: 26px;
}
</style>
