<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { api, unwrap } from "../../api/client";
import { useClientId } from "../../api/queries";
import { day, plural } from "../../format";
import WhyPane from "../../frame/WhyPane.vue";
import { isCredit, isZero, plain, words } from "../../money";
import FigureTable from "../../frame/FigureTable.vue";
import WholeText from "../../frame/WholeText.vue";

const props = defineProps<{ account: number }>();
const id = useClientId();
const all = ref(false);
const at = ref<{ entry: number; no: number } | null>(null);
const {
  data: r,
  isPending,
  error,
} = useQuery({
  queryKey: ["client", id, "register", computed(() => [props.account, all.value])],
  queryFn: () =>
    unwrap(
      api.GET("/api/clients/{client}/books/register/{account}", { params: { path: { client: id.value, account: props.account }, query: { all: all.value } } }),
    ),
});
</script>

<template>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>{{ r ? `${r.account.number} ${r.account.name}` : "Register" }}</h1>
      <span v-if="r" class="sub">{{ r.account.kind }}, {{ words(r.balance) }}</span>
      <div class="acts">
        <button v-if="r && (r.folded || all)" class="btn" @click="all = !all">
          {{ all ? "Fold reversed pairs" : `Show ${plural(r.folded, "line")} of reversed pairs` }}
        </button>
      </div>
    </div>
    <p v-if="isPending" class="busy">reading the register…</p>
    <div v-else-if="error" class="empty"><b>There is no such account</b>It may belong to another client.</div>
    <div v-else-if="r && !r.lines.length" class="empty">
      <b>Nothing stands on this account</b
      >{{ r.folded ? "What was posted here was taken back; show the reversed pairs to see it." : "No posting has touched it yet." }}
    </div>
    <FigureTable v-else-if="r" class="reg" :give="[3]">
      <thead>
        <tr>
          <th style="width: 96px">Day</th>
          <th style="width: 70px">Entry</th>
          <th>From</th>
          <th class="n" style="width: 116px">Debit</th>
          <th class="n" style="width: 116px">Credit</th>
          <th class="n" style="width: 140px">Balance</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(l, i) in r.lines"
          :key="`${l.entry_id}-${l.no}-${i}`"
          :class="{ can: l.entry_id, hand: l.entry_id && at?.entry === l.entry_id && at?.no === l.no, off: l.reversal }"
          @click="l.entry_id && (at = { entry: l.entry_id, no: l.no })"
        >
          <td>{{ day(l.day) }}</td>
          <td class="q">{{ l.entry_id ? `${l.entry_id}.${l.no}` : "–" }}</td>
          <td>
            <WholeText v-if="!l.entry_id" :text="l.memo" /><button v-else class="quiet-link" @click.stop="at = { entry: l.entry_id, no: l.no }">
              <WholeText :text="l.memo" /></button
            ><small v-if="l.reversal" class="q"> reversed pair</small>
          </td>
          <td class="n">{{ isCredit(l.amount) ? "" : plain(l.amount) }}</td>
          <td class="n">{{ isCredit(l.amount) ? plain(l.amount) : "" }}</td>
          <td class="n"><span v-if="isCredit(l.running)" class="dc">credit</span>{{ isZero(l.running) ? "0.00" : plain(l.running) }}</td>
        </tr>
      </tbody>
    </FigureTable>
    <p v-if="r?.more" class="q">The first 2,000 lines are shown.</p>
  </main>
  <aside class="why" aria-label="Why">
    <template v-if="at"
      ><h1>Entry {{ at.entry }}, line {{ at.no }}</h1>
      <div class="sub">where it came from</div>
      <WhyPane :what="{ entry: at.entry, no: at.no }"
    /></template>
    <template v-else
      ><h1>Where it comes from</h1>
      <div class="sub">the whole balance; pick a line for one posting</div>
      <WhyPane :what="{ account }"
    /></template>
    <div class="keys">
      <span><kbd>b</kbd>back to the work</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
.reg {
  --give: 146px;
  font-size: 12.5px;
}
.reg td {
  height: 26px;
}
.reg td:nth-child(3),
.reg td .quiet-link {
  white-space: normal;
  line-height: 17px;
  text-align: left;
}
tr.off td {
  color: var(--quiet);
}
</style>
