<script setup lang="ts">
import { computed } from "vue";
import { api, unwrap } from "../../api/client";
import { useAct, useAging, useClientId } from "../../api/queries";
import { day } from "../../format";
import MoneyFigure from "../../frame/MoneyFigure.vue";
import { cents, figure, isCredit, isZero, plain, size } from "../../money";
import PostedAside from "./PostedAside.vue";
import FigureTable from "../../frame/FigureTable.vue";

const props = defineProps<{ side: string }>();
const id = useClientId();
const { data: a, isPending } = useAging(() => props.side);
const choose = useAct(
  (client, value: string) => unwrap(api.POST("/api/clients/{client}/openings/choice", { params: { path: { client } }, body: { key: "age-credits", value } })),
  undefined,
  {
    undo: (_v, client) => {
      const value = a.value?.credits === "by-date" ? "by-date" : "";
      return {
        words: "how credits are aged",
        run: () => unwrap(api.POST("/api/clients/{client}/openings/choice", { params: { path: { client } }, body: { key: "age-credits", value } })),
      };
    },
  },
);
const who = computed(() => (props.side === "receivable" ? "Customer" : "Vendor"));
const ties = computed(() => a.value && a.value.total === a.value.control);
const widest = computed(() => Math.max(1, ...(a.value?.totals ?? []).map(size)));
const bar = (m: string) => `${Math.round((100 * size(m)) / widest.value)}%`;
const neg = (m: string) => cents(m) < 0n;
</script>

<template>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>Aging of {{ side }}s</h1>
      <span v-if="a" class="sub">as of {{ day(a.as_of) }}, by days past due</span>
      <div class="acts">
        <label class="s q" style="align-self: center"
          ><input type="checkbox" :checked="a?.credits === 'by-date'" @change="(e) => choose.mutate((e.target as HTMLInputElement).checked ? 'by-date' : '')" />
          age credits by their own date</label
        >
      </div>
    </div>
    <p v-if="isPending" class="busy">aging the items…</p>
    <div v-else-if="!a?.rows.length" class="empty">
      <b>No open items are posted</b>The aging fills when the list of open {{ side === "receivable" ? "invoices" : "bills" }} is posted.
      <RouterLink :to="`/c/${id}/openings/${side === 'receivable' ? 'invoices' : 'bills'}`">Go there</RouterLink>
    </div>
    <template v-else>
      <div class="bars" role="img" :aria-label="a.columns.map((c, i) => `${c}: ${figure(a!.totals[i]!, 'credit')}`).join(', ')">
        <div v-for="(c, i) in a.columns" :key="c">
          <span>{{ c }}</span><i :class="{ neg: neg(a.totals[i]!) }" :style="{ width: bar(a.totals[i]!) }" /><span class="n"
            >{{ neg(a.totals[i]!) ? "credit " : "" }}{{ plain(a.totals[i]!) }}</span
          >
        </div>
      </div>
      <FigureTable class="age" :give="[1]">
        <thead>
          <tr>
            <th>{{ who }}</th>
            <th v-for="c in a.columns" :key="c" class="n">{{ c }}</th>
            <th v-if="!isZero(a.undated)" class="n">No due date</th>
            <th class="n">Open</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in a.rows" :key="r.party_id">
            <td>
              <RouterLink class="quiet-link" :to="`/c/${id}/books/party/${r.party_id}`">{{ r.party }}</RouterLink>
            </td>
            <td v-for="(c, i) in r.columns" :key="i" class="n"><span v-if="isCredit(c)" class="dc">credit</span>{{ isZero(c) ? "–" : plain(c) }}</td>
            <td v-if="!isZero(a.undated)" class="n warn"><MoneyFigure :m="r.undated" other="credit" none="–" /></td>
            <td class="n">
              <RouterLink class="quiet-link" :to="`/c/${id}/books/party/${r.party_id}`"
                ><span v-if="isCredit(r.total)" class="dc">credit</span>{{ plain(r.total) }}</RouterLink
              >
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td>Total</td>
            <td v-for="(c, i) in a.totals" :key="i" class="n"><span v-if="isCredit(c)" class="dc">credit</span>{{ plain(c) }}</td>
            <td v-if="!isZero(a.undated)" class="n"><MoneyFigure :m="a.undated" other="credit" /></td>
            <td class="n"><MoneyFigure :m="a.total" other="credit" /></td>
          </tr>
        </tfoot>
      </FigureTable>
      <p style="margin: 8px 0 20px">
        The control account says <b><MoneyFigure :m="a.control" :other="side === 'receivable' ? 'credit' : 'debit'" /></b>:
        <span v-if="ties" class="ok">the aging ties ✓</span><span v-else class="bad">they differ</span>
      </p>
    </template>
  </main>
  <PostedAside :differ="[]" />
</template>

<style scoped>
.bars {
  margin-bottom: 14px;
  display: grid;
  gap: 3px;
  max-width: 640px;
}
.bars div {
  display: grid;
  grid-template-columns: 92px 1fr 120px;
  align-items: center;
  gap: 10px;
  font-size: 12.5px;
}
.bars i {
  height: 13px;
  background: var(--brass);
  min-width: 1px;
}
.bars i.neg {
  background: none;
  border: 1px solid var(--brass);
}
.age td .dc {
  display: block;
  margin: 0;
  line-height: 13px;
}
.age td {
  height: 25px;
  font-size: 12.5px;
}
tfoot td {
  font-weight: 700;
  border-top: 1px solid var(--ink);
  border-bottom: 3px double var(--ink);
}
</style>
