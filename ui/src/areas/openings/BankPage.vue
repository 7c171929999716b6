<script setup lang="ts">
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useClientState, useOpening, useOpenings } from "../../api/queries";
import { day } from "../../format";
import { daysRead } from "../../frame/days";
import DayInput from "../../frame/DayInput.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import { figure, isCredit, isZero, plain, typed } from "../../money";
import BankTape from "./BankTape.vue";
import OpeningShell from "./OpeningShell.vue";
import FigureTable from "../../frame/FigureTable.vue";

const id = useClientId();
const text = ref("");
const at = ref(0);
const { data: o } = useOpenings();
const { data: d } = useOpening();
const { data: state } = useClientState();
const locked = computed(() => !!state.value?.client.locked_through);
const banks = computed(() => o.value?.banks ?? []);
const bank = computed(
  () => banks.value.find((b) => b.account.id === at.value) ?? banks.value.find((b) => b.said && !isZero(b.tie.difference)) ?? banks.value[0],
);
const items = computed(() => (bank.value?.items ?? []).filter((i) => `${i.number} ${i.payee} ${i.kind}`.toLowerCase().includes(text.value.toLowerCase())));
const balance = ref("");
const fresh = ref({ kind: "check" as "check" | "deposit", day: "", number: "", payee: "", amount: "" });
const odd = ref("");
const path = (client: number) => ({ path: { client, account: bank.value!.account.id } });
const say = useAct(
  (client, b: string) => unwrap(api.PUT("/api/clients/{client}/banks/{account}/statement", { params: path(client), body: { balance: b } })),
  () => (balance.value = ""),
  {
    undo: (_b, client) => {
      const was = bank.value;
      if (!was?.said) return undefined;
      const where = path(client);
      return {
        words: `statement balance ${plain(was.tie.statement)}`,
        run: () => unwrap(api.PUT("/api/clients/{client}/banks/{account}/statement", { params: where, body: { balance: was.tie.statement } })),
      };
    },
  },
);
const add = useAct(
  (client, body: Schemas["NewUncleared"]) => unwrap(api.POST("/api/clients/{client}/banks/{account}/uncleared", { params: path(client), body })),
  () => (fresh.value = { ...fresh.value, number: "", payee: "", amount: "" }),
  {
    undo: (v, client, result) => ({
      words: `${v.kind} ${v.number} ${plain(v.amount)}`,
      run: async () => {
        const added = (result() ?? [])
          .flatMap((b) => b.items)
          .filter((i) => i.kind === v.kind && i.number === v.number && i.amount === v.amount)
          .sort((a, b) => b.id - a.id)[0];
        if (added) await unwrap(api.DELETE("/api/clients/{client}/uncleared/{item}", { params: { path: { client, item: added.id } } }));
      },
    }),
  },
);
const drop = useAct((client, item: number) => unwrap(api.DELETE("/api/clients/{client}/uncleared/{item}", { params: { path: { client, item } } })), undefined, {
  undo: (item, client) => {
    const was = bank.value?.items.find((i) => i.id === item);
    if (!was) return undefined;
    const where = path(client);
    return {
      words: `${was.kind} ${was.number} removed`,
      run: () =>
        unwrap(
          api.POST("/api/clients/{client}/banks/{account}/uncleared", {
            params: where,
            body: { kind: was.kind as "check", day: was.day, number: was.number, payee: was.payee, amount: was.amount },
          }),
        ),
    };
  },
});
function sayIt() {
  const b = typed(balance.value);
  odd.value = b ? "" : `“${balance.value}” is not an amount; type it as 1234.50`;
  if (b) say.mutate(b);
}
function addIt() {
  const a = typed(fresh.value.amount);
  odd.value = a && !a.startsWith("-") ? "" : `“${fresh.value.amount}” is not an amount; type it without a sign, as 120.50`;
  if (a && !odd.value && daysRead("un-day")) add.mutate({ ...fresh.value, amount: a });
}
</script>

<template>
  <OpeningShell v-model:filter="text">
    <template #tape><BankTape v-if="bank" :bank="bank" /><span v-else /></template>
    <RefusalBox :error="say.error.value ?? add.error.value ?? drop.error.value" />
    <p v-if="odd" class="refusal" role="alert">{{ odd }}</p>
    <p v-if="!o" class="busy">reading the bank accounts…</p>
    <div v-else-if="!bank" class="empty"><b>No bank account yet</b>Accounts of the sort bank stand here once the chart is in.</div>
    <template v-else>
      <div class="filterline">
        <button v-for="b in banks" :key="b.account.id" :class="{ on: b.account.id === bank.account.id }" @click="at = b.account.id">
          {{ b.account.number }} {{ b.account.name }}<template v-if="b.said">{{ isZero(b.tie.difference) ? " ✓" : " ▲" }}</template>
        </button>
      </div>
      <p v-if="locked" class="said">
        <b>The opening is signed off</b>, and its banks with it. <RouterLink :to="`/c/${id}/openings/sign-off`">Unlock it</RouterLink> to change them.<template
          v-if="bank.said"
        >
          The statement's balance was {{ bank.from === "typed" ? "typed" : `read from ${bank.from}` }}, {{ day(bank.day) }}.</template
        >
      </p>
      <form v-else class="line" @submit.prevent="sayIt">
        <label for="stmt">The statement says, {{ day(d?.day) }}</label>
        <input id="stmt" v-model="balance" class="input amt" inputmode="decimal" :placeholder="bank.said ? plain(bank.tie.statement) : '0.00'" />
        <button class="btn small" type="submit" :disabled="!balance">Keep it</button>
        <span v-if="bank.said" class="q s">{{ bank.from === "typed" ? "typed" : `read from ${bank.from}` }}, {{ day(bank.day) }}</span>
      </form>
      <FigureTable class="un" :give="[1, 3, 4]">
        <thead>
          <tr>
            <th style="width: 138px">Kind</th>
            <th style="width: 134px">Date</th>
            <th style="width: 70px">Number</th>
            <th>Payee</th>
            <th class="n" style="width: 112px">Amount</th>
            <th style="width: 66px"><span class="sr">act</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in items" :key="i.id">
            <td>{{ i.kind === "check" ? "uncleared check" : "deposit in transit" }}</td>
            <td class="q">{{ day(i.day) }}</td>
            <td>{{ i.number || "–" }}</td>
            <td>{{ i.payee || "–" }}</td>
            <td class="n"><span v-if="isCredit(i.amount)" class="dc">out</span>{{ plain(i.amount) }}</td>
            <td class="n">
              <button v-if="!locked" class="linkish s" :aria-label="`take off ${i.kind} ${i.number}`" @click="drop.mutate(i.id)">take off</button>
            </td>
          </tr>
          <tr v-if="!items.length">
            <td colspan="6" class="q">
              Nothing uncleared is kept for this account.<template v-if="!locked"> Type what the old books show as outstanding, or bring a list.</template>
            </td>
          </tr>
          <tr v-if="!locked" class="new">
            <td>
              <label class="sr" for="un-kind">Kind</label
              ><select id="un-kind" v-model="fresh.kind" class="input">
                <option value="check">uncleared check</option>
                <option value="deposit">deposit in transit</option>
              </select>
            </td>
            <td><DayInput id="un-day" v-model="fresh.day" label="Date" width="100%" none="its day" /></td>
            <td><input v-model="fresh.number" class="input" aria-label="Number" /></td>
            <td><input v-model="fresh.payee" class="input" aria-label="Payee" @keydown.enter="addIt" /></td>
            <td><input v-model="fresh.amount" class="input amt" aria-label="Amount" inputmode="decimal" @keydown.enter="addIt" /></td>
            <td class="n"><button class="btn small" :disabled="!fresh.amount || add.isPending.value" @click="addIt">Add</button></td>
          </tr>
        </tbody>
      </FigureTable>
      <p class="q s">
        The bank opens at its book balance; these items are kept with date, number and payee so that the first reconciliation works, and post nothing.
      </p>
    </template>
    <template #why>
      <template v-if="bank">
        <h1>{{ bank.account.number }} {{ bank.account.name }}</h1>
        <div class="sub">
          {{
            bank.said
              ? isZero(bank.tie.difference)
                ? "ties at the cutover"
                : `off by ${plain(bank.tie.difference)}`
              : "the statement's balance is not said yet"
          }}
        </div>
        <p v-if="bank.said && !isZero(bank.tie.difference)">
          Statement, in transit and uncleared come to <b>{{ figure(bank.tie.expected, "overdrawn") }}</b>,
          {{ isCredit(bank.tie.difference) ? "less" : "more" }} than the book by <b>{{ plain(bank.tie.difference) }}</b>.
        </p>
        <template v-if="bank.causes.length">
          <h2>Likely causes, nearest first</h2>
          <p v-for="c in bank.causes.slice(0, 6)" :key="c.words" class="cause">{{ c.words.charAt(0).toUpperCase() + c.words.slice(1) }}.</p>
        </template>
        <div v-if="bank.batch_id || bank.uncleared_batch" class="src">
          <template v-if="bank.batch_id"
            >statement from <RouterLink :to="`/c/${id}/sheet/${bank.batch_id}`">{{ bank.from }}</RouterLink><br
          /></template>
          <template v-if="bank.uncleared_batch"
            >uncleared items from <RouterLink :to="`/c/${id}/sheet/${bank.uncleared_batch}`">their list</RouterLink></template
          >
        </div>
        <p style="margin-top: 10px"><RouterLink :to="`/c/${id}/books/register/${bank.account.id}`">Register of the account</RouterLink></p>
      </template>
      <div class="keys">
        <span><kbd>b</kbd>books</span><span><kbd>?</kbd>keys</span>
      </div>
    </template>
  </OpeningShell>
</template>

<style scoped>
.filterline {
  flex-wrap: wrap;
  gap: 8px 16px;
  font-size: 13.5px;
}
.line label,
.line span {
  white-space: nowrap;
}
.line {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-bottom: 12px;
}
.amt {
  width: 120px;
  text-align: right;
  font-variant-numeric: tabular-nums;
}
.un {
  margin-bottom: 10px;
}
.un td {
  height: 29px;
}
.un .new td {
  height: 40px;
}
.un .new .amt {
  width: 100%;
}
.cause {
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}
</style>
