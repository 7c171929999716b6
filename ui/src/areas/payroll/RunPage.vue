<script setup lang="ts">
import { computed, nextTick, ref, watch } from "vue";
import { useRoute } from "vue-router";
import { api, unwrap } from "../../api/client";
import { useAct, useClientId, usePayroll, useRun } from "../../api/queries";
import { day, plural } from "../../format";
import AcceptLook from "../../frame/AcceptLook.vue";
import { choosable } from "../../frame/offers";
import PaperList from "../../frame/PaperList.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useReverse } from "../../frame/reverse";
import { useKeys } from "../../keys";
import { figure, isZero, plain, sum, words } from "../../money";
import ItemWhy from "./ItemWhy.vue";
import { offersOf } from "./payroll";
import PayrollShell from "./PayrollShell.vue";
import RulesBox from "./RulesBox.vue";
import RunDraws from "./RunDraws.vue";
import RunPeople from "./RunPeople.vue";
import OfficerShares from "./OfficerShares.vue";
import RunChanges from "./RunChanges.vue";
import RunEntries from "./RunEntries.vue";
import RunFactsBox from "./RunFactsBox.vue";
import RunTable from "./RunTable.vue";
import RunTies from "./RunTies.vue";

const route = useRoute();
const id = useClientId();
const runId = computed(() => Number(route.params.run));
const { data: run, isPending, error } = useRun(runId);
const { data: p } = usePayroll();
const at = ref(0);
const picking = ref(-1);
const view = ref<"items" | "people" | "entry">("items");
const ruling = ref(false);
watch(runId, () => ((at.value = 0), (picking.value = -1), (view.value = "items")));
watch(at, () => (picking.value = -1));
const rows = computed(() => (run.value?.sections ?? []).flatMap((s) => s.rows));
const inHand = computed(() => p.value?.items.find((i) => i.id === at.value));
const needs = computed(() => rows.value.find((r) => r.item_id === at.value)?.needs ?? []);
const loose = computed(() => rows.value.filter((r) => !r.sure || r.needs.some((n) => n.state !== "set")));
const post = useAct(
  (client, r: number) => unwrap(api.POST("/api/clients/{client}/payroll/runs/{run}/post", { params: { path: { client, run: r } } })),
  undefined,
  { grave: true },
);
const repost = useAct(
  (client, r: number) => unwrap(api.POST("/api/clients/{client}/payroll/runs/{run}/repost", { params: { path: { client, run: r } } })),
  undefined,
  { grave: true },
);
const answer = useAct(
  (client, code: string) =>
    unwrap(api.POST("/api/clients/{client}/payroll/runs/{run}/answers", { params: { path: { client, run: runId.value } }, body: { code } })),
  undefined,
  {
    undo: (code, client) => {
      const path = { client, run: runId.value };
      return {
        words: "answer about the run",
        run: () => unwrap(api.POST("/api/clients/{client}/payroll/runs/{run}/answers", { params: { path }, body: { code, off: true } })),
      };
    },
  },
);
const saying = ref(false);
const back = useReverse();
const debits = computed(() => sum((run.value?.entries ?? []).flatMap((e) => e.lines.filter((l) => !l.amount.startsWith("-")).map((l) => l.amount))));
const accept = useAct(
  (client, v: { keys: string[]; above: number }) =>
    unwrap(
      api.POST("/api/clients/{client}/payroll/accept", {
        params: { path: { client } },
        body: { above: v.above, needs: offers.value.filter((o) => v.keys.includes(o.key)).map((o) => o.need) },
      }),
    ),
  () => (looking.value = false),
);
const looking = ref(false);
const offers = computed(() => offersOf(p.value?.items ?? []));
const suggested = computed(() => choosable(offers.value, 0.75).length);
function go(i: number) {
  const r = rows.value[Math.max(0, Math.min(rows.value.length - 1, i))];
  if (!r) return;
  at.value = r.item_id;
  void nextTick(() => document.querySelector<HTMLElement>(`[data-item="${r.item_id}"]`)?.focus());
}
const here = () => rows.value.findIndex((r) => r.item_id === at.value);
useKeys([
  { key: "j", words: "next item", run: () => go(here() + 1) },
  { key: "k", words: "previous item", run: () => go(here() - 1) },
  {
    key: "p",
    words: "next item without a home",
    run: () => loose.value[0] && go(rows.value.indexOf(loose.value.find((r) => rows.value.indexOf(r) > here()) ?? loose.value[0]!)),
  },
  {
    key: "t",
    words: "set where the item in hand goes",
    run: () =>
      (picking.value = Math.max(
        0,
        needs.value.findIndex((n) => n.state !== "set"),
      )),
  },
]);
const period = (from: string, to: string) =>
  from.slice(0, 7) === to.slice(0, 7) ? `${Number(from.slice(8))}–${day(to).replace(/ \d+$/, "")}` : `${day(from)} to ${day(to)}`;
const waiting = computed(() => run.value?.waits ?? []);
const off = computed(() => (run.value?.ties ?? []).filter((t) => !t.holds));
const toTaxes = computed(() => run.value?.ties.find((t) => t.key === "taxes")?.left ?? "");
</script>

<template>
  <PayrollShell>
    <main class="bench" tabindex="0">
      <p v-if="isPending" class="busy">laying the run out…</p>
      <RefusalBox :error="error" />
      <template v-if="run">
        <div class="head">
          <h1>{{ run.state === "prior" ? "Year to date" : run.check_date ? `Run of ${day(run.check_date)}` : "Run without a check date" }}</h1>
          <span class="sub"
            ><template v-if="run.from">{{ period(run.from, run.to) }}, </template
            >{{ plural(p?.runs.find((r) => r.id === run!.id)?.people ?? 0, "person", "people")
            }}<template v-if="run.kind !== 'regular'">, {{ run.kind }}</template></span
          >
          <div class="acts">
            <button v-if="!run.unit && run.state !== 'prior'" class="btn" @click="saying = true">Run facts</button>
            <button class="btn" @click="ruling = true">How it is posted</button>
            <button v-if="!run.unit && run.state !== 'prior'" class="btn prime" :disabled="post.isPending.value" @click="post.mutate(run.id)">
              {{ run.blocks.length || !run.entries.length ? "Post the run" : `Post ${plural(run.entries.length, "entry", "entries")}, ${plain(debits)}` }}
            </button>
          </div>
        </div>
        <RefusalBox :error="post.error.value ?? back.error.value ?? accept.error.value ?? repost.error.value ?? answer.error.value" />
        <p v-if="run.unit" class="said">
          Posted. <RouterLink :to="`/c/${id}/books/posted`">Look at it in just posted</RouterLink>
          <button
            style="margin-left: 8px"
            class="linkish"
            :disabled="back.pending.value"
            @click="back.reverse(run.unit, run.check_date ? `the run of ${day(run.check_date)}` : 'the run', 'You can undo this: post the run again.')"
          >
            {{ back.words(run.unit) }}…
          </button>
        </p>
        <ul v-else-if="run.blocks.length" class="said stops" aria-label="What stops the run">
          <li v-for="b in run.blocks" :key="b.words">
            <RouterLink v-if="b.link" :to="`/c/${id}/${b.link}`">{{ b.words }}</RouterLink><template v-else>{{ b.words }}</template>
            <button v-if="b.code.startsWith('another-run')" class="btn small" @click="answer.mutate(b.code)">It is one more</button>
            <button v-if="b.code === 'from-totals'" class="btn small" @click="answer.mutate(b.code)">Post it from its totals</button>
            <button v-if="b.code === 'no-check-date'" class="btn small" @click="saying = true">Say it</button>
          </li>
        </ul>
        <OfficerShares v-if="run.officer_shares.length && !run.unit" :run="run" />
        <RunChanges v-if="run.changes.length" :run="run" />
        <div v-if="run.unit && run.drift.length" class="said">
          What was mapped or drawn since changes this run: {{ plural(run.drift.length, "entry", "entries") }} would be posted, and nothing else.
          <button class="btn small prime" :disabled="repost.isPending.value" @click="repost.mutate(run.id)">Post what changed</button>
          <button class="btn small" @click="view = 'entry'">Look at it</button>
        </div>
        <p v-if="!run.unit && run.state !== 'prior' && run.unusual.length" class="q">To look at: {{ run.unusual.join("; ") }}.</p>
        <p v-for="n in [...run.notes, ...(run.year_words ? [run.year_words] : [])]" :key="n" class="q">{{ n }}</p>
        <p v-if="run.missing_roles.length && !run.unit && run.state !== 'prior'" class="q">
          Posting makes {{ run.missing_roles.map((m) => `${m.number} ${m.name}`).join(" and ") }}, which nobody holds yet.
        </p>
        <div class="look">
          <nav class="tabs" aria-label="Ways to look at the run">
            <button :class="{ on: view === 'items' }" :aria-pressed="view === 'items'" @click="view = 'items'">By item</button>
            <button v-if="run.sees_pay && run.employees.length" :class="{ on: view === 'people' }" :aria-pressed="view === 'people'" @click="view = 'people'">
              By employee
            </button>
            <button :class="{ on: view === 'entry' }" :aria-pressed="view === 'entry'" @click="view = 'entry'">The entries</button>
          </nav>
          <span v-if="!run.sees_pay" class="q">names with pay are hidden from you</span>
          <button v-if="suggested && !run.unit" class="btn small" @click="((looking = true), (at = 0))">Look at {{ plural(suggested, "suggestion") }}</button>
        </div>
        <RunTable v-if="view === 'items'" v-model="at" :run="run" />
        <RunPeople v-else-if="view === 'people'" :run="run" />
        <template v-else>
          <h2 v-if="run.unit && run.drift.length">What would change</h2>
          <RunEntries v-if="run.unit" :entries="run.drift" />
          <h2 v-if="run.unit && run.drift.length">As posted</h2>
          <p v-if="!run.entries.length" class="q">
            {{ run.holds.length ? "Nothing of the run posts until every item has a home." : "Hidden: an entry for each employee is that employee's pay." }}
          </p>
          <RunEntries :entries="run.entries" />
        </template>
        <RunDraws v-if="run.state !== 'prior'" :run="run" />
        <PaperList :batch="run.batch_id" :can-see="run.sees_pay" />
        <RunFactsBox v-if="saying" :run="run" @close="saying = false" />
        <RulesBox v-if="ruling" :source="run.source" :rules="run.rules" @close="ruling = false" />
      </template>
    </main>
    <aside class="why" aria-label="Why" tabindex="0">
      <AcceptLook
        v-if="looking && !inHand"
        :offers="offers"
        :busy="accept.isPending.value"
        @close="looking = false"
        @accept="(keys, above) => accept.mutate({ keys, above })"
      />
      <ItemWhy v-else-if="inHand" v-model:picking="picking" :item="inHand" :needs="needs" />
      <template v-else-if="run?.holds.length">
        <h1>{{ plural(loose.length, "item has", "items have") }} no home</h1>
        <p v-for="h in waiting.slice(0, 8)" :key="h.words">
          <b>{{ h.words }}</b>, {{ figure(h.amount) }}<template v-if="h.groups.length"> of {{ h.groups.join(", ") }}</template>
        </p>
        <p v-if="waiting.length > 8" class="q">and {{ waiting.length - 8 }} more</p>
        <p class="q">Nothing of the run posts until they are set. Select an item to set it.</p>
      </template>
      <template v-if="run">
        <h2>Ties</h2>
        <p v-if="off.length" class="bad">{{ plural(off.length, "tie does", "ties do") }} not hold</p>
        <RunTies :ties="run.ties" />
        <template v-if="run.last">
          <h2>Beside the run of {{ day(run.last.check_date) }}</h2>
          <div class="kv">
            <span>Gross</span><span>{{ figure(run.last.gross) }}</span>
          </div>
          <div v-if="toTaxes" class="kv">
            <span>Taxes, both sides</span><span>{{ figure(run.last.taxes) }}</span>
          </div>
          <div v-if="!isZero(run.last.fee)" class="kv">
            <span>Fee</span><span>{{ words(run.last.fee).replace("debit ", "") }}</span>
          </div>
          <div class="kv">
            <span>People</span><span>{{ run.last.people }}</span>
          </div>
        </template>
      </template>
      <div class="keys">
        <span><kbd>t</kbd>set</span><span><kbd>p</kbd>next</span><span><kbd>j</kbd><kbd>k</kbd>move</span><span><kbd>?</kbd>keys</span>
      </div>
    </aside>
  </PayrollShell>
</template>

<style scoped>
h1 {
  white-space: nowrap;
}
.stops {
  border-left-color: var(--fails);
  background: #f8ece9;
  color: var(--ink);
  margin: 0 0 8px;
  padding-left: 30px;
}
.look {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 14px;
  margin: 4px 0;
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
