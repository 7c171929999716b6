<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useParties, usePayee } from "../../api/queries";
import { day, plural } from "../../format";
import ChooseOne from "../../frame/ChooseOne.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import StatePeg from "../../frame/StatePeg.vue";
import { isZero, sum } from "../../money";
import { bucketWords, linesOf, paidWords, samePayment } from "./payees";
import FigureTable from "../../frame/FigureTable.vue";

// Every payment line of a payee with its bucket and the reason; what a person says of
// chosen lines is kept with them.
const props = defineProps<{ payee: Schemas["Payee"]; rules: Schemas["PayeesRule"][] }>();
const emit = defineEmits<{ account: [key: string] }>();
const id = useClientId();
const picked = ref<number[]>([]);
const act = ref("method");
const value = ref("");
const reason = ref("");
const { data: parties } = useParties();
// A box of a form leads here with its name: only the lines that it is made of.
const route = useRoute();
const router = useRouter();
const of = computed(() => String(route.query.of ?? ""));
const showAll = () => void router.replace({ query: { ...route.query, of: undefined } });
watch(
  () => props.payee.id,
  () => {
    picked.value = [];
    if (of.value) showAll(); // the box was of the payee before
  },
);
// What a void or refund undoes may have been paid the year before.
const { data: before } = usePayee(
  computed(() => ({ id: props.payee.id, year: props.payee.year - 1 })),
  computed(() => act.value === "undoes" && props.payee.id > 0),
);
const lines = computed(() => linesOf(props.payee.lines, of.value));
const ofOne = (i: number) => samePayment(lines.value, i);
const short = (d: string) => day(d).replace(/ \d{4}$/, "");
const say = useAct(
  (client, body: Schemas["Override"]) => unwrap(api.PUT("/api/clients/{client}/payees/lines", { params: { path: { client } }, body })),
  () => ((picked.value = []), (value.value = ""), (reason.value = "")),
  {
    undo: (v, client) =>
      v.take_back
        ? undefined
        : {
            words: `an answer for ${plural(v.lines.length, "payment line")}`,
            run: () => unwrap(api.PUT("/api/clients/{client}/payees/lines", { params: { path: { client } }, body: { lines: v.lines, take_back: true } })),
          },
  },
);
const acts = [
  { value: "method", label: "These were paid by…" },
  { value: "box", label: "This line counts in box…" },
  { value: "bucket", label: "This line is…" },
  { value: "party", label: "The vendor is…" },
  { value: "undoes", label: "It undoes the payment…" },
  { value: "back", label: "Take back what was said" },
];
const choices = computed(() => {
  switch (act.value) {
    case "method":
      return ["check", "transfer", "wire", "cash", "cashier's check", "money order", "card", "network"].map((v) => ({ value: v, label: v }));
    case "box":
      return props.rules.filter((r) => !r.by_hand).map((r) => ({ value: r.box, label: `${r.box}, ${r.caption}` }));
    case "bucket":
      return ["account not reportable", "paid by a method others report", "payee exempt", "on a form"].map((v) => ({ value: v, label: v }));
    case "party":
      return (parties.value ?? []).filter((p) => p.active).map((p) => ({ value: String(p.id), label: p.name }));
    case "undoes":
      return [...(before.value?.lines ?? []), ...lines.value]
        .filter((l) => l.id && !l.amount.startsWith("-") && !samePayment(lines.value, lines.value.indexOf(l)))
        .map((l) => ({ value: String(l.id), label: `${day(l.day)}, ${l.method}, ${paidWords(l.amount)}` }));
  }
  return [];
});
const needsReason = computed(() => act.value === "box" || act.value === "bucket");
watch(act, () => (value.value = ""));
function send() {
  const v = value.value;
  const why = { reason: reason.value };
  const words: Record<string, Partial<Schemas["Override"]>> = {
    method: { method: v },
    box: { box: v, ...why },
    bucket: { bucket: v, ...why },
    party: { party_id: Number(v) },
    undoes: { undoes: Number(v) },
    back: { take_back: true },
  };
  say.mutate({ lines: picked.value, ...words[act.value] });
}
const ready = computed(() => act.value === "back" || (value.value && (!needsReason.value || reason.value.trim())));
const where = (l: Schemas["PaidView"]) => (l.batch ? `/c/${id.value}/sheet/${l.batch}?row=${l.record}` : `/c/${id.value}/books/posted?unit=${l.unit_id}`);
</script>

<template>
  <section class="lines">
    <RefusalBox :error="say.error.value" />
    <div v-if="picked.length" class="saying" role="group" aria-label="Say something of the chosen lines">
      <ChooseOne id="word-act" v-model="act" :label="`Of ${plural(picked.length, 'line')}`" :options="acts" />
      <ChooseOne v-if="act !== 'back'" id="word-value" v-model="value" label="which" :options="[{ value: '', label: 'choose' }, ...choices]" />
      <div v-if="needsReason" class="field">
        <label for="word-why">because</label><input id="word-why" v-model="reason" class="input" placeholder="the reason is kept" />
      </div>
      <span class="acts">
        <button class="btn small prime" :disabled="!ready || say.isPending.value" @click="send">Say it</button>
        <button class="btn small plain" @click="picked = []">Cancel</button>
      </span>
    </div>
    <p v-if="of" class="of">
      <span
        >{{ of === "withheld" ? "Lines with tax withheld" : `Lines in box ${of}` }}, of {{ plural(payee.lines.length, "line")
        }}{{ payee.more ? ` shown; ${payee.more} more in the worksheet` : "" }}. An adjustment stands beside, not among them.</span
      >
      <button class="btn small" @click="showAll">Show all lines</button>
    </p>
    <FigureTable :give="[3, 5]">
      <thead>
        <tr>
          <th style="width: 22px"></th>
          <th style="width: 80px">Paid</th>
          <th>Account and bucket</th>
          <th class="n" style="width: 98px">Amount</th>
          <th style="width: 92px">Peg</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(l, i) in lines" :key="`${l.id}-${l.entry_id ?? 0}-${i}`" :class="{ loose: l.bucket === 'undecided', tied: ofOne(i) }">
          <td><input v-if="l.id" v-model="picked" type="checkbox" :value="l.id" :aria-label="`choose ${l.account} of ${day(l.day)}`" /></td>
          <td>
            <RouterLink class="quiet-link" :to="where(l)" :title="l.batch ? 'the row it came from' : 'the entry'">{{
              ofOne(i) ? "as above" : short(l.day)
            }}</RouterLink><small>{{ ofOne(i) ? "" : l.method }}</small>
          </td>
          <td>
            <button class="quiet-link" @click="emit('account', l.key)">{{ l.account || "no account named" }}</button><small class="why-line" :title="l.reason"
              >{{ bucketWords(l.bucket) }}: {{ l.reason }}</small
            >
          </td>
          <td class="n">
            {{ paidWords(l.amount) }}<small v-if="!isZero(l.withheld)">withheld {{ paidWords(l.withheld) }}</small>
          </td>
          <td>
            <span v-if="l.bucket === 'of another year'" class="q">–</span><StatePeg v-else-if="!l.box" :state="l.state" /><span v-else class="state"
              ><i class="peg set" aria-hidden="true" />{{ l.box }}</span
            >
            <small v-if="l.suggested_method" class="warn">{{ l.suggested_method }}?</small>
          </td>
        </tr>
        <tr v-if="!lines.length">
          <td colspan="5" class="q">{{ of ? "None of the lines shown is in it; an adjustment may be." : payee.words || "Nothing was paid in this year." }}</td>
        </tr>
      </tbody>
      <tfoot v-if="lines.length">
        <tr>
          <td></td>
          <td colspan="2">
            <b>{{ plural(lines.length, "line") }}{{ payee.more && !of ? `, ${payee.more} more in the worksheet` : "" }}</b>
          </td>
          <td class="n">
            <b>{{ paidWords(of ? sum(lines.map((l) => (of === "withheld" ? l.withheld : l.amount))) : payee.total) }}</b>
          </td>
          <td></td>
        </tr>
      </tfoot>
    </FigureTable>
  </section>
</template>

<style scoped>
.of {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
  margin: 0 0 6px;
  font-size: 12.5px;
}
.lines {
  min-width: 0;
  flex: 1;
}
table {
  font-size: 12.5px;
}
td {
  height: 40px;
  line-height: 17px;
}
td small {
  display: block;
  font-size: 12px;
  line-height: 15px;
  color: var(--quiet);
}
td small.why-line {
  white-space: normal;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-clamp: 2;
}
td {
  padding-top: 3px;
  padding-bottom: 3px;
}
td small.warn {
  color: var(--warn);
}
tr.loose td {
  background: var(--hand);
}
tr.tied td:nth-child(2) {
  box-shadow: inset 2px 0 0 var(--brass);
}
tfoot td {
  height: 28px;
}
.saying {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 10px;
  align-items: end;
  background: var(--hand);
  padding: 8px 10px 0;
  margin-bottom: 8px;
}
.saying .acts {
  grid-column: 1 / 3;
  padding-bottom: 8px;
}
</style>
