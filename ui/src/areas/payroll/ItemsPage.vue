<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";
import { usePayroll } from "../../api/queries";
import { plural } from "../../format";
import StatePeg from "../../frame/StatePeg.vue";
import { useKeys } from "../../keys";
import ItemWhy from "./ItemWhy.vue";
import PayrollShell from "./PayrollShell.vue";
import { accountsOf, worst } from "./payroll";
import FigureTable from "../../frame/FigureTable.vue";

// Every pay item of every provider: what it is, where its halves go, what it feeds.
const { data: p, isPending } = usePayroll();
const route = useRoute();
const at = ref(Number(route.query.item ?? 0));
watch(
  () => route.query.item,
  (i) => i && (at.value = Number(i)),
);
const picking = ref(-1);
const rows = computed(() => p.value?.items ?? []);
const inHand = computed(() => rows.value.find((i) => i.id === at.value));
const move = (n: number) => {
  const i = rows.value.findIndex((r) => r.id === at.value);
  at.value = rows.value[Math.max(0, Math.min(rows.value.length - 1, i + n))]?.id ?? 0;
  picking.value = -1;
};
useKeys([
  { key: "j", words: "next item", run: () => move(1) },
  { key: "k", words: "previous item", run: () => move(-1) },
  {
    key: "t",
    words: "set where the item in hand goes",
    run: () => (picking.value = Math.max(0, inHand.value?.needs.findIndex((n) => n.state !== "set") ?? 0)),
  },
]);
const loose = computed(() => {
  const c = p.value?.counts ?? {};
  return `${c.open ?? 0} open, ${c.suggested ?? 0} suggested, ${c.set ?? 0} set`;
});
const boxes = (i: (typeof rows.value)[number]) =>
  [...new Set(i.feeds.filter((f) => f.form === "w2").map((f) => (f.num < 0 ? "−" : "") + f.box + (f.den === 1 ? "" : ` × ${f.num}/${f.den}`)))].join(", ");
</script>

<template>
  <PayrollShell>
    <main class="bench" tabindex="0">
      <div class="head">
        <h1>Pay items</h1>
        <span class="sub">{{ loose }}, of {{ plural(rows.length, "item") }}</span>
      </div>
      <p v-if="isPending" class="busy">reading the items…</p>
      <div v-else-if="!rows.length" class="empty"><b>No items yet</b>They stand here once a register is taken in.</div>
      <FigureTable v-else class="items" :give="[1, 2, 3, 4, 5]">
        <thead>
          <tr>
            <th style="width: 136px">Item</th>
            <th style="width: 142px">What it is</th>
            <th style="width: 98px">Peg</th>
            <th>Accounts</th>
            <th style="width: 112px">W-2 boxes</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="i in rows" :key="i.id" :class="{ hand: i.id === at }" tabindex="0" @click="at = i.id" @focus="at = i.id">
            <td>{{ i.name }}</td>
            <td class="q">{{ i.kind || "not said" }}</td>
            <td><StatePeg :state="i.sure ? worst(i.needs) : 'open'" /></td>
            <td class="ac">
              <span v-for="a in accountsOf(i.needs)" :key="a.side + a.words + a.state"
                ><i>{{ a.side }}</i> {{ a.words }}<small v-if="a.groups.length">, {{ a.groups.join(", ") }}</small></span
              >
            </td>
            <td class="q">{{ boxes(i) || "–" }}</td>
          </tr>
        </tbody>
      </FigureTable>
    </main>
    <aside class="why" aria-label="Why" tabindex="0">
      <ItemWhy v-if="inHand" v-model:picking="picking" :item="inHand" :needs="inHand.needs" />
      <template v-else>
        <h1>Where items go</h1>
        <p>An employer's cost has two halves, an expense and a liability; each has a home of its own, so a forgotten half shows.</p>
        <p style="margin-top: 8px">Expenses can go elsewhere for each group of employees. Officers always stand apart. Select an item to set it.</p>
      </template>
    </aside>
  </PayrollShell>
</template>

<style scoped>
.items {
  font-size: 12.5px;
}
.items td {
  height: 26px;
  line-height: 17px;
}
.items td {
  white-space: normal;
}
.items td.ac span {
  display: block;
  padding: 1px 0 1px 18px;
  text-indent: -18px;
}
.ac i {
  font-style: normal;
  color: var(--quiet);
}
.ac small {
  color: var(--quiet);
}
</style>
