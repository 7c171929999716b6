<script setup lang="ts">
import { computed } from "vue";
import { useClientId, useClientState, useFiles, useSignOff } from "../../api/queries";
import { day, plural } from "../../format";
import { askFirst } from "../../frame/ask";
import { plain } from "../../money";
import FigureTable from "../../frame/FigureTable.vue";

// What leaves: tables for people, the audit file and the bundle for programs, the
// work paper for the reviewer.
const id = useClientId();
const { data: state } = useClientState();
const { data: s } = useSignOff();
const { data: files } = useFiles();
const base = computed(() => `/api/clients/${id.value}`);
async function bundle() {
  const c = state.value!.client;
  const ok = await askFirst({
    title: `Download everything of ${c.name}, with whole tax numbers?`,
    facts: [
      ["Client", c.name],
      ["Posted", `debit ${plain(state.value!.strip.debit)}, credit ${plain(state.value!.strip.credit)}`],
      ["Files", `${plural(files.value?.length ?? 0, "file")}, as they came`],
      ["Signed off", s.value?.signed ? `through ${day(s.value.through)}` : "not yet"],
    ],
    undo: "A file that has left cannot be called back. It holds whole tax numbers, pay and the original files; that it left, and by whom, is kept in the history.",
    act: `Download the bundle, ${plural(files.value?.length ?? 0, "file")}, ${plain(state.value!.strip.debit)}`,
  });
  if (ok) location.assign(`${base.value}/bundle.json`);
}
const tables = [
  { key: "chart", name: "Chart of accounts", note: "with kinds, sorts, parents and roles" },
  { key: "mappings", name: "Mappings", note: "old accounts, parties, pay items and boxes: each answer, evidence, who and when" },
  { key: "trial-balance", name: "Trial balance", note: "of all that is posted" },
  { key: "journal", name: "Journal", note: "every posted line with its batch; reversals named" },
  { key: "open-items", name: "Open items", note: "with dates, terms, tax part and tags" },
  { key: "aging-receivable", name: "Aging of receivables", note: "as of the cutover" },
  { key: "aging-payable", name: "Aging of payables", note: "as of the cutover" },
  { key: "history", name: "History", note: "who did what and when, before and after" },
  { key: "parties", name: "Customers and vendors", note: "tax ids masked" },
];
</script>

<template>
  <aside class="pile" aria-label="Before it leaves">
    <div class="g">Before it leaves</div>
    <RouterLink class="r" :to="`/c/${id}/openings/sign-off`"
      ><span>Sign-off</span><span :class="s?.signed ? 'ok' : 'warn'">{{ s?.signed ? "signed ✓" : "not yet" }}</span></RouterLink
    >
    <RouterLink class="r" :to="`/c/${id}/proof`"
      ><span>Proofs that do not hold</span><span>{{ state?.strip.proofs_open || "–" }}</span></RouterLink
    >
  </aside>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>Handoff</h1>
      <span class="sub">{{ s?.signed ? `signed off through ${day(s.through)}` : "figures as they stand now; not signed off" }}</span>
    </div>
    <FigureTable class="out" :give="[1, 2]">
      <thead>
        <tr>
          <th>For the reviewer</th>
          <th></th>
          <th class="n" style="width: 130px">Take it</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>Opening work paper</td>
          <td class="q">trial balance old | new, balance sheet before | after, aging, bank, proofs, differences accepted, signatures</td>
          <td class="n"><a :href="`${base}/work-paper.pdf`">PDF</a></td>
        </tr>
      </tbody>
      <thead>
        <tr>
          <th>For people</th>
          <th></th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in tables" :key="t.key">
          <td>{{ t.name }}</td>
          <td class="q">{{ t.note }}</td>
          <td class="n"><a :href="`${base}/export/${t.key}/csv`">CSV</a> &nbsp; <a :href="`${base}/export/${t.key}/xlsx`">XLSX</a></td>
        </tr>
        <tr>
          <td>Crosswalk</td>
          <td class="q">old accounts to new, to be imported again</td>
          <td class="n"><a :href="`${base}/crosswalk.csv`">CSV</a></td>
        </tr>
        <tr v-for="of in ['customers', 'vendors']" :key="of">
          <td>Crosswalk of {{ of }}</td>
          <td class="q">old names to new, to be imported again</td>
          <td class="n"><a :href="`${base}/crosswalk.csv?of=${of}`">CSV</a></td>
        </tr>
      </tbody>
      <thead>
        <tr>
          <th>For programs</th>
          <th></th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td>Audit file</td>
          <td class="q">the ledger as OECD SAF-T: accounts, parties, all entries</td>
          <td class="n"><a :href="`${base}/ledger.saft.xml`">XML</a></td>
        </tr>
        <tr>
          <td>Bundle</td>
          <td class="q">everything, files too, as one document; taken in elsewhere it gives the same ledger</td>
          <td class="n"><button class="linkish" :disabled="!state" @click="bundle">JSON…</button></td>
        </tr>
      </tbody>
    </FigureTable>
  </main>
  <aside class="why" aria-label="About what leaves">
    <h1>What leaves, and how</h1>
    <p>
      Tables carry the figures as they stand. Text that a spreadsheet could take for a formula is made harmless; amounts have two decimals and no thousands
      sign.
    </p>
    <p style="margin-top: 8px">
      Tax ids leave masked. Only the bundle carries whole numbers and original files, and only for those who may see them; that it left is in the history.
    </p>
    <div v-if="s && !s.signed" class="src">
      {{
        s.blocks.length
          ? `${plural(s.blocks.length, "thing")} ${s.blocks.length === 1 ? "stands" : "stand"} between now and a signature.`
          : "Nothing stands in the way of a signature."
      }}
    </div>
    <div class="keys">
      <span><kbd>b</kbd>books</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
td.q {
  white-space: normal;
  line-height: 17px;
  padding-block: 5px;
}
.out {
  margin-bottom: 20px;
}
.out td {
  height: 28px;
}
.out th:first-child {
  width: 180px;
}
.out thead + tbody ~ thead th {
  padding-top: 14px;
}
</style>
