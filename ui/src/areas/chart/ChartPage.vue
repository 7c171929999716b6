<script setup lang="ts">
import { computed, nextTick, ref } from "vue";
import type { Schemas } from "../../api/client";
import { api, unwrap } from "../../api/client";
import { useAct, useChart, useClientId, useRoles } from "../../api/queries";
import { plural } from "../../format";
import BringFile from "../../sheet/BringFile.vue";
import FileList from "../../sheet/FileList.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import PileFilter from "../../frame/PileFilter.vue";
import WhyPane from "../../frame/WhyPane.vue";
import { useKeys } from "../../keys";
import { isZero, plain, isCredit } from "../../money";
import AccountForm from "./AccountForm.vue";
import ConnectBox from "./ConnectBox.vue";
import ChartTidy from "./ChartTidy.vue";
import RenumberBox from "./RenumberBox.vue";
import StarterList from "./StarterList.vue";
import FigureTable from "../../frame/FigureTable.vue";

type Account = Schemas["Account"];
const id = useClientId();
const { data: chart, isPending } = useChart();
const text = ref("");
const kind = ref("");
const at = ref<number>(0);
const editing = ref<number | "new" | null>(null);

const shown = computed(() =>
  (chart.value?.accounts ?? []).filter(
    (a) =>
      (!kind.value || (kind.value === "none" ? !a.kind : a.kind === kind.value)) &&
      `${a.number} ${a.name} ${a.role}`.toLowerCase().includes(text.value.toLowerCase()),
  ),
);
const { data: roles } = useRoles();
const missing = computed(() => (roles.value ?? []).filter((r) => !r.holder).length);
const renumbering = ref(false);
const connecting = ref(false);
const dragged = ref(0);
const move2 = useAct(
  (client, v: { account: number; parent: number }) =>
    unwrap(api.POST("/api/clients/{client}/accounts/{account}/move", { params: { path: { client, account: v.account } }, body: { parent: v.parent } })),
  undefined,
  {
    undo: (v, client) => {
      const was = chart.value?.accounts.find((a) => a.id === v.account);
      return (
        was && {
          words: `${was.name} moved`,
          run: () =>
            unwrap(
              api.POST("/api/clients/{client}/accounts/{account}/move", { params: { path: { client, account: was.id } }, body: { parent: was.parent_id } }),
            ),
        }
      );
    },
  },
);
// Under the account above of the same depth, or out to beside its parent.
function reparent(deeper: boolean) {
  const list = chart.value?.accounts ?? [];
  const i = list.findIndex((a) => a.id === at.value);
  const a = list[i];
  if (!a) return;
  if (deeper) {
    const up = list
      .slice(0, i)
      .reverse()
      .find((x) => x.depth === a.depth && x.parent_id === a.parent_id && x.kind === a.kind);
    if (up) move2.mutate({ account: a.id, parent: up.id });
  } else if (a.parent_id) move2.mutate({ account: a.id, parent: list.find((x) => x.id === a.parent_id)?.parent_id ?? 0 });
}
function drop(on: number) {
  if (dragged.value && dragged.value !== on) move2.mutate({ account: dragged.value, parent: on });
  dragged.value = 0;
}
const inHand = computed<Account | undefined>(() => chart.value?.accounts.find((a) => a.id === at.value));
const findings = computed(() => new Map((chart.value?.findings ?? []).map((f) => [f.account_id, f])));

function move(n: number) {
  const i = shown.value.findIndex((a) => a.id === at.value);
  at.value = shown.value[Math.max(0, Math.min(shown.value.length - 1, i + n))]?.id ?? 0;
  void nextTick(() => document.querySelector("tr.hand")?.scrollIntoView({ block: "nearest" }));
}
function nextLoose() {
  const loose = shown.value.filter((a) => findings.value.has(a.id));
  const i = loose.findIndex((a) => a.id === at.value);
  const next = loose[(i + 1) % loose.length];
  if (next) at.value = next.id;
}
useKeys([
  { key: "j", words: "next account", run: () => move(1) },
  { key: "k", words: "previous account", run: () => move(-1) },
  { key: "ArrowDown", words: "next account", run: () => move(1) },
  { key: "ArrowUp", words: "previous account", run: () => move(-1) },
  { key: "Enter", words: "edit the account in hand", run: () => inHand.value && (editing.value = inHand.value.id) },
  { key: "c", words: "new account", run: () => (editing.value = "new") },
  { key: "p", words: "next finding", run: nextLoose },
  { key: ">", words: "move it under the account above", run: () => reparent(true) },
  { key: "<", words: "move it out, beside its parent", run: () => reparent(false) },
]);
</script>

<template>
  <aside class="pile" aria-label="Chart, by kind">
    <PileFilter v-model="text" words="filter accounts" />
    <div class="g">Duties</div>
    <RouterLink class="r" :to="`/c/${id}/chart/roles`"
      ><span>Roles</span><span>{{ missing ? `${missing} missing` : "all held" }}</span></RouterLink
    >
    <button class="r" aria-haspopup="dialog" @click="connecting = true"><span>Connected ledger</span><span /></button>
    <button v-if="chart?.accounts.length" class="r" aria-haspopup="dialog" @click="renumbering = true"><span>Renumber a range</span><span /></button>
    <div class="g">Kinds</div>
    <button class="r" :class="{ on: !kind }" @click="kind = ''">
      <span>All accounts</span><span>{{ chart?.accounts.length ?? 0 }}</span>
    </button>
    <template v-for="k in chart?.kinds ?? []" :key="k.kind">
      <button v-if="chart?.counts[k.kind]" class="r" :class="{ on: kind === k.kind }" @click="kind = k.kind">
        <span>{{ k.kind }}</span><span>{{ chart?.counts[k.kind] }}</span>
      </button>
    </template>
    <button v-if="chart?.counts['']" class="r" :class="{ on: kind === 'none' }" @click="kind = 'none'">
      <span>no kind yet</span><span>{{ chart.counts[""] }}</span>
    </button>
    <template v-if="chart?.findings.length">
      <div class="g">
        Look at <span>{{ chart.findings.length }}</span>
      </div>
      <button
        v-for="f in chart.findings.slice(0, 20)"
        :key="f.account_id + f.code"
        class="r"
        @click="
          at = f.account_id;
          editing = f.account_id;
        "
      >
        <span>{{ f.message }}</span><span></span>
      </button>
    </template>
    <FileList purpose="chart" />
  </aside>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>Chart of accounts</h1>
      <span class="sub">{{ plural(chart?.accounts.length ?? 0, "account") }}</span>
      <div class="acts"><button class="btn" @click="editing = 'new'">New account</button><BringFile purpose="chart" words="Bring a chart in" /></div>
    </div>
    <ConnectBox v-if="connecting" @close="connecting = false" />
    <RenumberBox v-if="renumbering" @close="renumbering = false" />
    <RefusalBox :error="move2.error.value" />
    <AccountForm v-if="editing === 'new' && chart" :chart="chart" @close="editing = null" @saved="(a) => ((editing = null), (at = a.id))" />
    <p v-if="isPending" class="busy">reading the chart…</p>
    <div v-else-if="!chart?.accounts.length" class="empty">
      <b>No accounts yet</b>Bring a chart in as the old system gives it: a list as CSV or XLSX, or a standard audit file (SAF-T, XML), or make the first account
      by hand. Old accounts are mapped to these later. Or begin with a chart of ours:
      <StarterList />
    </div>
    <FigureTable v-else class="chart" :give="[2, 3, 4]">
      <thead>
        <tr>
          <th style="width: 58px">Number</th>
          <th>Name</th>
          <th style="width: 84px">Kind</th>
          <th style="width: 122px">Sort or role</th>
          <th class="n" style="width: 166px">Posted</th>
          <th class="n" style="width: 54px">Mapped</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="a in shown" :key="a.id">
          <tr
            class="can"
            :class="{ hand: a.id === at, off: !a.active }"
            draggable="true"
            @dragstart="dragged = a.id"
            @dragover.prevent
            @drop.prevent="drop(a.id)"
            @click="at = a.id"
            @dblclick="editing = a.id"
          >
            <td>{{ a.number }}</td>
            <td :style="{ paddingLeft: `${5 + a.depth * 18}px` }">
              <button
                class="quiet-link"
                @click.stop="
                  at = a.id;
                  editing = a.id;
                "
              >
                {{ a.name }}</button><small v-if="a.pinned" class="q"> pinned</small><small v-if="!a.active"> inactive</small>
            </td>
            <td :class="{ warn: !a.kind }">{{ a.kind || "no kind" }}</td>
            <td class="q">{{ a.role || a.sort || "–" }}</td>
            <td class="n">
              <RouterLink v-if="!isZero(a.balance)" class="quiet-link" :to="`/c/${id}/books/register/${a.id}`"
                ><span v-if="isCredit(a.balance)" class="dc">credit</span>{{ plain(a.balance) }}</RouterLink
              ><span v-else class="q">–</span>
            </td>
            <td class="n q">{{ a.labels || "–" }}</td>
          </tr>
          <tr v-if="editing === a.id && chart" class="edit">
            <td colspan="6"><AccountForm :chart="chart" :account="a" @close="editing = null" @saved="editing = null" /></td>
          </tr>
        </template>
      </tbody>
    </FigureTable>
  </main>
  <aside class="why" aria-label="The account in hand">
    <template v-if="inHand">
      <h1>{{ inHand.number }} {{ inHand.name }}</h1>
      <div class="sub">
        {{ inHand.kind || "no kind" }}<template v-if="inHand.normal_side">, normally {{ inHand.normal_side }}</template>
      </div>
      <div class="kv">
        <span>Sort</span><span>{{ inHand.sort || "–" }}</span>
      </div>
      <div class="kv">
        <span>Role</span><span>{{ inHand.role || "–" }}</span>
      </div>
      <div class="kv">
        <span>Old accounts mapped</span><span>{{ inHand.labels || "–" }}</span>
      </div>
      <div v-if="inHand.outside_ids.length" class="kv">
        <span>Outside ids</span><span>{{ inHand.outside_ids.join(", ") }}</span>
      </div>
      <div v-if="findings.get(inHand.id)" class="src warn">{{ findings.get(inHand.id)?.message }}</div>
      <ChartTidy v-if="chart" :account="inHand" :accounts="chart.accounts" />
      <template v-if="!isZero(inHand.balance)"
        ><h2>Where it comes from</h2>
        <WhyPane :what="{ account: inHand.id }"
      /></template>
    </template>
    <template v-else
      ><h1>Pick an account</h1>
      <p class="q">Its kind, role and where its balance comes from stand here.</p></template
    >
    <div class="keys">
      <span><kbd>c</kbd>new</span><span><kbd>Enter</kbd>edit</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
.chart {
}
/* In a narrow window the names need the room; both side panes show the statement group. */
@media (max-width: 1199px) {
  .chart :is(th, td):nth-child(3) {
    display: none;
  }
}
.chart td {
  height: 28px;
}
tr.off td {
  color: var(--quiet);
}
tr.edit td {
  height: auto;
  padding: 0;
  white-space: normal;
}
</style>
