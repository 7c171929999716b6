<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { api, unwrap } from "../../api/client";
import { useClientId } from "../../api/queries";
import { day } from "../../format";
import { isCredit, isZero, plain } from "../../money";
import DayInput from "../../frame/DayInput.vue";
import PostedAside from "./PostedAside.vue";
import FigureTable from "../../frame/FigureTable.vue";

const id = useClientId();
const asOf = ref("");
const { data: tb, isPending } = useQuery({
  queryKey: ["client", id, "tb", asOf],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/books/trial-balance", { params: { path: { client: id.value }, query: { as_of: asOf.value } } })),
});
const balanced = computed(() => tb.value && tb.value.debit === tb.value.credit);
const link = (a: number) => (a > 0 ? `/c/${id.value}/books/register/${a}` : `/c/${id.value}/openings/rack?label=${-a}`);
const print = () => window.print();
</script>

<template>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>Trial balance</h1>
      <span class="sub">{{ asOf ? day(asOf) : "all that is posted" }}, in US dollars</span>
      <div class="acts">
        <DayInput id="tb-asof" v-model="asOf" label="As of" none="any day" /><a class="btn" :href="`/api/clients/${id}/books/old-new.csv`">Old and new as CSV</a
        ><button class="btn" @click="print">Print</button>
      </div>
    </div>
    <p v-if="isPending" class="busy">adding up…</p>
    <div v-else-if="!tb?.lines.length" class="empty">
      <b>Nothing is posted yet</b>The trial balance fills when the opening is posted. <RouterLink :to="`/c/${id}/openings`">Go to the opening</RouterLink>
    </div>
    <FigureTable v-else class="tb" :give="[2, 3]">
      <thead>
        <tr>
          <th style="width: 70px">Number</th>
          <th>Account</th>
          <th style="width: 92px">Kind</th>
          <th class="n" style="width: 104px">Debit</th>
          <th class="n" style="width: 104px">Credit</th>
          <th class="n" style="width: 128px">Old ledger</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in tb.lines" :key="l.account_id">
          <td class="q">{{ l.number }}</td>
          <td>
            <RouterLink class="quiet-link" :to="link(l.account_id)">{{ l.name }}</RouterLink>
          </td>
          <td class="q">{{ l.kind }}</td>
          <td class="n">
            <RouterLink v-if="!isZero(l.debit)" class="quiet-link" :to="link(l.account_id)">{{ plain(l.debit) }}</RouterLink>
          </td>
          <td class="n">
            <RouterLink v-if="!isZero(l.credit)" class="quiet-link" :to="link(l.account_id)">{{ plain(l.credit) }}</RouterLink>
          </td>
          <td class="n q"><span v-if="isCredit(l.before)" class="dc">credit</span>{{ isZero(l.before) ? "–" : plain(l.before) }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td colspan="3">Total</td>
          <td class="n">{{ plain(tb.debit) }}</td>
          <td class="n">{{ plain(tb.credit) }}</td>
          <td class="n"><span v-if="balanced" class="ok">in balance ✓</span><span v-else class="bad">out of balance</span></td>
        </tr>
      </tfoot>
    </FigureTable>
  </main>
  <PostedAside :differ="[]" />
</template>

<style scoped>
.tb {
  font-size: 12.5px;
  margin-bottom: 20px;
}
.tb td {
  height: 24px;
}
tfoot td {
  font-weight: 700;
  border-top: 1px solid var(--ink);
  border-bottom: 3px double var(--ink);
}
</style>
