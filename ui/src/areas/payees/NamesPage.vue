<script setup lang="ts">
import { computed, ref } from "vue";
import { useParties, usePartyNeeds } from "../../api/queries";
import { plural } from "../../format";
import ChooseOne from "../../frame/ChooseOne.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import StatePeg from "../../frame/StatePeg.vue";
import { figure } from "../../money";
import { useMatchNames } from "../openings/matchNames";
import PayeeHead from "./PayeeHead.vue";
import PayeeShell from "./PayeeShell.vue";
import FigureTable from "../../frame/FigureTable.vue";

// Which vendor each name in the payments is. Nothing is created or matched unasked.
const { data: needs, isPending } = usePartyNeeds();
const { data: parties } = useParties();
const picked = ref<number[]>([]);
const at = ref(0);
const rank: Record<string, number> = { open: 0, broken: 0, suggested: 1, set: 3, "left out": 4 };
const rows = computed(() => (needs.value ?? []).filter((n) => n.payments > 0).sort((a, b) => rank[a.state]! - rank[b.state]! || a.name.localeCompare(b.name)));
const open = computed(() => rows.value.filter((n) => n.state === "open"));
const sure = computed(() => rows.value.filter((n) => n.state === "suggested" && (n.matches[0]?.confidence ?? 0) >= 0.9));
const settle = useMatchNames(() => (picked.value = []));
const all = computed({
  get: () => open.value.length > 0 && open.value.every((n) => picked.value.includes(n.label_id)),
  set: (v) => (picked.value = v ? open.value.map((n) => n.label_id) : []),
});
const hand = computed(() => rows.value.find((n) => n.label_id === at.value));
const vendors = computed(() => (parties.value ?? []).filter((p) => p.active).map((p) => ({ value: p.id, label: p.name })));
</script>

<template>
  <PayeeShell>
    <main class="bench" tabindex="0">
      <PayeeHead />
      <RefusalBox :error="settle.error.value" />
      <p v-if="isPending" class="busy">reading the names…</p>
      <div v-else-if="!rows.length" class="empty">
        <b>No names yet</b>The vendors of payments stand here once a file of payments is taken in. None is made unasked.
      </div>
      <template v-else>
        <div class="do">
          <span>
            <b>{{ open.length }}</b> new to this ledger, <b>{{ rows.filter((n) => n.state === "suggested").length }}</b> near a vendor that is here.
          </span>
          <span class="acts">
            <button
              v-if="sure.length"
              class="btn"
              :disabled="settle.isPending.value"
              @click="settle.mutate({ label_ids: sure.map((n) => n.label_id), accept: true })"
            >
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
        <FigureTable :give="[2, 5, 6]">
          <thead>
            <tr>
              <th style="width: 26px"><input v-if="open.length" v-model="all" type="checkbox" aria-label="tick all new names" /></th>
              <th>In the payments</th>
              <th class="n" style="width: 52px">Lines</th>
              <th class="n" style="width: 100px">Paid</th>
              <th style="width: 104px">State</th>
              <th>Here</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="n in rows" :key="n.label_id" class="can" :class="{ hand: n.label_id === at }" @click="at = n.label_id">
              <td><input v-if="n.state === 'open'" v-model="picked" type="checkbox" :value="n.label_id" :aria-label="`tick ${n.name}`" @click.stop /></td>
              <td>
                <button class="quiet-link" @click.stop="at = n.label_id">{{ n.name }}</button> <small class="q">{{ n.outside_id }}</small>
              </td>
              <td class="n">{{ n.payments }}</td>
              <td class="n">{{ figure(n.amount, "back") }}</td>
              <td><StatePeg :state="n.state" /></td>
              <td>
                {{ n.party }} <small class="q">{{ n.evidence }}</small>
              </td>
            </tr>
          </tbody>
        </FigureTable>
      </template>
    </main>
    <aside class="why" aria-label="The name in hand" tabindex="0">
      <template v-if="hand">
        <h1>{{ hand.name }}</h1>
        <div class="sub">{{ plural(hand.payments, "payment line") }}, {{ figure(hand.amount, "back") }}</div>
        <p v-if="hand.looks_like.length" class="warn">Looks like {{ hand.looks_like.join(", ") }}; kept apart unless you say so.</p>
        <button v-if="hand.state === 'suggested'" class="btn small prime" @click="settle.mutate({ label_ids: [hand.label_id], accept: true })">
          It is {{ hand.party }}
        </button>
        <ChooseOne
          id="name-is"
          :model-value="hand.state === 'set' ? hand.party_id : 0"
          label="It is the vendor"
          style="margin-top: 10px"
          :options="[{ value: 0, label: 'choose' }, ...vendors]"
          @update:model-value="(v) => v && settle.mutate({ label_ids: [hand!.label_id], party_id: Number(v) })"
        />
        <div class="acts">
          <button
            v-if="hand.state === 'open' || hand.state === 'suggested'"
            class="btn small"
            @click="settle.mutate({ label_ids: [hand.label_id], make: true })"
          >
            Make it new
          </button>
          <button v-if="hand.state === 'set'" class="btn small plain" @click="settle.mutate({ label_ids: [hand.label_id], take_back: true })">
            Take it back
          </button>
        </div>
      </template>
      <template v-else>
        <h1>Who is who</h1>
        <p>
          A name of a file is one of the ledger's vendors, or a new one. Until somebody says which, it counts as a payee of its own on whom nothing is known.
        </p>
      </template>
    </aside>
  </PayeeShell>
</template>

<style scoped>
.do {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 6px;
}
table {
  font-size: 12.5px;
}
td {
  height: 28px;
}
</style>
