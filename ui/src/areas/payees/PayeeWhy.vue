<script setup lang="ts">
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, usePayees } from "../../api/queries";
import { day } from "../../format";
import ChooseOne from "../../frame/ChooseOne.vue";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import { figure, isZero, plain, sum, typed } from "../../money";
import PayeeForm from "./PayeeForm.vue";
import { boxWords, bucketWords, paidWords } from "./payees";
import { useYear } from "./year";

// A payee: what it comes to, what is missing, how it splits, and why.
const props = defineProps<{ payee: Schemas["Payee"]; rules: Schemas["PayeesRule"][]; sees: boolean; rate: string }>();
const year = useYear();
const { data: all } = usePayees(year);
const editing = ref(false);
const adjusting = ref(false);
const joining = ref(false);
const number = ref("");
const box = ref("NEC 1");
const to = ref("");
const amount = ref("");
const why = ref("");
const other = ref(0);
const path = (client: number) => ({ params: { path: { client, payee: props.payee.id } } });
const show = useAct(
  (client) => unwrap(api.POST("/api/clients/{client}/payees/payee/{payee}/number", path(client))),
  (r) => (number.value = r.number),
);
const ask = useAct((client) => unwrap(api.POST("/api/clients/{client}/payees/w9", { params: { path: { client } }, body: { payees: [props.payee.id] } })));
async function askW9() {
  const ok = await askFirst({
    title: `Ask ${props.payee.facts.name} for a W-9?`,
    facts: [["By", props.payee.facts.email ? `mail to ${props.payee.facts.email}` : "a letter to print"]],
    undo: props.payee.facts.email ? "Mail that has left cannot be called back." : "A letter is made and kept; nothing leaves by itself.",
    act: "Ask for a W-9",
  });
  if (ok) ask.mutate(undefined);
}
const match = useAct((client) => unwrap(api.POST("/api/clients/{client}/payees/match", { params: { path: { client } }, body: { payees: [props.payee.id] } })));
const apart = useAct(
  (client, id: number) => unwrap(api.POST("/api/clients/{client}/payees/payee/{payee}/apart", { params: { path: { client, payee: id } } })),
  undefined,
  {
    undo: (other, client) => {
      const here = props.payee.id;
      return {
        words: "names told apart",
        run: () => unwrap(api.POST("/api/clients/{client}/payees/join", { params: { path: { client } }, body: { payees: [here, other] } })),
      };
    },
  },
);
const join = useAct(
  (client, id: number) => unwrap(api.POST("/api/clients/{client}/payees/join", { params: { path: { client } }, body: { payees: [props.payee.id, id] } })),
  () => (joining.value = false),
  {
    undo: (other, client) => {
      const own = (all.value?.payees ?? []).find((x) => x.id === other);
      return {
        words: `${own?.name ?? "vendor"} joined`,
        run: () => unwrap(api.POST("/api/clients/{client}/payees/payee/{payee}/apart", { params: { path: { client, payee: other } } })),
      };
    },
  },
);
const adjust = useAct(
  (client, body: Schemas["Adjustment"]) => unwrap(api.POST("/api/clients/{client}/payees/payee/{payee}/adjustments", { ...path(client), body })),
  () => ((adjusting.value = false), (amount.value = why.value = to.value = "")),
  {
    undo: (v, client, result) => ({
      words: `adjustment of ${plain(v.amount)}`,
      run: async () => {
        const made = result();
        if (made) await unwrap(api.DELETE("/api/clients/{client}/payees/adjustments/{id}", { params: { path: { client, id: made.id } } }));
      },
    }),
  },
);
const drop = useAct(
  (client, id: number) => unwrap(api.DELETE("/api/clients/{client}/payees/adjustments/{id}", { params: { path: { client, id } } })),
  undefined,
  {
    undo: (id, client) => {
      const was = props.payee.adjustments.find((a) => a.id === id);
      if (!was || was.to_box) return undefined;
      const where = path(client);
      const { year, box, amount, reason } = was;
      return {
        words: `adjustment of ${plain(amount)} removed`,
        run: () => unwrap(api.POST("/api/clients/{client}/payees/payee/{payee}/adjustments", { ...where, body: { year, box, amount, reason } })),
      };
    },
  },
);
const error = computed(
  () => show.error.value ?? ask.error.value ?? match.error.value ?? apart.error.value ?? join.error.value ?? adjust.error.value ?? drop.error.value,
);
const p = computed(() => props.payee);
const stateWords: Record<string, string> = { complete: "complete ✓", needed: "needed", wrong: "wrong", "worth a look": "worth a look" };
const charged = computed(() => {
  const by = new Map<string, string[]>();
  for (const l of p.value.lines) by.set(l.account, [...(by.get(l.account) ?? []), l.amount]);
  return [...by].map(([account, amounts]) => ({ account, amount: sum(amounts) }));
});
const on = computed(() => p.value.sums.filter((s) => s.bucket === "on a form"));
</script>

<template>
  <h1>{{ p.facts.name }}</h1>
  <template v-if="p.id > 0">
    <div class="sub">
      {{ p.facts.class || "class not said"
      }}{{ p.facts.class_from === "w9" ? ", from the W-9" : p.facts.class_from === "said" && p.facts.class ? ", as said" : ""
      }}{{ p.guess ? `; perhaps ${p.guess}` : "" }} · {{ p.facts.w9_day ? `W-9 of ${day(p.facts.w9_day)}` : "no W-9 on file" }}
    </div>
    <p v-if="on.length">
      <template v-for="(s, i) in on" :key="s.box"
        ><template v-if="i">; </template><b>{{ plain(s.amount) }}</b> is on a form: {{ boxWords(s.box, rules) }}</template
      >.
    </p>
    <p v-else-if="p.words">{{ p.words.charAt(0).toUpperCase() + p.words.slice(1) }}.</p>
    <p v-if="p.withholding" class="warn">
      Backup withholding due so far <b>{{ plain(p.withholding.due) }}</b>, {{ rate }} of {{ plain(p.withholding.base) }}, from {{ day(p.withholding.from) }};
      withheld {{ plain(p.withholding.withheld) }}: {{ p.withholding.why }}.
    </p>
    <RefusalBox :error="error" />
    <h2>{{ p.faults.length ? "What is missing or wrong" : "What a form needs" }}</h2>
    <div v-for="c in p.complete" :key="c.name" class="kv">
      <span
        >{{ c.name }}<template v-if="c.name === 'Tax number' && p.tax_id_masked">, {{ number || p.tax_id_masked }}</template></span
      ><span :class="c.state === 'complete' ? 'ok' : c.state === 'worth a look' ? 'warn' : 'bad'">{{ stateWords[c.state] ?? c.state }}</span>
    </div>
    <p v-for="x in p.faults.filter((y) => y.grade !== 'missing')" :key="x.code" :class="x.grade === 'wrong' ? 'bad' : 'warn'" class="s" style="margin-top: 4px">
      {{ x.words }}
    </p>
    <p v-if="p.match" class="s" :class="p.match.good ? 'ok' : 'bad'" style="margin-top: 4px">
      Matching, code {{ p.match.code }}: {{ p.match.words }}; {{ p.match.do }}.
    </p>
    <div class="btns">
      <button class="btn small" aria-haspopup="dialog" @click="editing = true">Say who they are</button>
      <button class="btn small" @click="askW9">Ask for a W-9…</button>
      <button v-if="p.tax_id_masked && sees && !number" class="btn small plain" @click="show.mutate(undefined)">Show the number</button>
      <button v-if="p.tax_id_masked" class="btn small plain" @click="match.mutate(undefined)">Match name and number</button>
    </div>
    <p v-if="ask.isSuccess.value" class="ok s" role="status">
      Asked {{ p.facts.email ? "by mail, in the outbox" : "by letter, to be printed from the outbox" }}.
    </p>
    <template v-if="p.joined.length > 1">
      <h2>One payee</h2>
      <div v-for="j in p.joined" :key="j.id" class="kv">
        <span>{{ j.name }}</span><span v-if="j.id !== p.id"><button class="linkish" @click="apart.mutate(j.id)">tell apart</button></span>
      </div>
      <p class="q s">{{ p.joined.some((j) => j.said) ? "joined as said" : "the same number and kind" }}; their sums are added together.</p>
    </template>
  </template>
  <p v-else-if="p.id < 0" class="warn">Nobody has settled which vendor this name is; settle it under “Who is who”.</p>
  <p v-else>These payments name no vendor. Choose lines and say whose they are, or somebody lacks a form.</p>
  <h2>How {{ paidWords(p.total) }} splits</h2>
  <div v-for="s in p.split" :key="s.bucket" class="kv">
    <span>{{ bucketWords(s.bucket) }}</span><span>{{ paidWords(s.amount) }}</span>
  </div>
  <template v-if="charged.length > 1">
    <h2>Accounts charged</h2>
    <div v-for="c in charged" :key="c.account" class="kv">
      <span>{{ c.account }}</span><span>{{ paidWords(c.amount) }}</span>
    </div>
  </template>
  <div v-for="s in p.sums" :key="s.box" class="src">
    <b>{{ s.box }}: {{ s.no_threshold ? "no threshold" : `threshold ${plain(s.threshold)}` }}</b
    ><br />{{ s.override ? `this ledger's own: ${s.override}` : s.source
    }}<template v-if="!isZero(s.withheld)"><br />withheld {{ plain(s.withheld) }}</template>
  </div>
  <template v-if="p.id > 0">
    <template v-if="p.adjustments.length">
      <h2>Adjusted by hand</h2>
      <div v-for="a in p.adjustments" :key="a.id" class="kv">
        <span
          >{{ a.box }}<small class="q"> {{ a.reason }}, by {{ a.by }}</small></span
        ><span>{{ figure(a.amount) }} <button class="linkish" @click="drop.mutate(a.id!)">take back</button></span>
      </div>
    </template>
    <div class="btns">
      <button class="btn small plain" :aria-expanded="adjusting" @click="adjusting = !adjusting">Adjust a box</button>
      <button class="btn small plain" :aria-expanded="joining" @click="joining = !joining">One payee with…</button>
    </div>
    <form v-if="adjusting" @submit.prevent="adjust.mutate({ year: p.year, box, amount: typed(amount) ?? amount, to_box: to || undefined, reason: why })">
      <ChooseOne id="adj-box" v-model="box" label="Box" :options="rules.map((r) => ({ value: r.box, label: `${r.box}, ${r.caption}` }))" />
      <ChooseOne
        id="adj-to"
        v-model="to"
        label="Moved to"
        :options="[{ value: '', label: 'not moved' }, ...rules.map((r) => ({ value: r.box, label: r.box }))]"
      />
      <div class="field"><label for="adj-amt">Amount (a minus takes off)</label><input id="adj-amt" v-model="amount" class="input n" /></div>
      <div class="field"><label for="adj-why">because</label><input id="adj-why" v-model="why" class="input" /></div>
      <button class="btn small prime" :disabled="!amount || !why.trim()">Adjust</button>
    </form>
    <form v-if="joining" @submit.prevent="join.mutate(other)">
      <ChooseOne
        id="join-with"
        v-model="other"
        label="It is one payee with"
        :options="[{ value: 0, label: 'choose' }, ...(all?.payees ?? []).filter((x) => x.id > 0 && x.id !== p.id).map((x) => ({ value: x.id, label: x.name }))]"
      />
      <button class="btn small prime" :disabled="!other">Join them</button>
    </form>
    <template v-if="p.letters.length">
      <h2>Letters</h2>
      <div v-for="l in p.letters" :key="l.id" class="kv">
        <span
          >{{ l.what === "w9" ? "W-9 asked for" : `Statement 1099-${l.form} of ${l.year}` }},
          {{ { mail: "mailed", print: "printed", hand: "by hand" }[l.how] }}</span
        ><span>{{ day(l.at.slice(0, 10)) }}</span>
      </div>
    </template>
  </template>
  <PayeeForm v-if="editing" :payee="p" @close="editing = false" />
</template>

<style scoped>
.btns {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 10px 0 2px;
}
p {
  margin-top: 6px;
}
</style>
