<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { api, unwrap } from "../../api/client";
import { useClientId } from "../../api/queries";
import { day, plural } from "../../format";
import WhyPane from "../../frame/WhyPane.vue";
import { isCredit, isZero, plain, words } from "../../money";
import FigureTable from "../../frame/FigureTable.vue";

const props = defineProps<{ party: number }>();
const id = useClientId();
const at = ref(0);
const { data: r, isPending } = useQuery({
  queryKey: ["client", id, "party-items", computed(() => props.party)],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/parties/{party}/items", { params: { path: { client: id.value, party: props.party } } })),
});
const inHand = computed(() => r.value?.items.find((i) => i.item_id === at.value));
</script>

<template>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>{{ r?.party.name ?? "Register" }}</h1>
      <span v-if="r" class="sub"
        >{{ r.party.kinds.join(", ") }}, {{ plural(r.items.length, "open item") }}<template v-if="r.party.terms">, {{ r.party.terms }}</template></span
      >
    </div>
    <p v-if="isPending" class="busy">reading the items…</p>
    <div v-else-if="!r?.items.length" class="empty"><b>Nothing is open</b>No item of this party is posted and open.</div>
    <FigureTable v-else class="reg" :give="[1]">
      <thead>
        <tr>
          <th style="width: 84px">Kind</th>
          <th style="width: 90px">Number</th>
          <th style="width: 96px">Dated</th>
          <th style="width: 96px">Due</th>
          <th class="n" style="width: 78px">Days past</th>
          <th class="n">Original</th>
          <th class="n">Debit</th>
          <th class="n">Credit</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="i in r.items" :key="i.item_id" class="can" :class="{ hand: i.item_id === at }" @click="at = i.item_id ?? 0">
          <td>{{ i.document }}</td>
          <td>
            <button class="quiet-link" @click.stop="at = i.item_id ?? 0">{{ i.number || "–" }}</button>
          </td>
          <td class="q">{{ day(i.day) }}</td>
          <td class="q">{{ i.due ? day(i.due) : i.terms || "–" }}</td>
          <td class="n q">{{ i.late > 0 ? i.late : "–" }}</td>
          <td class="n q">{{ isZero(i.original) ? "–" : words(i.original) }}</td>
          <td class="n">{{ isCredit(i.amount) ? "" : plain(i.amount) }}</td>
          <td class="n">{{ isCredit(i.amount) ? plain(i.amount) : "" }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td colspan="6">Open</td>
          <td class="n">{{ isCredit(r.total) ? "" : plain(r.total) }}</td>
          <td class="n">{{ isCredit(r.total) ? plain(r.total) : "" }}</td>
        </tr>
      </tfoot>
    </FigureTable>
  </main>
  <aside class="why" aria-label="Why">
    <template v-if="inHand">
      <h1>{{ inHand.document }} {{ inHand.number }}</h1>
      <div class="sub">{{ words(inHand.amount) }}</div>
      <WhyPane :what="{ fact: inHand.fact_id }" />
    </template>
    <template v-else-if="r">
      <h1>{{ r.party.name }}</h1>
      <div v-if="r.party.address" class="kv">
        <span>Address</span><span style="white-space: normal">{{ r.party.address }}</span>
      </div>
      <div v-if="r.party.email" class="kv">
        <span>E-mail</span><span>{{ r.party.email }}</span>
      </div>
      <div v-if="r.party.tax_id" class="kv">
        <span>Tax id</span><span>{{ r.party.tax_id }}</span>
      </div>
      <p class="q" style="margin-top: 10px">Pick an item to see the row it came from.</p>
    </template>
    <div class="keys">
      <span><kbd>b</kbd>back</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
.reg td {
  height: 25px;
  font-size: 12.5px;
}
tfoot td {
  font-weight: 700;
  border-top: 1px solid var(--ink);
  border-bottom: 3px double var(--ink);
}
</style>
