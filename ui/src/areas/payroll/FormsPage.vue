<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, usePayForms, usePersonW2 } from "../../api/queries";
import { day, plural } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import ChooseOne from "../../frame/ChooseOne.vue";
import { cents, figure, fromCents, isZero, plain, sum, typed as amountOf } from "../../money";
import FormPlaces from "./FormPlaces.vue";
import PayrollShell from "./PayrollShell.vue";
import PlaceWhy from "./PlaceWhy.vue";
import EmployeeStatus from "./EmployeeStatus.vue";
import W2People from "./W2People.vue";

// The forms as the runs add up to them; each figure answers why.
const route = useRoute();
const router = useRouter();
const id = useClientId();
const ask = computed(() => ({ year: Number(route.query.year ?? 0), quarter: Number(route.query.quarter ?? 0) }));
const { data: f, isPending } = usePayForms(ask);
const at = ref<{ form: string; box: string; who?: number }>();
const { data: person } = usePersonW2(computed(() => ({ employee: at.value?.who ?? 0, year: f.value?.year ?? 0 })));
const place = computed(() => (at.value?.form === "place" ? f.value?.places.find((p) => `${p.local} ${p.place}` === at.value?.box) : undefined));
const hand = computed(() => {
  if (at.value?.who) {
    const box = person.value?.id === at.value.who ? person.value.boxes.find((b) => b.box === at.value?.box) : undefined;
    return box && { form: "w2", box, who: at.value.who, name: person.value!.name };
  }
  const t = tables.value.find((x) => x.key === at.value?.form);
  const box = t?.boxes.find((b: Schemas["FormBox"]) => b.box === at.value?.box);
  return box && at.value ? { form: at.value.form, box, who: 0, name: "" } : undefined;
});
const go = (q: Record<string, number>) => void router.replace({ query: { year: f.value?.year, quarter: f.value?.quarter, ...q } });
const tables = computed(() =>
  f.value
    ? [
        { key: "941", name: `Form 941, quarter ${f.value.quarter}`, col: "Line", boxes: f.value.f941 },
        { key: "w2", name: "Form W-2, all employees", col: "Box", boxes: f.value.w2 },
        { key: "940", name: "Form 940", col: "Line", boxes: f.value.f940 },
      ]
    : [],
);
// Codes of box 12 that nobody has are many: they are shown on demand.
const every = ref(false);
const bare = (b: Schemas["FormBox"]) => b.box.startsWith("12") && isZero(b.amount) && !b.theirs && !b.fed.length;
const shownOf = (key: string, boxes: Schemas["FormBox"][]) => (key === "w2" && !every.value ? boxes.filter((b) => !bare(b)) : boxes);
const show = (key: string, b: Schemas["FormBox"]) => (b.hidden ? "hidden" : key === "941" && b.box === "1" ? String(Number(b.amount)) : figure(b.amount));
const typed = ref("");
const say = useAct(
  (client, v: string) =>
    unwrap(
      api.PUT("/api/clients/{client}/payroll/forms", {
        params: { path: { client } },
        body: {
          form: hand.value!.form as "w2",
          year: f.value!.year,
          quarter: hand.value!.form === "941" ? f.value!.quarter : undefined,
          box: hand.value!.box.box,
          employee_id: hand.value!.who || undefined,
          amount: v ? (amountOf(v) ?? v) : undefined,
        },
      }),
    ),
  () => (typed.value = ""),
  {
    undo: (_v, client) => {
      const h = hand.value!;
      const body = {
        form: h.form as "w2",
        year: f.value!.year,
        quarter: h.form === "941" ? f.value!.quarter : undefined,
        box: h.box.box,
        employee_id: h.who || undefined,
        amount: h.box.theirs || undefined,
      };
      return {
        words: `the provider's figure of box ${h.box.box}`,
        run: () => unwrap(api.PUT("/api/clients/{client}/payroll/forms", { params: { path: { client } }, body })),
      };
    },
  },
);
const employee = computed(() => f.value?.employees.find((e) => e.id === at.value?.who));
</script>

<template>
  <PayrollShell>
    <main class="bench" tabindex="0">
      <div class="head">
        <h1>Payroll forms</h1>
        <span v-if="f" class="sub"
          >{{ f.year }}, {{ plural(f.runs, "run") }}<template v-if="f.waiting">, {{ f.waiting }} of them not posted</template></span
        >
      </div>
      <p v-if="isPending" class="busy">adding the year up…</p>
      <template v-if="f">
        <div class="row">
          <ChooseOne
            id="form-year"
            :model-value="f.year"
            label="Tax year"
            :options="f.years.map((y) => ({ value: y, label: String(y) }))"
            @update:model-value="(v) => go({ year: Number(v) })"
          />
          <ChooseOne
            id="form-quarter"
            :model-value="f.quarter"
            label="Quarter"
            :options="[1, 2, 3, 4].map((q) => ({ value: q, label: `Quarter ${q}` }))"
            @update:model-value="(v) => go({ quarter: Number(v) })"
          />
        </div>
        <p v-if="f.due" class="due">
          Form 941 for quarter {{ f.quarter }} is due {{ day(f.due) }}, or {{ day(f.due_timely ?? "") }} if every deposit was made on time.
        </p>
        <ul v-if="f.notes.length" class="notes" aria-label="Notes">
          <li v-for="n in f.notes" :key="n">{{ n }}</li>
        </ul>
        <div v-if="!isZero(f.short) || !isZero(f.over)" class="said bad" role="alert">
          <p v-if="!isZero(f.short)">
            {{ plain(f.short) }} of the employees' share was withheld too little, beyond rounding. The employer owes it; it is not a fraction of cents and not
            on line 7.
          </p>
          <p v-if="!isZero(f.over)">{{ plain(f.over) }} of the employees' share was withheld too much, beyond rounding. It is owed to the employees.</p>
          <ul v-if="f.shorts.length" class="shorts">
            <li v-for="s in f.shorts" :key="`${s.run_id} ${s.employee} ${s.tax}`">
              <RouterLink :to="`/c/${id}/payroll/${s.run_id}`">Run of {{ day(s.check_date) }}</RouterLink
              >, {{ s.employee || "the run's totals" }}: {{ s.tax }} {{ plain(s.withheld) }} withheld, {{ plain(s.should) }} expected
            </li>
          </ul>
        </div>
        <section v-for="t in tables" :key="t.key">
          <h2>{{ t.name }}</h2>
          <table class="form lines">
            <thead>
              <tr>
                <th style="width: 44px">{{ t.col }}</th>
                <th>Caption</th>
                <th class="n" style="width: 118px">Amount</th>
                <template v-if="t.boxes.some((b) => b.theirs)">
                  <th class="n" style="width: 118px">Provider's</th>
                  <th class="n" style="width: 112px">Difference</th>
                </template>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="b in shownOf(t.key, t.boxes)"
                :key="b.box"
                tabindex="0"
                :class="{ hand: hand?.form === t.key && hand.box.box === b.box }"
                @click="at = { form: t.key, box: b.box }"
                @focus="at = { form: t.key, box: b.box }"
              >
                <td>
                  <b>{{ b.box }}</b>
                </td>
                <td>
                  {{ b.caption }}
                  <small v-if="b.mark === 'check' || !isZero(b.capped)" class="q"
                    ><br />{{
                      [isZero(b.capped) ? "" : "cut at the wage base", b.mark === "check" ? "Not verified against the form" : ""].filter(Boolean).join("; ")
                    }}</small
                  >
                </td>
                <td class="n">{{ show(t.key, b) }}</td>
                <template v-if="t.boxes.some((x) => x.theirs)">
                  <td class="n">{{ b.theirs ? show(t.key, { ...b, amount: b.theirs }) : "" }}</td>
                  <td class="n">
                    <span v-if="b.off" :class="isZero(b.off) ? 'ok' : 'bad'">{{ isZero(b.off) ? "✓" : plain(b.off) + " ▲" }}</span>
                  </td>
                </template>
              </tr>
            </tbody>
          </table>
          <button v-if="t.key === 'w2' && t.boxes.some(bare)" class="quiet-link more" @click="every = !every">
            {{ every ? "Only the codes of box 12 that are used" : `All codes of box 12, ${t.boxes.filter(bare).length} more` }}
          </button>
        </section>
        <section v-if="f.ties.length">
          <h2>Forms W-2 and the four Forms 941</h2>
          <table class="form lines">
            <thead>
              <tr>
                <th>Box and line</th>
                <th class="n">Forms W-2</th>
                <th class="n">Forms 941</th>
                <th class="n">Difference</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="t in f.ties" :key="t.box">
                <td>Box {{ t.box }}, line {{ t.line }}</td>
                <td class="n">{{ figure(t.w2) }}</td>
                <td class="n">{{ figure(t.f941) }}</td>
                <td class="n">
                  <span v-if="t.w2 === t.f941" class="ok">✓</span><span v-else class="bad">{{ figure(fromCents(cents(t.w2) - cents(t.f941))) }} ▲</span>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="f.ties.some((t) => t.whole && t.w2 !== t.f941)" class="q">
            Figures of more than one quarter, imported as one sum, are on Form W-2 and in no quarter of Form 941.
          </p>
        </section>
        <section v-if="f.schedule_b.length">
          <h2>Tax liability by payday, for line 16 or Schedule B</h2>
          <table class="form lines">
            <thead>
              <tr>
                <th>Check date</th>
                <th class="n">Liability</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="d in f.schedule_b" :key="d.day">
                <td>{{ day(d.day) }}</td>
                <td class="n">{{ figure(d.amount) }}</td>
              </tr>
              <tr v-for="(m, i) in f.months" :key="i">
                <td>
                  <b>Month {{ i + 1 }}</b>
                </td>
                <td class="n">
                  <b>{{ figure(m) }}</b>
                </td>
              </tr>
              <tr>
                <td><b>Total, as the registers have it</b></td>
                <td class="n">
                  <b>{{ figure(sum(f.months)) }}</b>
                </td>
              </tr>
            </tbody>
          </table>
          <p class="q">Line 12 rounds the products of the whole quarter; a difference of cents to it is shown by line 7 and the employer's share.</p>
        </section>
        <FormPlaces v-if="f.places.length" :places="f.places" :at="place && at?.box" @pick="(k) => (at = { form: 'place', box: k })" />
        <W2People v-if="f.sees_pay && f.employees.length" v-model="at" :forms="f" />
        <p v-else-if="!f.sees_pay" class="q">Each employee's form is hidden from you.</p>
      </template>
    </main>
    <aside class="why" aria-label="Why" tabindex="0">
      <PlaceWhy v-if="place && f" :place="place" :employees="f.employees" />
      <template v-else-if="hand">
        <h1>{{ hand.form === "w2" ? "Box" : "Line" }} {{ hand.box.box }}{{ hand.name ? ` of ${hand.name}` : "" }}</h1>
        <p class="sub">{{ hand.box.caption }}</p>
        <div v-for="x in hand.box.fed" :key="x.item_id + (x.fraction ?? '')" class="kv">
          <span
            >{{ x.item }}<small v-if="x.fraction && x.fraction !== 'less'" class="q">, {{ x.fraction }}</small></span
          ><span>{{ x.amount.startsWith("-") ? "less " : "" }}{{ plain(x.amount) }}</span>
        </div>
        <div v-if="!isZero(hand.box.capped)" class="kv">
          <span>above the wage base{{ hand.who ? "" : ", per employee" }}</span
          ><span>less {{ plain(hand.box.capped) }}</span>
        </div>
        <p v-if="!hand.box.fed.length" class="q" style="margin-top: 8px">
          {{ isZero(hand.box.amount) ? "No item feeds it." : "It follows from the lines above." }}
        </p>
        <h2>The provider's own form</h2>
        <form class="theirs" @submit.prevent="say.mutate(typed)">
          <label class="sr" for="theirs">What it says</label>
          <input id="theirs" v-model="typed" class="input n" :placeholder="hand.box.theirs ? plain(hand.box.theirs) : 'what it says'" />
          <button class="btn small">Lay it beside</button>
          <button v-if="hand.box.theirs && (!hand.box.theirs_from || hand.box.theirs_batch)" type="button" class="btn small plain" @click="say.mutate('')">
            remove
          </button>
        </form>
        <p v-if="hand.box.theirs" class="q">
          <template v-if="hand.box.theirs_batch"
            >{{ figure(hand.box.theirs) }}, read from
            <RouterLink :to="`/c/${id}/sheet/${hand.box.theirs_batch}?row=${hand.box.theirs_record}`"
              >{{ hand.box.theirs_from }}, row {{ hand.box.theirs_record }}</RouterLink
            ></template
          ><template v-else>{{ figure(hand.box.theirs) }}, {{ hand.box.theirs_from ? `added up from ${hand.box.theirs_from}` : "typed" }}</template
          ><template v-if="hand.box.off && !isZero(hand.box.off)">; ours is {{ plain(hand.box.off) }} apart</template>
        </p>
        <RefusalBox :error="say.error.value" />
        <EmployeeStatus v-if="employee" :employee="employee" :statuses="f!.statuses" />
        <h2>Source</h2>
        <p class="q">{{ hand.box.source }}{{ hand.box.mark === "check" ? ". Not verified against the form" : "" }}</p>
      </template>
      <template v-else>
        <h1>Where these figures come from</h1>
        <p>Every pay item feeds boxes by its kind, each with a fraction. Select a line to see the items behind it.</p>
      </template>
    </aside>
  </PayrollShell>
</template>

<style scoped>
.theirs {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.theirs .input {
  width: 110px;
}
.row {
  display: flex;
  gap: 16px;
  max-width: 420px;
}
.form {
  font-size: 12.5px;
}
.lines {
  table-layout: fixed;
}
.lines td {
  white-space: normal;
  line-height: 17px;
}
.form td {
  height: 24px;
}
h2 {
  margin: 14px 0 2px;
}
.more {
  display: block;
  padding: 6px 4px;
  font-size: 12.5px;
}
.theirs .plain {
  padding-left: 0;
}
.due {
  margin: 8px 0;
}
.notes {
  margin: 0 0 10px;
  padding: 6px 10px 6px 26px;
  border-left: 3px solid var(--rule-firm);
  line-height: 19px;
}
.shorts {
  margin: 4px 0 0;
  padding-left: 18px;
}
</style>
