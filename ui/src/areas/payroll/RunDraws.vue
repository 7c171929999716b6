<script setup lang="ts">
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import { day } from "../../format";
import { daysRead } from "../../frame/days";
import DayInput from "../../frame/DayInput.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import { figure, isZero, plain, sum, typed } from "../../money";

// What left the bank for a run: seen on a statement, typed from a paper, or
// expected; and the statement lines that could be them.
const props = defineProps<{ run: Schemas["RunView"] }>();
const names: Record<string, string> = { net: "Net pay drawn", taxes: "Taxes drawn", fee: "Provider's fee", check: "Paper check" };
const set = useAct(
  (client, body: Schemas["SetDraw"]) =>
    unwrap(api.PUT("/api/clients/{client}/payroll/runs/{run}/draws", { params: { path: { client, run: props.run.id } }, body })),
  () => (typing.value = ""),
  {
    undo: (v, client, result) => {
      const before = props.run.draws.map((d) => d.id);
      const path = { params: { path: { client, run: props.run.id } } };
      return {
        words: `${names[v.kind] ?? "bank withdrawal"}, run of ${day(props.run.check_date)}`,
        run: async () => {
          const undo = v.remove ?? result()?.draws.find((d) => d.id && d.kind === v.kind && !before.includes(d.id))?.id;
          if (undo) await unwrap(api.PUT("/api/clients/{client}/payroll/runs/{run}/draws", { ...path, body: { kind: v.kind, undo } }));
        },
      };
    },
  },
);
const typing = ref("");
const when = ref("");
const amount = ref("");
const checks = computed(() => props.run.draws.filter((d) => d.kind === "check"));
const rest = computed(() => props.run.draws.filter((d) => d.kind !== "check"));
const canType = computed(() => ["net", "taxes", "fee"].filter((k) => !props.run.draws.some((d) => d.kind === k && !d.expected)));
type Offer = Schemas["RunView"]["offers"][number];
const lineOf = (o: Offer) => sum([o.amount, ...o.also.map((j) => j.amount)]);
const partOf = (j: Offer["also"][number]) =>
  `${{ net: "net pay", taxes: "taxes", fee: "the fee" }[j.kind]} of ${plain(j.amount)}` + (j.run_id ? ` for the run of ${day(j.check_date ?? "")}` : "");
function type(k: string) {
  typing.value = k;
  when.value = props.run.check_date;
  amount.value = props.run.draws.find((d) => d.kind === k)?.amount ?? "";
}
</script>

<template>
  <section aria-label="What left the bank" class="draws">
    <h2>What left the bank</h2>
    <RefusalBox :error="set.error.value" />
    <table>
      <tbody>
        <tr v-for="d in rest" :key="`${d.kind} ${d.id}`">
          <td style="width: 112px">{{ names[d.kind] }}</td>
          <td class="n" style="width: 92px">{{ d.hidden ? "hidden" : figure(d.amount) }}</td>
          <td style="padding-left: 14px; width: 112px; white-space: nowrap">{{ day(d.day) }}</td>
          <td class="q">{{ d.words }}</td>
          <td class="n" style="width: 92px">
            <button v-if="!d.expected && !run.unit" class="btn small plain" @click="set.mutate({ kind: d.kind as 'net', remove: d.id })">take off</button>
          </td>
        </tr>
        <tr v-for="d in checks" :key="d.words">
          <td>{{ d.words }}</td>
          <td class="n">{{ d.hidden ? "hidden" : figure(d.amount) }}</td>
          <td style="padding-left: 14px; white-space: nowrap">{{ day(d.day) }}</td>
          <td class="q">a payment of its own</td>
          <td />
        </tr>
      </tbody>
    </table>
    <template v-if="run.offers.length">
      <h3>Found on a statement</h3>
      <table>
        <tbody>
          <tr v-for="o in run.offers" :key="`${o.batch_id} ${o.record}`">
            <td style="width: 112px">{{ names[o.kind] }}</td>
            <td class="n" style="width: 92px">{{ figure(o.amount) }}</td>
            <td style="padding-left: 14px; width: 112px; white-space: nowrap">{{ day(o.day) }}</td>
            <td class="q">
              {{ o.words }}, {{ o.file }}, row {{ o.record
              }}<b v-if="!isZero(o.off)" class="warn">, {{ plain(o.off) }} {{ o.off.startsWith("-") ? "less" : "more" }} than the run</b>
              <template v-if="o.also.length"><br />{{ figure(lineOf(o)) }} in all, with {{ o.also.map(partOf).join(", ") }}</template>
              <template v-for="m in o.more" :key="`${m.batch_id} ${m.record}`"
                ><br />and {{ plain(m.amount ?? "0.00") }} on {{ day(m.day ?? "") }}, row {{ m.record }}</template
              >
            </td>
            <td class="n" style="width: 92px">
              <button
                class="btn small"
                :disabled="set.isPending.value"
                @click="set.mutate({ kind: o.kind as 'net', batch_id: o.batch_id, record: o.record, also: o.also, more: o.more })"
              >
                {{ o.more.length ? "These are it" : o.also.length ? "Share out" : "This is it" }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <p v-if="!run.unit && run.state !== 'prior'" class="acts">
      <template v-if="!typing">
        <button v-for="k in canType" :key="k" class="btn small plain" @click="type(k)">
          {{ k === "fee" ? "Type the fee" : `Type ${names[k]!.toLowerCase()}` }}
        </button>
      </template>
      <template v-else>
        <b>{{ names[typing] }}</b>
        <label class="sr" for="draw-day">Day</label><DayInput id="draw-day" v-model="when" /> <label class="sr" for="draw-amount">Amount</label
        ><input id="draw-amount" v-model="amount" class="input n" style="width: 110px" placeholder="0.00" />
        <button class="btn small prime" @click="daysRead('draw-day') && set.mutate({ kind: typing as 'net', day: when, amount: typed(amount) ?? amount })">
          Keep it
        </button>
        <button class="btn small plain" @click="typing = ''">Cancel</button>
      </template>
    </p>
  </section>
</template>

<style scoped>
.draws {
  margin-top: 16px;
  font-size: 12.5px;
}
.draws table {
  table-layout: fixed;
}
.draws td {
  height: 26px;
  white-space: normal;
  line-height: 17px;
}
h3 {
  font-size: 13px;
  margin: 10px 0 2px;
}
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 8px;
}
</style>
