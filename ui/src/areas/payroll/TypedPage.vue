<script setup lang="ts">
import { computed, nextTick, ref } from "vue";
import { useRouter } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, usePayroll, useRun } from "../../api/queries";
import { day } from "../../format";
import { daysRead } from "../../frame/days";
import DayInput from "../../frame/DayInput.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import MoneyFigure from "../../frame/MoneyFigure.vue";
import { cents, fromCents, isZero, plain, typed } from "../../money";
import { less } from "./payroll";
import PayrollShell from "./PayrollShell.vue";
import { blankRow, useTypedSheets, type What } from "./typed";

// A run, a carrier's bill or an invoice that exists only on paper, on a sheet laid
// like the last run: all its items, zeros kept, Tab moves on, the paper's totals at
// the foot. What is typed becomes a file like any other, with the same ties.
const id = useClientId();
const router = useRouter();
const { data: p } = usePayroll();
const what = ref<What>("run");
const like = computed(() => p.value?.runs.find((r) => !["prior", "replaced"].includes(r.state))?.id ?? 0);
const { data: last } = useRun(like);
const { sheet, head, rows, totals, printed, keep, drop } = useTypedSheets(id.value, what, last);
const items = computed(() => (last.value?.sections ?? []).flatMap((s) => s.rows.map((r) => ({ ...r, section: s.name }))));
const figure = (t?: string) => typed(t ?? "") ?? "0.00";
const bad = (t?: string) => !!t && typed(t) === null;
const sum = (xs: (string | undefined)[]) => fromCents(xs.reduce((n, x) => n + cents(figure(x)), 0n));
const columnSum = (item: number) => sum(rows.value.map((r) => r.cells[item]));
const billSum = computed(() => sum(rows.value.flatMap((r) => [r.a, r.b])));
const filled = computed(() => rows.value.filter((r) => r.name || Object.values(r.cells).some(Boolean) || r.a || r.b));
const empty = computed(() => !rows.value.some((r) => [...Object.values(r.cells), r.a, r.b].some(Boolean)));
const wrong = computed(
  () => rows.value.some((r) => [...Object.values(r.cells), r.a, r.b].some(bad)) || Object.values(totals.value).some(bad) || bad(printed.value),
);
const send = useAct(
  (client) => {
    const body: Schemas["TypedPaper"] = {
      what: what.value === "run" ? "run" : "bill",
      source: last.value?.source,
      provider: head.value.provider,
      number: head.value.number || undefined,
      check_date: head.value.check,
      from: head.value.from || undefined,
      to: head.value.to || undefined,
      kind: what.value === "run" ? head.value.kind : undefined,
      rows: filled.value.map((r) =>
        what.value === "run"
          ? {
              employee: r.name,
              employee_id: r.id,
              group: r.group,
              officer: r.officer,
              amounts: Object.fromEntries(
                Object.entries(r.cells)
                  .filter(([, v]) => v)
                  .map(([k, v]) => [k, figure(v)]),
              ),
            }
          : what.value === "bill"
            ? { employee: r.name, employee_part: figure(r.a), employer_part: figure(r.b) }
            : { line: r.name, whole: figure(r.a) },
      ),
      totals:
        what.value === "run"
          ? Object.fromEntries(
              Object.entries(totals.value)
                .filter(([, v]) => v)
                .map(([k, v]) => [k, figure(v)]),
            )
          : undefined,
      printed: what.value !== "run" && printed.value ? figure(printed.value) : undefined,
    };
    return unwrap(api.POST("/api/clients/{client}/payroll/typed", { params: { path: { client } }, body }));
  },
  (b) => {
    drop(what.value);
    void router.push({ path: `/c/${id.value}/payroll`, query: { file: b.id } });
  },
);
async function more() {
  rows.value.push(blankRow());
  keep();
  await nextTick();
  [...document.querySelectorAll<HTMLInputElement>("input.nm")].at(-1)?.focus();
}
</script>

<template>
  <PayrollShell>
    <main class="bench" tabindex="0" @input="keep" @change="keep">
      <div class="head">
        <h1>From paper</h1>
        <span class="sub">{{
          what === "run" ? "a sheet laid like the last run" : what === "bill" ? "a carrier's bill, a row a person" : "the provider's invoice"
        }}</span>
        <div class="acts">
          <button v-if="sheet.touched" class="btn plain" @click="drop(what)">Empty the sheet</button>
          <button
            class="btn prime"
            :disabled="!head.check || empty || wrong || send.isPending.value"
            @click="daysRead('t-check', 't-from', 't-to') && send.mutate(undefined)"
          >
            Take it in
          </button>
        </div>
      </div>
      <RefusalBox :error="send.error.value" />
      <nav class="tabs" aria-label="What it is">
        <button v-for="w in ['run', 'bill', 'invoice'] as const" :key="w" :class="{ on: what === w }" :aria-pressed="what === w" @click="what = w">
          {{ w === "run" ? "A run" : w === "bill" ? "A carrier's bill" : "An invoice" }}
        </button>
      </nav>
      <p v-if="what === 'run' && !items.length" class="said">A sheet is laid like the last run. Bring one register in first, so that its items are known.</p>
      <div class="facts">
        <div class="field">
          <label for="t-provider">{{ what === "bill" ? "Carrier" : "Provider" }}</label><input id="t-provider" v-model="head.provider" class="input" />
        </div>
        <div class="field">
          <label for="t-check">{{ what === "run" ? "Check date" : "Day of it" }}</label><DayInput id="t-check" v-model="head.check" label="Day" width="100%" />
        </div>
        <div class="field">
          <label for="t-from">{{ what === "run" ? "Period from" : "Covers from" }}</label><DayInput id="t-from" v-model="head.from" label="From" width="100%" />
        </div>
        <div class="field"><label for="t-to">to</label><DayInput id="t-to" v-model="head.to" label="To" width="100%" /></div>
        <div v-if="what !== 'run'" class="field"><label for="t-no">Number</label><input id="t-no" v-model="head.number" class="input" /></div>
      </div>
      <div v-if="what === 'run' && items.length" class="scroll" data-wide tabindex="0" role="region" aria-label="The sheet">
        <table class="type">
          <thead>
            <tr>
              <th class="first">Employee</th>
              <th>Group</th>
              <th>Officer</th>
              <th v-for="i in items" :key="i.item_id" class="n" :title="i.section">
                {{ i.name }}<small>{{ i.section }}</small>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(r, k) in rows" :key="k">
              <td class="first"><input v-model="r.name" class="input nm" :aria-label="`employee ${k + 1}`" /></td>
              <td><input v-model="r.group" class="input grp" :aria-label="`group of ${r.name || k + 1}`" /></td>
              <td><input v-model="r.officer" type="checkbox" :aria-label="`${r.name || k + 1} is an officer`" /></td>
              <td v-for="i in items" :key="i.item_id">
                <input
                  v-model="r.cells[i.item_id]"
                  class="input n"
                  :class="{ wrong: bad(r.cells[i.item_id]) }"
                  placeholder="0.00"
                  :aria-label="`${i.name}, ${i.section}, of ${r.name || k + 1}`"
                />
              </td>
            </tr>
          </tbody>
          <tfoot>
            <tr>
              <td class="first">added up</td>
              <td colspan="2" />
              <td v-for="i in items" :key="i.item_id" class="n"><MoneyFigure :m="columnSum(i.item_id)" /></td>
            </tr>
            <tr>
              <td class="first">the paper's totals</td>
              <td colspan="2" />
              <td v-for="i in items" :key="i.item_id">
                <input
                  v-model="totals[i.item_id]"
                  class="input n"
                  :class="{ wrong: bad(totals[i.item_id]) }"
                  placeholder="–"
                  :aria-label="`total of ${i.name}, ${i.section}`"
                />
                <small v-if="totals[i.item_id]" :class="isZero(less(columnSum(i.item_id), figure(totals[i.item_id]))) ? 'ok' : 'bad'">{{
                  isZero(less(columnSum(i.item_id), figure(totals[i.item_id]))) ? "✓" : `${plain(less(columnSum(i.item_id), figure(totals[i.item_id])))} apart`
                }}</small>
              </td>
            </tr>
          </tfoot>
        </table>
      </div>
      <table v-else-if="what !== 'run'" class="type narrow">
        <thead>
          <tr>
            <th>{{ what === "bill" ? "Name" : "Charge" }}</th>
            <th class="n">{{ what === "bill" ? "Employee part" : "Amount" }}</th>
            <th v-if="what === 'bill'" class="n">Employer's part</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, k) in rows" :key="k">
            <td><input v-model="r.name" class="input nm" :aria-label="`row ${k + 1}, name`" /></td>
            <td class="n"><input v-model="r.a" class="input n" :class="{ wrong: bad(r.a) }" placeholder="0.00" :aria-label="`row ${k + 1}, amount`" /></td>
            <td v-if="what === 'bill'" class="n">
              <input v-model="r.b" class="input n" :class="{ wrong: bad(r.b) }" placeholder="0.00" :aria-label="`row ${k + 1}, employer's part`" />
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td>added up</td>
            <td class="n"><MoneyFigure :m="sum(rows.map((r) => r.a))" /></td>
            <td v-if="what === 'bill'" class="n"><MoneyFigure :m="sum(rows.map((r) => r.b))" /></td>
          </tr>
          <tr v-if="what === 'bill'">
            <td>in all</td>
            <td />
            <td class="n">
              <b><MoneyFigure :m="billSum" /></b>
            </td>
          </tr>
          <tr>
            <td><label for="t-printed">the paper's total</label></td>
            <td v-if="what === 'bill'" />
            <td class="n">
              <small v-if="printed && !bad(printed)" :class="isZero(less(billSum, figure(printed))) ? 'ok' : 'bad'">{{
                isZero(less(billSum, figure(printed))) ? "✓" : `${plain(less(billSum, figure(printed)))} apart`
              }}</small>
              <input id="t-printed" v-model="printed" class="input n" :class="{ wrong: bad(printed) }" placeholder="–" />
            </td>
          </tr>
        </tfoot>
      </table>
      <p style="margin-top: 8px"><button class="btn small" @click="more">Another row</button></p>
    </main>
    <aside class="why" aria-label="Why" tabindex="0">
      <h1>What becomes of it</h1>
      <p>
        What is typed is kept as a file, with your name and the time, and has the same ties as one that was brought in. Nothing is posted before you say so.
      </p>
      <p v-if="last && what === 'run'" class="q" style="margin-top: 8px">Laid like the run of {{ day(last.check_date) }}.</p>
    </aside>
  </PayrollShell>
</template>

<style scoped>
.facts {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 10px;
  margin: 8px 0;
}
.scroll {
  overflow-x: auto;
}
.type {
  font-size: 12.5px;
}
.type th small {
  display: block;
  font-weight: 400;
}
.type .input {
  width: 92px;
  height: 26px;
}
.type .nm {
  width: 150px;
}
.type .grp {
  width: 76px;
}
.type td {
  padding: 2px 4px;
}
.narrow {
  max-width: 560px;
}
.narrow small {
  margin-right: 6px;
}
.first {
  position: sticky;
  left: 0;
  background: var(--paper);
}
.wrong {
  border-color: var(--fails);
}
.tabs {
  gap: 18px;
}
.tabs button {
  border: 0;
  background: none;
  padding: 3px 0 6px;
  font: inherit;
  color: var(--quiet);
  cursor: pointer;
}
.tabs button.on {
  color: var(--ink);
  font-weight: 650;
  box-shadow: inset 0 -2px 0 var(--brass);
}
</style>
