<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useOutbox, usePayeeForms } from "../../api/queries";
import { day, few, plural } from "../../format";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import { isZero, plain, sum } from "../../money";
import FormPreview from "./FormPreview.vue";
import PayeeHead from "./PayeeHead.vue";
import PayeeShell from "./PayeeShell.vue";
import { dueWords } from "./payees";
import { useYear } from "./year";

// Every form of the year: what stands in its boxes, what is wrong with it, how the
// payee got theirs; the totals, deadlines and documents.
const id = useClientId();
const route = useRoute();
const year = useYear();
const { data: f, isPending } = usePayeeForms(year);
const { data: letters } = useOutbox();
const shown = ref(50);
// The days with more than one letter to print, the latest first.
const stacks = computed(() => {
  const days = new Map<string, number>();
  for (const l of letters.value ?? []) if (l.how === "print") days.set(l.at.slice(0, 10), (days.get(l.at.slice(0, 10)) ?? 0) + 1);
  return [...days].filter(([, n]) => n > 1).map(([day, n]) => ({ day, n }));
});
const picked = ref<string[]>([]);
const at = ref("");
const right = ref("0");
const down = ref("0");
const key = (x: Schemas["PayeeForm"]) => `${x.payee} ${x.kind}`;
const hand = computed(() => f.value?.forms.find((x) => key(x) === at.value) ?? f.value?.forms[0]);
const payees = computed(() => [...new Set(picked.value.map((k) => Number(k.split(" ")[0])))]);
const all = computed({
  get: () => !!f.value?.forms.length && picked.value.length === f.value.forms.length,
  set: (v) => (picked.value = v ? (f.value?.forms ?? []).map(key) : []),
});
const give = useAct(
  (client, v: { how: "mail" | "print" | "hand"; payees: number[] }) =>
    unwrap(api.POST("/api/clients/{client}/payees/statements", { params: { path: { client }, query: { year: year.value } }, body: v })),
  () => (picked.value = []),
  { grave: true },
);
const chosenForms = computed(() => (f.value?.forms ?? []).filter((x) => picked.value.includes(key(x))));
const figures = (forms: Schemas["PayeeForm"][]) => sum(forms.flatMap((x) => x.boxes.map((b) => b.amount)));
const factsOf = (forms: Schemas["PayeeForm"][]): [string, string][] => [
  ["Payer", f.value!.payer.name],
  ["Year", String(f.value!.year)],
  ["Forms", `${plural(forms.length, "form")}, ${plain(figures(forms))}`],
  ["Payees", names(forms)],
];
const names = (forms: Schemas["PayeeForm"][]) => few([...new Set(forms.map((x) => x.name))]);
// What is unfinished, in the server's words; undefined, with the error shown, if it does not answer.
const failed = ref<Error>();
async function doubtsNow(): Promise<string[] | undefined> {
  failed.value = undefined;
  try {
    const path = { client: id.value };
    return (await unwrap(api.GET("/api/clients/{client}/payees/filing/before", { params: { path, query: { year: f.value!.year } } }))).doubts;
  } catch (e) {
    failed.value = e as Error;
    return undefined;
  }
}
async function giveIt(way: "mail" | "print" | "hand") {
  // A statement goes out electronically only with the payee's consent.
  const agreed = (x: Schemas["PayeeForm"]) => way !== "mail" || (!!x.e_consent && !!x.email);
  const forms = chosenForms.value.filter(agreed);
  const rest = chosenForms.value.filter((x) => !agreed(x));
  if (!forms.length) {
    failed.value = new Error(
      "None of the chosen payees has agreed to get the statement electronically. Print it, or keep the day of the consent with the payee.",
    );
    return;
  }
  const what = plural(forms.length, "statement");
  const ask = {
    mail: {
      title: `Mail ${what} to payees?`,
      undo: "This cannot be undone: mail that has left cannot be called back.",
      act: `Mail ${what}, ${plain(figures(forms))}`,
    },
    print: {
      title: `Note ${what} as printed and sent?`,
      undo: "It is kept with today's date and cannot be undone; print them under Documents first.",
      act: `Note ${what} as printed`,
    },
    hand: { title: `Note ${what} as handed over?`, undo: "It is kept with today's date and cannot be undone.", act: `Note ${what} as handed over` },
  }[way];
  const doubts = await doubtsNow();
  const facts = factsOf(forms);
  if (rest.length) facts.push(["Not mailed", `no consent or address, print theirs: ${names(rest)}`]);
  if (doubts && (await askFirst({ ...ask, facts, doubts }))) give.mutate({ how: way, payees: [...new Set(forms.map((x) => x.payee))] });
}
// Figures on official stock, and the table with whole numbers, leave the office as they are.
async function official(kind: string) {
  const forms = (chosenForms.value.length ? chosenForms.value : f.value!.forms).filter((x) => x.kind === kind);
  const doubts = await doubtsNow();
  if (!doubts) return;
  const ok = await askFirst({
    title: `Print ${plural(forms.length, "form")} 1099-${kind} on official stock?`,
    facts: factsOf(forms),
    undo: "Print the alignment test first: used stock cannot be used again. Nothing is filed by printing.",
    doubts,
    act: `Print ${plural(forms.length, "form")}, ${plain(figures(forms))}`,
  });
  if (ok) location.assign(doc("stock", `&kind=${kind}${offsets.value}${chosen.value}`));
}
async function efile() {
  const forms = f.value!.forms.filter((x) => !x.blocked);
  const doubts = await doubtsNow();
  if (!doubts) return;
  const ok = await askFirst({
    title: "Download the e-file table with whole tax numbers?",
    facts: factsOf(forms),
    undo: "A file that has left cannot be called back. It holds whole tax numbers; that it left, and by whom, is kept in the history.",
    doubts,
    act: `Download ${plural(forms.length, "form")}, ${plain(figures(forms))}`,
  });
  if (ok) location.assign(`/api/clients/${id.value}/payees/efile.csv?year=${f.value!.year}`);
}
const doc = (what: string, more = "") => `/api/clients/${id.value}/payees/forms.pdf?for=${what}&year=${f.value?.year ?? 0}${more}`;
const chosen = computed(() => payees.value.map((p) => `&payees=${p}`).join(""));
const offsets = computed(() => `&right=${Number(right.value) || 0}&down=${Number(down.value) || 0}`);
const how: Record<string, string> = { mail: "mailed", print: "printed", hand: "by hand" };
const sentWords = (x: Schemas["PayeeForm"]) => (x.sent === "accepted" ? "accepted ✓" : x.sent || (x.blocked ? "has a fault" : "to send"));
</script>

<template>
  <PayeeShell>
    <main class="bench" tabindex="0">
      <PayeeHead />
      <p v-if="isPending" class="busy">filling the boxes…</p>
      <template v-else-if="f">
        <RefusalBox :error="failed ?? give.error.value" />
        <div v-if="!f.forms.length" class="empty">
          <b>No form of {{ f.year }}</b
          >{{ f.blank.join("; ") || "Nobody met a threshold." }}.
        </div>
        <template v-else>
          <div class="do">
            <span>
              <b>{{ plural(f.forms.length, "form") }}</b>{{
                f.undecided ? `; ${plural(f.undecided, "payee")} stay undecided, ${plain(f.undecided_amount)}` : ""
              }}
            </span>
            <span class="acts">
              <button class="btn small" :disabled="!picked.length" @click="giveIt('mail')">Mail statements…</button>
              <button class="btn small" :disabled="!picked.length" @click="giveIt('print')">Printed…</button>
              <button class="btn small" :disabled="!picked.length" @click="giveIt('hand')">Handed over…</button>
            </span>
          </div>
          <table class="forms">
            <thead>
              <tr>
                <th style="width: 26px"><input v-model="all" type="checkbox" aria-label="choose all forms" /></th>
                <th>Payee</th>
                <th style="width: 52px">Form</th>
                <th style="width: 142px">Boxes</th>
                <th style="width: 108px">Number</th>
                <th style="width: 88px">Statement</th>
                <th style="width: 84px">Filing</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="x in f.forms" :key="key(x)" class="can" :class="{ hand: hand && key(x) === key(hand) }" @click="at = key(x)">
                <td><input v-model="picked" type="checkbox" :value="key(x)" :aria-label="`choose ${x.name}, ${x.kind}`" @click.stop /></td>
                <td>
                  <button class="quiet-link" @click.stop="at = key(x)">{{ x.name }}</button>
                  <small v-if="x.blocked" class="bad">{{ x.faults.find((y) => y.grade !== "worth a look")?.words }}</small>
                </td>
                <td>{{ x.kind }}</td>
                <td>
                  <span v-for="b in x.boxes" :key="b.box" class="bx"
                    ><i>{{ b.box.split(" ")[1] }}</i
                    >{{ plain(b.amount) }}</span
                  ><span v-if="!isZero(x.withheld)" class="bx"><i>4</i>{{ plain(x.withheld) }}</span>
                </td>
                <td class="q">{{ x.tax_id_masked || "none" }}</td>
                <td class="q">{{ x.handed.length ? `${how[x.handed[0]!.how]} ${day(x.handed[0]!.at.slice(0, 10)).replace(/ \d{4}$/, "")}` : "–" }}</td>
                <td :class="x.sent === 'accepted' ? 'ok' : x.blocked || x.sent === 'rejected' ? 'bad' : 'q'">{{ sentWords(x) }}</td>
              </tr>
            </tbody>
          </table>
          <FormPreview v-if="hand" :key="key(hand)" :form="hand" :year="f.year" :payer="f.payer" />
        </template>
      </template>
      <section v-if="letters?.length" class="letters">
        <h2>Letters that went out</h2>
        <p v-for="s in stacks" :key="s.day" class="q">
          {{ plural(s.n, "letter") }} of {{ day(s.day) }} to print:
          <a :href="`/api/clients/${id}/payees/outbox/stack.pdf?day=${s.day}`">one PDF in the order of names</a>
        </p>
        <table>
          <tbody>
            <tr v-for="l in letters.slice(0, shown)" :key="l.id">
              <td style="width: 84px">{{ day(l.at.slice(0, 10)) }}</td>
              <td>{{ l.name }}</td>
              <td>{{ l.what === "w9" ? "W-9 asked for" : `1099-${l.form} of ${l.year}` }}</td>
              <td>{{ how[l.how] }}{{ l.address ? ` to ${l.address}` : "" }}, {{ l.by }}</td>
              <td style="width: 60px"><a :href="`/api/clients/${id}/payees/outbox/${l.id}/paper.pdf`">paper</a></td>
            </tr>
          </tbody>
        </table>
        <button v-if="letters.length > shown" class="btn small plain" @click="shown += 200">
          show {{ Math.min(200, letters.length - shown) }} earlier of {{ letters.length }}
        </button>
      </section>
    </main>
    <aside class="why" aria-label="Totals, deadlines and documents" tabindex="0">
      <template v-if="f">
        <h1>Totals, by kind of form</h1>
        <div class="sub">Form 1096 goes only with paper.</div>
        <div v-for="t in f.totals" :key="t.kind" class="kv">
          <span
            >1099-{{ t.kind }}, {{ plural(t.count, "form") }}<template v-if="!isZero(t.withheld)">, withheld {{ plain(t.withheld) }}</template></span
          ><span>{{ plain(t.total) }}</span>
        </div>
        <h2>Due</h2>
        <div v-for="d in f.due" :key="d.form + d.to" class="kv">
          <span
            >{{ d.form === "945" ? "Form 945" : `1099-${d.form}` }} to {{ d.to
            }}<small v-if="d.form === '945'" class="q"
              >, withheld {{ plain(f.withheld) }}<template v-if="d.timely">; due {{ day(d.timely) }} if every deposit was on time</template></small
            ></span
          ><span :class="{ warn: d.days_left >= 0 && d.days_left < 31 }"
            >{{ day(d.on) }}<br /><small class="q">{{ dueWords(d) }}</small></span
          >
        </div>
        <div class="src">
          <b>{{ f.returns }} returns in the year{{ f.w2s ? `, ${f.w2s} W-2s among them` : "" }}</b
          ><br />{{ f.must_be_electronic ? "Ten or more must be filed electronically." : "Fewer than ten may go on paper." }} {{ f.electronic_source }}
        </div>
        <p v-if="f.payer.missing.length" class="bad">
          The payer's {{ f.payer.missing.join(", ") }} is missing; say it in the <RouterLink :to="`/c/${id}/brief`">brief</RouterLink>.
        </p>
        <h2>Documents</h2>
        <ul class="docs">
          <li>
            <a :href="doc('payer', chosen)">The payer's file copy{{ picked.length ? `, ${payees.length} chosen` : "" }}</a>
          </li>
          <li>
            <a :href="doc('payee', chosen)">Statements for payees{{ picked.length ? `, ${payees.length} chosen` : ", all" }}</a>
          </li>
          <li>
            Worksheet, every line: <a :href="`/api/clients/${id}/payees/worksheet/csv?year=${f.year}`">CSV</a>,
            <a :href="`/api/clients/${id}/payees/worksheet/xlsx?year=${f.year}`">XLSX</a>
          </li>
          <li><button class="linkish" @click="efile">E-file table, whole numbers…</button></li>
        </ul>
        <h2>On official stock</h2>
        <div class="off">
          <label for="off-r">right, mm</label><input id="off-r" v-model="right" class="input n" /><label for="off-d">down, mm</label
          ><input id="off-d" v-model="down" class="input n" />
        </div>
        <ul class="docs">
          <li v-for="k in ['NEC', 'MISC']" :key="k">
            1099-{{ k }}: <button class="linkish" :disabled="!f.forms.some((x) => x.kind === k)" @click="official(k)">figures…</button>,
            <a :href="doc('test', `&kind=${k}${offsets}`)">alignment test</a>
          </li>
        </ul>
        <p class="q s"><RouterLink :to="{ path: `/c/${id}/payees/filing`, query: route.query }">Send them to a filing service</RouterLink></p>
      </template>
    </aside>
  </PayeeShell>
</template>

<style scoped>
.do {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 4px;
}
.forms {
  table-layout: fixed;
  font-size: 12.5px;
}
/* In a narrow window the names need the room; the form below shows the number. */
@media (max-width: 1199px) {
  .forms :is(th, td):nth-child(5) {
    display: none;
  }
}
.forms td {
  height: 32px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.forms small {
  display: block;
  font-size: 12px;
  font-weight: 400;
  line-height: 15px;
  white-space: normal;
}
.bx {
  margin-right: 10px;
  font-variant-numeric: tabular-nums;
}
.bx i {
  font-style: normal;
  color: var(--quiet);
  margin-right: 4px;
}
.letters {
  margin: 6px 0 16px;
  font-size: 12.5px;
}
.letters td {
  height: 26px;
}
.docs {
  margin: 2px 0;
  padding-left: 16px;
}
.docs li {
  line-height: 22px;
}
.off {
  display: grid;
  grid-template-columns: auto 62px auto 62px;
  gap: 6px;
  align-items: center;
  color: var(--quiet);
  font-size: 12px;
}
</style>
