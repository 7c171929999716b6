<script setup lang="ts">
import { computed, ref } from "vue";
import { api, Refusal, type Schemas, unwrap } from "../../api/client";
import { useAct, usePayeeRest } from "../../api/queries";
import { plural } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import StatePeg from "../../frame/StatePeg.vue";
import { useKeys } from "../../keys";
import { figure } from "../../money";
import ReasonBox from "../../rack/ReasonBox.vue";
import BoxPicker from "./BoxPicker.vue";
import { boxWords } from "./payees";
import { useYear } from "./year";
import FigureTable from "../../frame/FigureTable.vue";

// Accounts on the rack: which box each charged account feeds.
const props = defineProps<{ payees: Schemas["Payees"]; hand: string; vendor?: { id: number; name: string } }>();
const emit = defineEmits<{ hand: [key: string]; effect: [choice: Schemas["BoxChoice"] | null] }>();
const year = useYear();
const picking = ref(false);
const leaving = ref(false);
const looking = ref(false);
const resting = ref(false);
const only = ref(false);
const { data: rest } = usePayeeRest(year, resting);
const rows = computed(() => [...props.payees.accounts, ...(resting.value ? (rest.value ?? []) : [])]);
const inHand = computed(() => rows.value.find((r) => r.key === props.hand));
const loose = computed(() => rows.value.filter((r) => r.state === "suggested" && !r.warning));
const unsaid = computed(() => rows.value.filter((r) => r.state === "open" || r.state === "suggested" || r.state === "broken"));
const again = ref<Schemas["BoxChoice"]>();
const bind = useAct(
  (client, body: Schemas["BoxChoice"]) =>
    unwrap(api.PUT("/api/clients/{client}/payees/boxes", { params: { path: { client }, query: { year: year.value } }, body })),
  () => ((picking.value = leaving.value = looking.value = false), (again.value = undefined), emit("effect", null)),
);
const accept = useAct(
  (client, keys: string[]) =>
    unwrap(api.POST("/api/clients/{client}/payees/boxes/accept", { params: { path: { client }, query: { year: year.value } }, body: { keys, above: 0 } })),
  () => (looking.value = false),
);
function set(body: Partial<Schemas["BoxChoice"]>) {
  if (!inHand.value) return;
  const choice = { keys: [inHand.value.key], ...body, ...(only.value && props.vendor ? { vendors: [props.vendor.id] } : {}) };
  again.value = choice;
  bind.mutate(choice);
}
const asked = computed(() => bind.error.value instanceof Refusal && bind.error.value.code === "look-first");
const move = (n: number) => {
  const i = rows.value.findIndex((r) => r.key === props.hand);
  emit("hand", rows.value[Math.max(0, Math.min(rows.value.length - 1, i + n))]?.key ?? "");
  picking.value = false;
};
useKeys([
  { key: "J", words: "next account", run: () => move(1) },
  { key: "K", words: "previous account", run: () => move(-1) },
  { key: "t", words: "set the box of the account in hand", run: () => (picking.value = !!inHand.value) },
  { key: "x", words: "leave the account in hand out", run: () => (leaving.value = !!inHand.value) },
  {
    key: "z",
    words: "take its choice back",
    run: () => inHand.value && inHand.value.state !== "open" && inHand.value.state !== "suggested" && set({ take_back: true }),
  },
  {
    key: "Enter",
    words: "take its suggestion",
    run: () =>
      inHand.value?.suggestion &&
      inHand.value.state === "suggested" &&
      set(inHand.value.suggestion.leave_out ? { leave_out: inHand.value.suggestion.leave_out } : { box: inHand.value.suggestion.box }),
  },
]);
const boxOf = (r: Schemas["PayeeNeed"]) =>
  r.by_line ? "line by line" : r.state === "left out" || r.suggestion?.leave_out ? "–" : r.box ? boxWords(r.box, props.payees.rules) : "";
const c = computed(() => props.payees.counts);
</script>

<template>
  <section>
    <div class="bar">
      <h2>Accounts charged</h2>
      <span class="q">{{ c.open ?? 0 }} open, {{ c.suggested ?? 0 }} suggested, {{ c.set ?? 0 }} set, {{ c["left out"] ?? 0 }} left out</span>
      <span class="acts">
        <button v-if="loose.length" class="btn small" @click="looking = !looking">Look at {{ plural(loose.length, "suggestion") }}</button>
        <button class="btn small plain" :aria-pressed="resting" @click="resting = !resting">
          {{ resting ? "Only charged accounts" : "The rest of the chart" }}
        </button>
      </span>
    </div>
    <RefusalBox v-if="!asked" :error="bind.error.value ?? accept.error.value" />
    <div v-if="asked" class="said look">
      <p>{{ bind.error.value?.message }}</p>
      <span class="acts">
        <button class="btn small" @click="bind.mutate({ ...again!, sure: true })">It is meant</button>
        <button class="btn small plain" @click="bind.reset()">Leave it as it was</button>
      </span>
    </div>
    <div v-if="looking" class="said look">
      <p>
        <template v-for="(r, i) in loose" :key="r.key"
          ><template v-if="i">; </template><b>{{ r.number }} {{ r.name }}</b>
          {{ r.suggestion?.leave_out ? `left out, ${r.suggestion.leave_out}` : `→ ${r.box}` }}</template
        >.
      </p>
      <span class="acts">
        <button class="btn small prime" :disabled="accept.isPending.value" @click="accept.mutate(loose.map((r) => r.key))">
          Set {{ plural(loose.length, "suggestion") }}
        </button>
        <button
          v-if="unsaid.length"
          class="btn small"
          @click="bind.mutate({ keys: unsaid.map((r) => r.key), leave_out: 'left out together, after a look', sure: true })"
        >
          Leave out the rest, {{ unsaid.length }}
        </button>
        <button class="btn small plain" @click="looking = false">Not now</button>
      </span>
    </div>
    <ReasonBox v-if="leaving && inHand" @close="leaving = false" @take="(why) => set({ leave_out: why })" />
    <label v-if="vendor && inHand" class="only q"><input v-model="only" type="checkbox" /> what I set now holds only for {{ vendor.name }}</label>
    <FigureTable class="boxes" :give="[1, 4, 5, 6]">
      <thead>
        <tr>
          <th>Account</th>
          <th class="n" style="width: 84px">Paid</th>
          <th class="n" style="width: 48px">Payees</th>
          <th style="width: 96px">Peg</th>
          <th style="width: 176px">Box</th>
          <th style="width: 132px">Evidence</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.key" class="can" :class="{ hand: r.key === hand }" @click="emit('hand', r.key)">
          <td :title="`${r.number} ${r.name}`">
            <button class="quiet-link" @click.stop="emit('hand', r.key)">{{ r.number }} {{ r.name }}</button>
          </td>
          <td class="n">{{ r.lines ? figure(r.paid, "back") : "–" }}</td>
          <td class="n">{{ r.payees || "–" }}</td>
          <td><StatePeg :state="r.state" :revisit="r.revisit" /></td>
          <td class="bx">
            <BoxPicker
              v-if="picking && r.key === hand"
              :name="r.name"
              :rules="payees.rules"
              :first="r.suggestion?.box"
              @take="(b) => set({ box: b })"
              @out="((picking = false), (leaving = true))"
              @line="set({ by_line: true })"
              @close="picking = false"
            />
            <button
              v-else
              class="quiet-link"
              :class="{ ask: !boxOf(r) }"
              :aria-label="`Set the box of ${r.name}: ${boxOf(r) || 'type a box…'}`"
              @click.stop="(emit('hand', r.key), (picking = true))"
            >
              {{ boxOf(r) || "type a box…" }}
            </button>
          </td>
          <td class="q" :title="r.warning || r.evidence">
            <span class="ev" :class="{ warn: r.warning }">{{ r.warning ? `look: ${r.warning}` : r.evidence + (r.by ? `, by ${r.by}` : "") }}</span>
          </td>
        </tr>
      </tbody>
    </FigureTable>
  </section>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 12px;
  margin: 14px 0 2px;
}
.bar .acts {
  margin-left: auto;
}
.boxes {
  --give: 56px;
  font-size: 12.5px;
}
.boxes td {
  height: 27px;
  line-height: 17px;
  padding-block: 4px;
  white-space: normal;
  overflow-wrap: break-word;
}
.ev {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
  overflow: hidden;
}
.boxes td.bx {
  overflow: visible;
}
.bx .quiet-link {
  display: block;
}
.ask {
  color: var(--quiet);
  border-bottom: 1px dashed var(--rule-firm);
}
.look {
  border-color: var(--brass);
  background: var(--hand);
  color: var(--ink);
  display: grid;
  gap: 8px;
}
.only {
  display: block;
  padding: 2px 0 4px;
}
</style>
