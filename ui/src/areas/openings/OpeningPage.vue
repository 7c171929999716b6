<script setup lang="ts">
import { computed, nextTick, ref } from "vue";
import { api, unwrap } from "../../api/client";
import { useAct, useClientId, useOpening, useUnits } from "../../api/queries";
import { day, plural } from "../../format";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useReverse } from "../../frame/reverse";
import WhyPane from "../../frame/WhyPane.vue";
import { useKeys } from "../../keys";
import { isCredit, isZero, plain, words } from "../../money";
import OpeningShell from "./OpeningShell.vue";
import OpeningTape from "./OpeningTape.vue";
import FigureTable from "../../frame/FigureTable.vue";

const id = useClientId();
const { data: d, isPending } = useOpening();
const { data: units } = useUnits();
const text = ref("");
const at = ref(0);
const post = useAct((client) => unwrap(api.POST("/api/clients/{client}/opening/post", { params: { path: { client } } })), undefined, { grave: true });
const back = useReverse();

const close = useAct((client, value: string) =>
  unwrap(api.POST("/api/clients/{client}/openings/choice", { params: { path: { client } }, body: { key: "close-year", value } })),
);

const lines = computed(() => (d.value?.lines ?? []).filter((l) => `${l.old} ${l.account}`.toLowerCase().includes(text.value.toLowerCase())));
const inHand = computed(() => d.value?.lines.find((l) => l.fact_id === at.value));
const postedIsThis = computed(() => !!d.value?.unit && d.value.unit_batch === d.value.batch_id);
const unit = computed(() => units.value?.find((u) => u.id === d.value?.unit));
const wayWords: Record<string, string> = {
  line: "",
  control: "waits for open items",
  unplaced: "not yet placed",
  nothing: "0.00",
  "left out": "left out, adds up to 0.00",
};
const loose = computed(() => (d.value?.lines ?? []).filter((l) => l.way === "unplaced" && !isZero(l.amount)));

// The year's result, debit positive: a debit is a loss.
const outcome = (m: string) => `${isCredit(m) ? "a profit" : "a loss"} of ${plain(m)}`;
const verb = computed(() => {
  if (!d.value) return "";
  const n = d.value.lines.length;
  const stays = d.value.unplaced ? `; ${d.value.unplaced} ${d.value.unplaced === 1 ? "stays" : "stay"} unplaced` : "";
  const what = `${plural(n, "row")}, ${plain(d.value.debit)}${stays}`;
  return d.value.unit ? `Reverse ${unit.value?.batch_name ?? "the posted file"} and post ${what}` : `Post ${what}`;
});
// Where a posted file is reversed by it, posting asks first.
async function postIt() {
  const u = unit.value;
  if (u) {
    const ok = await askFirst({
      title: `Reverse ${u.batch_name} and post ${d.value!.batch_name}?`,
      facts: [
        ["Reversed", `${u.batch_name}, ${plural(u.lines, "line")}, ${plain(u.amount)}`],
        ["Posted", `${d.value!.batch_name}, ${plural(d.value!.lines.length, "row")}, ${plain(d.value!.debit)}`],
        ["Dated", day(d.value!.day)],
      ],
      undo: "You can undo this: reverse the new opening, then post the earlier file again.",
      act: verb.value,
    });
    if (!ok) return;
  }
  post.mutate(undefined);
}
function move(n: number) {
  const i = lines.value.findIndex((l) => l.fact_id === at.value);
  at.value = lines.value[Math.max(0, Math.min(lines.value.length - 1, i + n))]?.fact_id ?? 0;
  void nextTick(() => document.querySelector("tr.hand")?.scrollIntoView({ block: "nearest" }));
}
function nextLoose() {
  const list = (d.value?.lines ?? []).filter((l) => l.way === "unplaced");
  const i = list.findIndex((l) => l.fact_id === at.value);
  const next = list[(i + 1) % Math.max(1, list.length)];
  if (next) at.value = next.fact_id;
}
useKeys([
  { key: "j", words: "next row", run: () => move(1) },
  { key: "k", words: "previous row", run: () => move(-1) },
  { key: "ArrowDown", words: "next row", run: () => move(1) },
  { key: "ArrowUp", words: "previous row", run: () => move(-1) },
  { key: "p", words: "next row not yet placed", run: nextLoose },
]);
const print = () => window.print();
</script>

<template>
  <OpeningShell v-model:filter="text">
    <template #tape><OpeningTape v-if="d?.batch_id" :draft="d" /><span v-else /></template>
    <RefusalBox :error="post.error.value ?? back.error.value ?? close.error.value" />
    <p v-if="isPending" class="busy">drafting the entry…</p>
    <div v-else-if="!d?.batch_id" class="empty">
      <b>No trial balance yet</b>Bring the old system's trial balance as of {{ day(d?.day) }}, as it came, with its titles and totals: CSV, XLSX, a standard
      audit file (SAF-T), or rows pasted from a spreadsheet. It is read on a sheet first; nothing is posted until you say so.
    </div>
    <template v-else>
      <div class="stand">
        <template v-if="postedIsThis">
          <p>
            <b class="ok">Posted ✓</b> <span class="q">{{ d.batch_name }}, {{ plural(d.lines.length, "row") }}, dated {{ day(d.day) }}.</span>
            <button
              style="margin-left: 8px"
              class="linkish noprint"
              :disabled="back.pending.value"
              @click="back.reverse(d.unit!, 'the opening entry', 'You can undo this: post the same file again.')"
            >
              {{ back.words(d.unit!) }}…
            </button>
          </p>
        </template>
        <template v-else>
          <p><b>Draft, not posted</b></p>
          <p v-for="b in d.blocks" :key="b.words" class="bad">{{ b.words }}</p>
          <p v-if="d.missing_roles.length" class="q">
            Posting also makes {{ plural(d.missing_roles.length, "account") }} that nobody holds yet:
            <template v-for="(m, i) in d.missing_roles" :key="m.role"><template v-if="i">, </template>{{ m.number }} {{ m.name }}</template
            >.
          </p>
          <button class="btn prime noprint" :disabled="d.blocks.length > 0 || post.isPending.value" @click="postIt">
            {{ post.isPending.value ? "posting…" : verb }}
          </button>
        </template>
        <p v-if="d.year_end" class="warn">
          {{
            d.year_end.chosen
              ? `Closing ${outcome(d.year_end.result)} to ${d.year_end.account || d.year_end.role} is part of the entry.`
              : `${d.year_end.words.charAt(0).toUpperCase()}${d.year_end.words.slice(1)}.`
          }}
          <button class="btn small noprint" style="margin: 6px 0 0" @click="close.mutate(d.year_end.chosen ? '' : 'yes')">
            {{ d.year_end.chosen ? "Leave the year open" : `Add the line that closes ${outcome(d.year_end.result)} to ${d.year_end.account || d.year_end.role}`
            }}{{ postedIsThis ? ", posting the opening anew" : "" }}
          </button>
        </p>
        <p v-for="n in d.notes.filter((x) => x !== d!.year_end?.words)" :key="n" class="q s">{{ n }}</p>
        <p class="s noprint">
          Old and new side by side: <a :href="`/api/clients/${id}/books/old-new.csv`">as CSV</a>, <button class="linkish" @click="print">to print</button>
        </p>
      </div>
      <section v-if="d.diff.length" aria-label="Against what is posted">
        <h2>Against what is posted: {{ plural(d.diff.length, "row") }} differ</h2>
        <FigureTable class="diff" :give="[1, 2]">
          <thead>
            <tr>
              <th>Old account</th>
              <th>What</th>
              <th class="n">Posted</th>
              <th class="n">This file</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="x in d.diff" :key="x.label">
              <td>{{ x.label }}</td>
              <td>{{ x.what }}</td>
              <td class="n">{{ x.what === "new" ? "–" : words(x.before) }}</td>
              <td class="n">{{ x.what === "gone" ? "–" : words(x.after) }}</td>
            </tr>
          </tbody>
        </FigureTable>
      </section>
      <FigureTable class="lines" :give="[2, 5, 6]">
        <thead>
          <tr>
            <th style="width: 34px">Row</th>
            <th>Old account</th>
            <th class="n" style="width: 92px">Debit</th>
            <th class="n" style="width: 92px">Credit</th>
            <th>Goes to</th>
            <th style="width: 118px">State</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in lines" :key="l.fact_id" class="can" :class="{ hand: l.fact_id === at }" @click="at = l.fact_id">
            <td class="q">{{ l.record }}</td>
            <td>
              <button class="quiet-link" @click.stop="at = l.fact_id">{{ l.old }}</button>
            </td>
            <td class="n">{{ isCredit(l.amount) ? "" : plain(l.amount) }}</td>
            <td class="n">{{ isCredit(l.amount) ? plain(l.amount) : "" }}</td>
            <td>
              <RouterLink v-if="l.account_id" class="quiet-link" :to="`/c/${id}/books/register/${l.account_id}`">{{ l.account }}</RouterLink><span
                v-else
                class="q"
                >{{ l.account || "–" }}</span
              >
            </td>
            <td>
              <RouterLink v-if="l.way === 'unplaced'" class="warn" :to="`/c/${id}/openings/rack?label=${l.label_id}`">not yet placed</RouterLink
              ><span v-else class="q s">{{ wayWords[l.way] }}</span>
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td></td>
            <td>in all</td>
            <td class="n">{{ plain(d.debit) }}</td>
            <td class="n">{{ plain(d.credit) }}</td>
            <td></td>
            <td>
              <span v-if="isZero(d.difference)" class="ok">in balance ✓</span><span v-else class="bad">{{ words(d.difference) }} over</span>
            </td>
          </tr>
        </tfoot>
      </FigureTable>
    </template>
    <template #why>
      <template v-if="inHand">
        <h1>{{ inHand.old }}</h1>
        <div class="sub">{{ words(inHand.amount) }}</div>
        <p>{{ inHand.reason }}</p>
        <h2>Where it comes from</h2>
        <WhyPane :what="{ fact: inHand.fact_id }" />
      </template>
      <template v-else>
        <h1>The opening entry</h1>
        <p>One entry, dated the day before the opening day. Receivables and payables land in their clearing accounts; the open items clear them later.</p>
        <template v-if="loose.length"
          ><h2>Waiting in the clearing account</h2>
          <div v-for="l in loose.slice(0, 8)" :key="l.fact_id" class="kv">
            <RouterLink :to="`/c/${id}/openings/rack?label=${l.label_id}`">{{ l.old }}</RouterLink><span>{{ words(l.amount) }}</span>
          </div>
          <p v-if="loose.length > 8" class="q">
            and {{ loose.length - 8 }} more, <RouterLink :to="`/c/${id}/openings/rack?show=loose`">all of them on the rack</RouterLink>
          </p>
        </template>
      </template>
      <div class="keys">
        <span><kbd>p</kbd>next loose end</span><span><kbd>b</kbd>books</span><span><kbd>?</kbd>keys</span>
      </div>
    </template>
  </OpeningShell>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 356px minmax(0, 1fr);
  gap: 22px;
  margin-bottom: 16px;
  align-items: start;
}
.stand p {
  margin-bottom: 7px;
  line-height: 19px;
}
.stand .btn {
  margin-bottom: 8px;
  height: auto;
  min-height: 30px;
  white-space: normal;
  text-align: left;
}
.lines td,
.diff td {
  height: 26px;
  font-size: 12.5px;
}
.lines {
}
.lines td {
}
tfoot td {
  font-weight: 650;
  border-top: 1px solid var(--ink);
  border-bottom: 0;
}
section {
  margin-bottom: 16px;
}
</style>
