<script setup lang="ts">
import { computed, ref } from "vue";
import { useClientId, useParties, usePartyNeeds } from "../../api/queries";
import { plural } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useKeys } from "../../keys";
import { isCredit, isZero, plain } from "../../money";
import { useMatchNames } from "./matchNames";
import OpeningShell from "./OpeningShell.vue";
import PartyForm from "./PartyForm.vue";
import PartyPick from "./PartyPick.vue";
import PartiesTape from "./PartiesTape.vue";
import FigureTable from "../../frame/FigureTable.vue";

const id = useClientId();
const text = ref("");
const at = ref(0);
const known = ref(0);
const making = ref(false);
const picked = ref<number[]>([]);
const { data: needs, isPending } = usePartyNeeds();
const { data: parties } = useParties();
const settle = useMatchNames(() => (picked.value = []));
const hit = (s: string) => s.toLowerCase().includes(text.value.toLowerCase());
const rank: Record<string, number> = { open: 0, suggested: 1, broken: 0, set: 3, "left out": 4 };
const rows = computed(() => [...(needs.value ?? [])].filter((n) => hit(`${n.name} ${n.party}`)).sort((a, b) => rank[a.state]! - rank[b.state]!));
const open = computed(() => rows.value.filter((n) => n.state === "open"));
const near = computed(() => rows.value.filter((n) => n.state === "suggested"));
const sure = computed(() => near.value.filter((n) => (n.matches[0]?.confidence ?? 0) >= 0.9));
const inHand = computed(() => rows.value.find((n) => n.label_id === at.value));
const peg: Record<string, string> = { open: "", suggested: "sug", set: "set", "left out": "left", broken: "broken" };
const list = computed(() => (parties.value ?? []).filter((p) => hit(`${p.name} ${p.trade_name ?? ""}`)));
const partyAt = computed(() => list.value.find((p) => p.id === known.value));
function move(n: number) {
  const i = rows.value.findIndex((r) => r.label_id === at.value);
  at.value = rows.value[Math.max(0, Math.min(rows.value.length - 1, i + n))]?.label_id ?? 0;
  known.value = 0;
}
useKeys([
  { key: "j", words: "next name", run: () => move(1) },
  { key: "k", words: "previous name", run: () => move(-1) },
  { key: "p", words: "next name not settled", run: () => ((at.value = (open.value[0] ?? near.value[0])?.label_id ?? 0), (known.value = 0)) },
  {
    key: "Enter",
    words: "take the suggestion in hand",
    run: () => inHand.value?.state === "suggested" && settle.mutate({ label_ids: [inHand.value.label_id], accept: true }),
  },
]);
const all = computed({
  get: () => open.value.length > 0 && open.value.every((n) => picked.value.includes(n.label_id)),
  set: (v) => (picked.value = v ? open.value.map((n) => n.label_id) : []),
});
</script>

<template>
  <OpeningShell v-model:filter="text">
    <template #tape><PartiesTape :needs="needs ?? []" /></template>
    <RefusalBox :error="settle.error.value" />
    <p v-if="isPending" class="busy">reading the names…</p>
    <div v-else-if="!rows.length && !list.length" class="empty">
      <b>No customers or vendors yet</b>Names stand here once a list of open invoices, open bills, customers or vendors is taken in. None is made unasked.
      <button class="btn small" @click="making = true">Make one by hand</button>
    </div>
    <template v-else>
      <div v-if="open.length || near.length" class="do">
        <span>
          <b>{{ open.length }}</b> new to this ledger, <b>{{ near.length }}</b> near a name that is here.
        </span>
        <span class="acts">
          <button v-if="sure.length" class="btn" @click="settle.mutate({ label_ids: sure.map((n) => n.label_id), accept: true })">
            Take {{ plural(sure.length, "sure match", "sure matches") }}
          </button>
          <button
            v-if="open.length"
            class="btn prime"
            :disabled="!picked.length || settle.isPending.value"
            @click="settle.mutate({ label_ids: picked, make: true })"
          >
            Make {{ plural(picked.length, "ticked name") }} new
          </button>
        </span>
      </div>
      <FigureTable v-if="rows.length" class="names" :give="[2, 3, 6, 7]">
        <thead>
          <tr>
            <th style="width: 26px"><input v-if="open.length" v-model="all" type="checkbox" aria-label="tick all new names" /></th>
            <th>In the lists</th>
            <th style="width: 70px">Kind</th>
            <th class="n" style="width: 50px">Items</th>
            <th class="n" style="width: 112px">Open</th>
            <th style="width: 96px">State</th>
            <th>Here</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="n in rows" :key="n.label_id" class="can" :class="{ hand: n.label_id === at }" @click="((at = n.label_id), (known = 0), (making = false))">
            <td><input v-if="n.state === 'open'" v-model="picked" type="checkbox" :value="n.label_id" :aria-label="`tick ${n.name}`" @click.stop /></td>
            <td>
              <button class="quiet-link" @click.stop="((at = n.label_id), (known = 0), (making = false))">{{ n.name }}</button><small
                v-if="n.outside_id"
                class="q"
              >
                {{ n.outside_id }}</small
              >
            </td>
            <td class="q">{{ n.kind }}</td>
            <td class="n q">{{ n.items }}</td>
            <td class="n"><span v-if="isCredit(n.amount)" class="dc">credit</span>{{ plain(n.amount) }}</td>
            <td>
              <span class="state"><i class="peg" :class="peg[n.state]" />{{ n.state }}</span>
            </td>
            <td :class="{ q: n.state !== 'set' }">
              {{ n.party || "–" }}<small v-if="n.looks_like.length" class="warn"> looks like {{ n.looks_like[0] }}</small>
            </td>
          </tr>
        </tbody>
      </FigureTable>
      <div class="do" style="margin-top: 18px">
        <h2 style="margin: 0">Customers and vendors here: {{ list.length }}</h2>
        <button class="btn small" @click="((making = true), (at = 0), (known = 0))">New customer or vendor</button>
      </div>
      <FigureTable v-if="list.length" class="names" :give="[1, 2, 3]">
        <thead>
          <tr>
            <th>Name</th>
            <th style="width: 120px">Kind</th>
            <th style="width: 80px">Terms</th>
            <th style="width: 110px">Tax id</th>
            <th class="n" style="width: 50px">Items</th>
            <th class="n" style="width: 118px">Open</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in list" :key="p.id" class="can" :class="{ hand: p.id === known }" @click="((known = p.id), (at = 0), (making = false))">
            <td>
              <button class="quiet-link" :class="{ q: !p.active }" @click.stop="((known = p.id), (at = 0), (making = false))">{{ p.name }}</button><small
                v-if="!p.active"
                class="q"
              >
                not active</small
              ><small v-if="p.trade_name" class="q"> {{ p.trade_name }}</small>
            </td>
            <td class="q">{{ p.kinds.join(", ") }}</td>
            <td class="q">{{ p.terms || "–" }}</td>
            <td class="q">{{ p.tax_id || "–" }}</td>
            <td class="n q">{{ p.items || "–" }}</td>
            <td class="n">
              <RouterLink v-if="!isZero(p.open)" class="quiet-link" :to="`/c/${id}/books/party/${p.id}`"
                ><span v-if="isCredit(p.open)" class="dc">credit</span>{{ plain(p.open) }}</RouterLink
              ><span v-else class="q">–</span>
            </td>
          </tr>
        </tbody>
      </FigureTable>
    </template>
    <template #why>
      <template v-if="inHand">
        <h1>Who is “{{ inHand.name }}”?</h1>
        <div class="sub">{{ inHand.kind }}, {{ plural(inHand.items, "item") }}, {{ isCredit(inHand.amount) ? "credit " : "" }}{{ plain(inHand.amount) }}</div>
        <PartyPick :key="inHand.label_id" :need="inHand" />
        <div class="src">
          first in <RouterLink :to="`/c/${id}/sheet/${inHand.batch_id}?row=${inHand.record}`">row {{ inHand.record }} of the list</RouterLink>
        </div>
      </template>
      <PartyForm v-else-if="partyAt" :key="partyAt.id" :party="partyAt" />
      <PartyForm v-else-if="making" key="new" @made="(id) => ((known = id), (making = false))" />
      <template v-else>
        <h1>Who is who</h1>
        <p>
          Each name in the lists is matched to a customer or vendor here: by its outside id, then its name, then its spelling. A match is a suggestion;
          look-alikes stay apart until you say they are one. Items of a name that is not settled are held and not posted.
        </p>
      </template>
      <div class="keys">
        <span><kbd>p</kbd>next</span><span><kbd>Enter</kbd>take the match</span><span><kbd>z</kbd>undo</span>
      </div>
    </template>
  </OpeningShell>
</template>

<style scoped>
.names {
}
.names td {
  height: 27px;
  font-size: 12.5px;
}
td small {
  margin-left: 6px;
}
.do {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 8px;
}
</style>
