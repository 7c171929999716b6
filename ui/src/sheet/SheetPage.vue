<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, noAnswer, Refusal, type Schemas, unwrap } from "../api/client";
import { useAct, useClientId, useClientState, useFile } from "../api/queries";
import { day, moment, plural } from "../format";
import { askFirst } from "../frame/ask";
import PileFilter from "../frame/PileFilter.vue";
import LongActBar from "../frame/LongActBar.vue";
import RefusalBox from "../frame/RefusalBox.vue";
import { useKeys } from "../keys";
import { plain } from "../money";
import BringFile from "./BringFile.vue";
import ChartCompare from "./ChartCompare.vue";
import FileList from "./FileList.vue";
import FindingList from "./FindingList.vue";
import HowRead from "./HowRead.vue";
import RawGrid from "./RawGrid.vue";
import { purposes } from "./meanings";
import ListCompare from "./ListCompare.vue";
import SheetFoot from "./SheetFoot.vue";

const route = useRoute();
const router = useRouter();
const id = useClientId();
const batch = computed(() => Number(route.params.batch));
const { data: file, isPending, error } = useFile(batch);
const { data: state } = useClientState();
const text = ref("");
const grid = ref<InstanceType<typeof RawGrid>>();
const deactivate = ref<number[]>([]);
const account = ref(0);
const same = ref<Record<string, number>>({});
const gone = ref<"" | "keep" | "drop">("");
const open = computed(() => file.value?.state === "sheet");
const reading = computed(() => file.value?.reading);
const at = (client: number) => ({ params: { path: { client, batch: batch.value } } });

const change = useAct(
  (client, body: Schemas["Change"]) =>
    unwrap(api.PATCH("/api/clients/{client}/batches/{batch}/reading", { ...at(client), body: { ...body, version: file.value?.version } })),
  () => grid.value?.reload(),
  {
    undo: (v, client, result) => {
      const f = file.value;
      if (!f) return undefined;
      const where = at(client);
      const restore = { purpose: f.purpose, source: f.source, settings: f.settings, last_fix: f.last_fix ?? 0 };
      return {
        words: v.fixes?.length ? `correction of row ${v.fixes[0]!.record}` : "how the file is read",
        run: async () => {
          const now = result();
          if (now) await unwrap(api.PATCH("/api/clients/{client}/batches/{batch}/reading", { ...where, body: { restore, version: now.version } }));
          grid.value?.reload();
        },
      };
    },
  },
);
const confirm = useAct(
  (client, code: string) => unwrap(api.POST("/api/clients/{client}/batches/{batch}/confirm", { ...at(client), body: { code } })),
  undefined,
  {
    undo: (code, client) => {
      const where = at(client);
      return {
        words: "finding confirmed",
        run: () => unwrap(api.POST("/api/clients/{client}/batches/{batch}/confirm", { ...where, body: { code, off: true } })),
      };
    },
  },
);
const take = useAct(
  (client, how: { corrects?: number; joins?: number } | undefined) =>
    unwrap(
      api.POST("/api/clients/{client}/batches/{batch}/import", {
        ...at(client),
        body: {
          version: file.value?.version,
          deactivate: deactivate.value,
          account_id: account.value || undefined,
          same: same.value,
          ...how,
          gone_lines: gone.value || undefined,
        },
      }),
    ),
  () => taken(true),
);
const long = ref(0);
const begin = useAct(
  (client) =>
    unwrap(
      api.POST("/api/clients/{client}/acts", {
        params: { path: { client } },
        body: {
          act: "take-in",
          args: { batch: batch.value, version: file.value?.version, account_id: account.value || undefined, gone_lines: gone.value || undefined },
        },
      }),
    ),
  (a) => (long.value = a.id),
);
const changes = ref<[string, string][]>([]); // what a list would change of what is here, not only add
async function takeIn() {
  if (kept.value && changes.value.length) {
    const what = (purposes[file.value!.purpose]?.name ?? "file").toLowerCase();
    const ok = await askFirst({
      title: `Import ${file.value!.name}?`,
      facts: [["Client", state.value?.client.name ?? ""], ...changes.value],
      undo: `This cannot be undone as a whole: the ${what} before is not kept as one. Each change is in the history and can be changed back by itself.`,
      act: "Import",
    });
    if (!ok) return;
  }
  const many = (reading.value?.totals.rows ?? 0) > 20000 && !["chart", "parties", "crosswalk"].includes(file.value?.purpose ?? "");
  if (many) begin.mutate(undefined);
  else take.mutate(undefined);
}
// A register of a run that is here already can be its correction.
const corrects = computed(() => {
  const e = take.error.value;
  return e instanceof Refusal && e.code === "same-run" ? (e.now as { run: number }).run : 0;
});
// A summary that fits several runs of its day, or none, is asked about.
const which = computed(() => {
  const e = take.error.value;
  return e instanceof Refusal && e.code === "which-run"
    ? (e.now as { runs: { id: number; check_date: string; file: string; agree: number; differ: number }[] }).runs
    : [];
});
function taken(done: boolean) {
  long.value = 0;
  const to = home(file.value?.purpose);
  if (!done || !file.value) return;
  if (to === "payroll") void router.push({ path: `/c/${id.value}/payroll`, query: { file: file.value.id } });
  else void router.push(`/c/${id.value}/${file.value.purpose === "trial-balance" ? "openings/rack" : to}`);
}
const home = (purpose?: string) => purposes[purpose ?? ""]?.home ?? "openings";
const kept = computed(() => ["chart", "parties", "crosswalk"].includes(file.value?.purpose ?? ""));
const mayGoBack = computed(
  () => !open.value && file.value?.state !== "destroyed" && !kept.value && (!file.value?.unit || file.value.purpose.startsWith("open-")),
);
const back = useAct((client) => unwrap(api.POST("/api/clients/{client}/batches/{batch}/put-back", at(client))));
const aside = useAct(
  (client, destroy: boolean) => unwrap(api.POST("/api/clients/{client}/batches/{batch}/set-aside", { ...at(client), body: { destroy } })),
  () => void router.push(`/c/${id.value}/${home(file.value?.purpose)}`),
  { grave: true },
);
async function deleteIt() {
  const f = file.value!;
  const t = reading.value?.totals;
  const facts: [string, string][] = [
    ["Client", state.value?.client.name ?? ""],
    ["File", f.name],
    ["Imported", `${moment(f.at)} by ${f.by.name}`],
    ["Records", f.records.toLocaleString("en-US")],
  ];
  if (t && t.debit) facts.push(["Totals", `debit ${plain(t.debit)}, credit ${plain(t.credit)}`]);
  const ok = await askFirst({
    title: `Delete ${f.name}?`,
    facts,
    undo: "This cannot be undone. The file and its rows are deleted for good; one line stays in the history, saying who deleted it and when. To keep it, skip it instead.",
    act: `Delete ${f.name}, ${plural(f.records, "record")}`,
  });
  if (ok) aside.mutate(true);
}

type Finding = Schemas["TableFinding"];
const findings = computed<Finding[]>(() => (reading.value?.findings ?? []).filter((f) => !file.value?.confirmed.includes(f.code)));
const inHand = ref(-1);
const fix = (f: Schemas["Fix"]) => change.mutate({ fixes: [f] });
function go(i: number) {
  inHand.value = i;
  const f = findings.value[i];
  if (f?.record) grid.value?.goTo(f.record, f.column);
}
function nextFinding() {
  const list = findings.value.map((f, i) => [f, i] as const).filter(([f]) => f.severity !== "note");
  const next = list.find(([, i]) => i > inHand.value) ?? list[0];
  if (next) go(next[1]);
}
watch([() => route.query.row, grid], () => {
  if (route.query.row) grid.value?.goTo(Number(route.query.row), 0);
});
watch(batch, () => ((inHand.value = -1), (changes.value = [])));

useKeys([
  { key: "p", words: "next finding", run: nextFinding },
  {
    key: "Enter",
    words: "use the suggestion of the finding in hand",
    run: () => findings.value[inHand.value]?.suggestion && useSuggestion(findings.value[inHand.value]!),
  },
]);
function useSuggestion(f: Finding) {
  fix({ record: f.record, column: f.column, text: f.suggestion });
}
</script>

<template>
  <aside class="pile" aria-label="Files"><PileFilter v-model="text" words="filter files" /><FileList :filter="text" /></aside>
  <main class="bench sheet">
    <p v-if="isPending" class="busy">reading the file…</p>
    <div v-else-if="!file || (error && !noAnswer(error))" class="empty">
      <b>This file is not here</b>It may belong to another client or have been destroyed.
    </div>
    <template v-else>
      <div class="head">
        <h1>{{ purposes[file.purpose]?.name ?? "File" }}</h1>
        <span class="sub"
          >{{ file.name }}<template v-if="reading?.title.day">, as of {{ day(reading.title.day) }}</template></span
        >
        <div class="acts">
          <button v-if="mayGoBack" class="btn" @click="back.mutate(undefined)">Put it back on the sheet</button>
          <BringFile v-if="open" :purpose="file.purpose" words="Another file" />
        </div>
      </div>
      <RefusalBox :error="change.error.value ?? take.error.value ?? begin.error.value ?? confirm.error.value ?? back.error.value ?? aside.error.value" />
      <ul v-if="which.length" class="which" aria-label="Which run it is of">
        <li v-for="w in which" :key="w.id">
          <span
            >Run of {{ day(w.check_date) }}, {{ w.file }}: {{ plural(w.agree, "amount agrees", "amounts agree") }},
            {{ plural(w.differ, "differs", "differ") }}</span
          >
          <button class="btn small" @click="take.mutate({ joins: w.id })">It is the summary of this run</button>
        </li>
        <li><span></span><button class="btn small" @click="take.mutate({ joins: -1 })">It is a run of its own</button></li>
      </ul>
      <p v-if="corrects" class="acts">
        <button class="btn prime small" @click="take.mutate({ corrects })">Import it as the correction</button>
        <RouterLink class="btn small" :to="`/c/${id}/payroll/${corrects}`">Look at the run</RouterLink>
      </p>
      <div v-if="file.state === 'destroyed'" class="empty">
        <b>This file was destroyed</b>Its bytes and rows are gone; the history says who did it and when.
      </div>
      <template v-else>
        <RawGrid ref="grid" :file="file" :open="open" :busy="change.isPending.value" @change="(s) => change.mutate({ settings: [s] })" @fix="fix" />
        <FindingList :findings="findings" :aside="reading?.classes ?? {}" :at="inHand" :open="open" @go="go" @fix="fix" @confirm="(c) => confirm.mutate(c)" />
        <ChartCompare v-if="file.purpose === 'chart' && open" v-model="deactivate" v-model:changes="changes" :batch="file.id" :version="file.version" />
        <ListCompare v-else-if="open" v-model:account="account" v-model:same="same" v-model:gone="gone" v-model:changes="changes" :file="file" @fix="fix" />
        <LongActBar v-if="long" :act="long" @over="taken" />
        <SheetFoot :file="file" :open="open" :busy="take.isPending.value || long > 0" @take="takeIn" />
      </template>
    </template>
  </main>
  <aside class="why" aria-label="How it was read">
    <HowRead v-if="file?.reading" :file="file" :open="open" @change="(s) => change.mutate({ settings: [s] })" @go="(r, c) => grid?.goTo(r, c)" />
    <div v-if="file && file.state !== 'destroyed'" style="margin: 12px 0; display: flex; gap: 14px; flex-wrap: wrap">
      <a :href="`/api/clients/${id}/batches/${file.id}/original`">Download the original</a>
      <button v-if="open" class="linkish" @click="aside.mutate(false)">Skip the file</button>
      <button v-if="open" class="linkish" @click="deleteIt">Delete the file…</button>
    </div>
    <div v-if="file" class="src">
      {{ plural(file.records, "record") }}, brought by {{ file.by.name }}. The column choices are kept for
      <b>{{ file.source }}, {{ file.purpose.replace("-", " ") }}</b
      >. Nothing is written to the ledger before it is posted.
    </div>
    <div class="keys">
      <span><kbd>p</kbd>next finding</span><span><kbd>z</kbd>undo</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
.which {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}
.which li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 14px;
  padding: 4px 0;
}
.sheet {
  display: flex;
  flex-direction: column;
  overflow: hidden;
  padding-bottom: 60px;
}
.sheet .head {
  flex: none;
}
</style>
