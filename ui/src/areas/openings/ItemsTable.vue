<script setup lang="ts">
import { computed, ref } from "vue";
import type { Schemas } from "../../api/client";
import { day } from "../../format";
import MoneyFigure from "../../frame/MoneyFigure.vue";
import { isCredit, plain, sum } from "../../money";
import FigureTable from "../../frame/FigureTable.vue";

// The items in the order in which they ask for a person: held, gone, changed,
// new, then those already posted and unchanged.
const props = defineProps<{
  draft: Schemas["ItemsDraft"];
  lines: Schemas["ItemLine"][];
  needs: Schemas["PartyNeed"][];
  side: string;
  lineKey: (l: Schemas["ItemLine"]) => string;
}>();
const at = defineModel<string>("at", { required: true });
const gone = defineModel<string[]>("gone", { required: true });
const all = ref(false);
const state = computed(() => new Map(props.needs.map((n) => [n.label_id, n.state])));
const heads: Record<string, string> = {
  held: "Held: party not settled, not counted",
  gone: "Posted, and gone from this list: tick those to take back",
  "amount changed": "Amount changed: the old one is reversed, the new one posted",
  "party changed": "Of another party now: reversed and posted anew under it",
  "date changed": "Date changed: amended without an entry",
  new: "Ready to post",
  same: "Posted, unchanged",
};
const groups = computed(() =>
  Object.keys(heads)
    .map((what) => ({ what, head: heads[what]!, rows: props.lines.filter((l) => l.what === what), n: props.draft.counts[what] ?? 0 }))
    .filter((g) => g.rows.length),
);
const shown = (g: { what: string; rows: Schemas["ItemLine"][] }) => (all.value || g.rows.length <= 60 ? g.rows : g.rows.slice(0, 40));
// On the side of the list: what is owed is a plain figure, what lowers it is a credit.
const low = (m: string) => (props.side === "receivable" ? isCredit(m) : !isCredit(m) && m !== "0.00");
const mark = computed(() => new Set(props.draft.causes.filter((c) => c.rank <= 2).map((c) => c.fact_id)));
function tick(identity: string, on: boolean) {
  gone.value = on ? [...gone.value, identity] : gone.value.filter((g) => g !== identity);
}
</script>

<template>
  <FigureTable class="items" :give="[2, 8]">
    <thead>
      <tr>
        <th style="width: 52px">Number</th>
        <th>{{ side === "receivable" ? "Customer" : "Vendor" }}</th>
        <th style="width: 95px">Dated</th>
        <th style="width: 95px">Due</th>
        <th class="n" style="width: 74px">Original</th>
        <th class="n" style="width: 98px">Open</th>
        <th class="n" style="width: 34px">Late</th>
        <th class="party">Party</th>
      </tr>
    </thead>
    <tbody v-for="g in groups" :key="g.what">
      <tr class="grp">
        <th colspan="4" scope="rowgroup">
          {{ g.head }}<template v-if="g.n > 1">: {{ g.n.toLocaleString("en-US") }}</template>
        </th>
        <td></td>
        <td class="n"><MoneyFigure :m="sum(g.rows.map((r) => (g.what === 'gone' ? r.was : r.amount)))" :credit="side === 'payable'" other="credit" /></td>
        <td colspan="2"></td>
      </tr>
      <tr v-for="l in shown(g)" :key="lineKey(l)" class="can" :class="{ hand: lineKey(l) === at }" @click="at = lineKey(l)">
        <td>
          <label v-if="g.what === 'gone'" @click.stop
            ><input
              type="checkbox"
              :checked="gone.includes(l.identity)"
              :aria-label="`take ${l.document} ${l.number} of ${l.party} back`"
              @change="(e) => tick(l.identity, (e.target as HTMLInputElement).checked)"
            />
            {{ l.number || "–" }}</label
          ><button v-else class="quiet-link" @click.stop="at = lineKey(l)">{{ l.number || l.document }}</button>
        </td>
        <td>
          {{ l.party }}<span v-if="l.document !== 'invoice' && l.document !== 'bill'" class="dc"> {{ l.document }}</span
          ><small v-if="l.was_party" class="q"><br />was {{ l.was_party }}</small>
        </td>
        <td class="q">{{ day(l.day) }}</td>
        <td class="q">
          {{ l.due ? day(l.due) : l.terms || "–" }}<small v-if="l.was_due && l.was_due !== l.due"> was {{ day(l.was_due) }}</small>
        </td>
        <td class="n"><MoneyFigure :m="l.original" :credit="side === 'payable'" other="credit" none="–" /></td>
        <td class="n" :class="{ bad: mark.has(l.fact_id) }">
          <span v-if="g.what === 'held'" class="dc">held</span><span v-if="low(l.what === 'gone' ? l.was : l.amount)" class="dc">credit</span
          >{{ plain(l.what === "gone" ? l.was : l.amount)
          }}<small v-if="l.what === 'amount changed'" class="q"><br />was {{ low(l.was) ? "credit " : "" }}{{ plain(l.was) }}</small>
        </td>
        <td class="n q">{{ l.late > 0 ? l.late : "–" }}</td>
        <td>
          <span class="state"
            ><i class="peg" :class="g.what === 'held' ? (state.get(l.label_id ?? 0) === 'suggested' ? 'sug' : '') : 'set'" />{{
              g.what === "held" ? state.get(l.label_id ?? 0) : "set"
            }}</span
          >
        </td>
      </tr>
      <tr v-if="shown(g).length < g.n" class="more">
        <td colspan="8">
          <button v-if="shown(g).length < g.rows.length" class="linkish" @click="all = true">{{ (g.n - shown(g).length).toLocaleString("en-US") }} more</button
          ><span v-else class="q">and {{ (g.n - shown(g).length).toLocaleString("en-US") }} more, not listed here</span>
        </td>
      </tr>
    </tbody>
  </FigureTable>
</template>

<style scoped>
.items {
  --give: 44px;
  margin-bottom: 20px;
}
td {
  height: 27px;
  font-size: 12.5px;
}
.grp th {
  font-size: 12px;
  font-weight: 650;
  color: var(--brass-text);
  padding-top: 9px;
  border-bottom: 1px solid var(--brass);
}
.grp td {
  border-bottom: 1px solid var(--brass);
  font-weight: 650;
  vertical-align: bottom;
  padding-bottom: 4px;
}
small {
  font-size: 11.5px;
  line-height: 14px;
}
th.party {
  min-width: 100px !important;
  width: 100px !important;
}
@media (max-width: 1240px) {
  th.party {
    min-width: 44px !important;
  }
}
</style>
