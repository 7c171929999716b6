<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useClientId } from "../../api/queries";
import { day } from "../../format";
import MoneyFigure from "../../frame/MoneyFigure.vue";
import { cents, fromCents, isZero, plain } from "../../money";
import DayInput from "../../frame/DayInput.vue";
import PostedAside from "./PostedAside.vue";
import FigureTable from "../../frame/FigureTable.vue";

const props = defineProps<{ which: "balance-sheet" | "income-statement" }>();
const id = useClientId();
const asOf = ref("");
const before = ref("old");
const other = ref("");
const {
  data: s,
  isPending,
  error,
} = useQuery({
  queryKey: ["client", id, "statement", computed(() => [props.which, asOf.value, before.value === "day" ? other.value : before.value])],
  queryFn: () =>
    unwrap(
      api.GET("/api/clients/{client}/books/{statement}", {
        params: {
          path: { client: id.value, statement: props.which },
          query: { as_of: asOf.value, before: before.value === "day" ? other.value || "nothing" : before.value },
        },
      }),
    ),
});
type Line = Schemas["LedgerStatementLine"];
const diff = (l: Line) => fromCents(cents(l.after) - cents(l.before));
const link = (l: Line) =>
  l.account_id && l.account_id > 0 ? `/c/${id.value}/books/register/${l.account_id}` : `/c/${id.value}/openings/rack?label=${-(l.account_id ?? 0)}`;
// Figures stand on the side on which the statement shows them; one on the other side is said in words.
const fig = (m: string) => (isZero(m) ? "–" : plain(m));
const less = (m: string) => m.startsWith("-") && !isZero(m);
// "1 Jan to 30 Jun 2026": the year stands once where it is one.
const span = (x: Schemas["Statement"]) =>
  x.from ? `${x.from.slice(0, 4) === x.as_of.slice(0, 4) ? day(x.from).replace(/ \d+$/, "") : day(x.from)} to ${day(x.as_of)}` : day(x.as_of);
const print = () => window.print();
</script>

<template>
  <main class="bench" tabindex="0">
    <div class="head" style="margin-bottom: 4px">
      <h1>{{ which === "balance-sheet" ? "Balance sheet" : "Income statement" }}</h1>
      <span class="sub">{{ s ? `${span(s)}, in US dollars` : "" }}</span>
      <div class="acts">
        <DayInput id="asof" v-model="asOf" label="As of" none="any day" />
        <label class="sr" for="before">Before</label>
        <select id="before" v-model="before" class="input" style="width: 150px">
          <option value="old">beside the old ledger</option>
          <option value="nothing">by itself</option>
          <option value="day">beside a day</option>
        </select>
        <template v-if="before === 'day'"><DayInput id="other" v-model="other" label="That day" /></template>
        <button class="btn" @click="print">Print</button>
      </div>
    </div>
    <p v-if="error" class="refusal">{{ error.message }}</p>
    <p v-else-if="isPending" class="busy">adding up…</p>
    <div v-else-if="s && s.lines.every((l) => isZero(l.after) && isZero(l.before))" class="empty">
      <b>Nothing stands here yet</b>The statement fills when the opening is posted. <RouterLink :to="`/c/${id}/openings`">Go to the opening</RouterLink>
    </div>
    <FigureTable v-else-if="s" class="bs" :give="[2]">
      <thead>
        <tr>
          <th style="width: 40px"><span class="sr">number</span></th>
          <th>
            <span class="sr">line, in US dollars</span>
          </th>
          <th class="n" colspan="2">
            {{ before === "old" ? "Before opening" : s.before_name }}<small>{{ before === "old" ? s.before_name : " " }}</small>
          </th>
          <th class="n" colspan="2">
            {{ before === "old" ? "After opening" : "Now" }}<small>{{ s.after_name }}</small>
          </th>
          <th class="n">Difference<small>&nbsp;</small></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="(l, i) in s.lines" :key="i">
          <tr v-if="l.kind === 'heading'" class="big">
            <td colspan="2">{{ l.name }}</td>
            <td colspan="5" />
          </tr>
          <tr v-else-if="l.kind === 'group'" class="g1">
            <td colspan="2">{{ l.name }}</td>
            <td colspan="5" />
          </tr>
          <tr v-else-if="l.kind === 'total'" class="tot">
            <td colspan="2">{{ l.name }}</td>
            <td />
            <td class="n out"><span v-if="less(l.before)" class="dc">less</span>{{ fig(l.before) }}</td>
            <td />
            <td class="n out"><span v-if="less(l.after)" class="dc">less</span>{{ fig(l.after) }}</td>
            <td class="n df">
              <template v-if="!isZero(diff(l))"
                ><span class="dc">{{ less(diff(l)) ? "down" : "up" }}</span
                >{{ plain(diff(l)) }}</template
              >
            </td>
          </tr>
          <tr v-else :class="{ last: l.last, moved: !isZero(diff(l)) }">
            <td class="no">{{ l.number }}</td>
            <td class="nm">
              <RouterLink v-if="l.account_id" class="quiet-link" :to="link(l)">{{
                less(l.after) || less(l.before) ? `less ${l.name}` : l.name
              }}</RouterLink><template v-else>{{ l.name }}</template>
            </td>
            <td class="n in">{{ fig(l.before) }}</td>
            <td class="n out"><MoneyFigure v-if="l.last" :m="l.group_before" /></td>
            <td class="n in">
              <RouterLink v-if="l.account_id && l.account_id > 0" class="quiet-link" :to="link(l)">{{ fig(l.after) }}</RouterLink><template v-else>{{
                fig(l.after)
              }}</template>
            </td>
            <td class="n out"><MoneyFigure v-if="l.last" :m="l.group_after" /></td>
            <td class="n df">
              <template v-if="!isZero(diff(l))"
                ><span class="dc">{{ less(diff(l)) ? "down" : "up" }}</span
                >{{ plain(diff(l)) }}</template
              >
            </td>
          </tr>
        </template>
      </tbody>
    </FigureTable>
  </main>
  <PostedAside :differ="s?.differ ?? []" />
</template>

<style scoped>
.bs {
  --give: 72px;
  font-size: 12.5px;
  margin-bottom: 20px;
}
.bs td {
  height: 24px;
  border: 0;
  line-height: 17px;
}
.bs th {
  font-size: 12px;
  padding-bottom: 6px;
  border-bottom: 1px solid var(--ink);
  color: var(--ink);
  font-weight: 600;
}
.bs th small {
  display: block;
  font-weight: 400;
  color: var(--quiet);
  font-size: 12px;
}
.bs .big td {
  font: 600 14.5px/22px var(--slab);
  height: 28px;
  vertical-align: bottom;
}
.bs .g1 td {
  color: var(--brass-text);
  font-weight: 600;
  vertical-align: bottom;
  padding-bottom: 2px;
}
.bs td[colspan] {
  max-width: 0;
}
.bs .no {
  color: var(--quiet);
  font-size: 12px;
  padding-left: 8px;
}
.nm {
}
.bs .last td.in {
  position: relative;
}
.bs .last td.in::after {
  content: "";
  position: absolute;
  right: 5px;
  bottom: 1px;
  width: 70px;
  height: 1px;
  background: #8d8171;
}
.bs td.out {
  font-weight: 600;
}
.bs .tot td {
  height: 30px;
  font-weight: 700;
  font-family: var(--slab);
  font-size: 13px;
}
.bs .tot td.out {
  font-family: var(--body);
  border-top: 1px solid var(--ink);
  border-bottom: 3px double var(--ink);
}
.bs .moved td {
  background: var(--hand);
}
.bs .df {
  color: var(--warn);
  font-weight: 600;
}
</style>
