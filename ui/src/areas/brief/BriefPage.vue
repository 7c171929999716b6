<script setup lang="ts">
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { api, Refusal, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useClientState } from "../../api/queries";
import { day, dayBefore } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import FactsForm from "./FactsForm.vue";

const id = useClientId();
const q = useQueryClient();
const { data: state } = useClientState();
const f = ref<Schemas["Facts"]>();
const seen = ref<Schemas["Facts"]>();

function factsOf(c: Schemas["Client"]): Schemas["Facts"] {
  const { name, legal_name, trade_name, entity_class, address, telephone, fiscal_year_end, method, currency, opening_day, needs } = c;
  return { name, legal_name, trade_name, entity_class, address, telephone, fiscal_year_end, method, currency, opening_day, needs };
}
function load(c: Schemas["Client"]) {
  f.value = factsOf(c);
  seen.value = factsOf(c);
}
watch(
  () => state.value?.client,
  (c) => c && !f.value && load(c),
  { immediate: true },
);

const number = ref("");
const tin = useAct(
  (client, v: string) => unwrap(api.PUT("/api/clients/{client}/tax-id", { params: { path: { client } }, body: { number: v } })),
  () => (number.value = ""),
);
const changed = computed(() => JSON.stringify(f.value) !== JSON.stringify(seen.value));
// What a change would change is said before it is saved.
const { data: effect } = useQuery({
  queryKey: ["client", id, "facts-effect", computed(() => JSON.stringify(f.value))],
  queryFn: () => unwrap(api.POST("/api/clients/{client}/facts-effect", { params: { path: { client: id.value } }, body: f.value! })),
  enabled: changed,
});
const save = useAct(
  (client, body: { facts: Schemas["Facts"]; seen: Schemas["Facts"] }) => unwrap(api.PUT("/api/clients/{client}", { params: { path: { client } }, body })),
  (c) => load(c),
  {
    undo: (v, client) => ({
      words: "particulars of the client",
      run: async () => load(await unwrap(api.PUT("/api/clients/{client}", { params: { path: { client } }, body: { facts: v.seen, seen: v.facts } }))),
    }),
  },
);
const clash = computed(() =>
  save.error.value instanceof Refusal && save.error.value.code === "changed-meanwhile" ? (save.error.value.now as Schemas["Client"]) : null,
);
function takeTheirs() {
  if (clash.value) load(clash.value);
  save.reset();
  void q.invalidateQueries({ queryKey: ["client", id.value] });
}
</script>

<template>
  <aside class="pile" aria-label="What is missing">
    <div class="g">Still to be said</div>
    <div v-for="m in state?.client.missing ?? []" :key="m" class="r" style="cursor: default">
      <span>{{ m }}</span><span>missing</span>
    </div>
    <div v-if="state && !state.client.missing.length" class="r" style="cursor: default"><span>nothing</span><span>–</span></div>
  </aside>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>The brief</h1>
      <span class="sub">who the client is, and when the new ledger begins</span>
    </div>
    <RefusalBox :error="save.error.value" />
    <p v-if="clash" style="margin-bottom: 10px"><button class="btn small" @click="takeTheirs">Show what stands now</button></p>
    <div v-if="save.isSuccess.value && !changed" class="said" role="status">Saved.</div>
    <form v-if="f && seen" @submit.prevent="save.mutate({ facts: f, seen })">
      <FactsForm v-model="f" />
      <div class="acts" style="margin-top: 8px">
        <button class="btn prime" type="submit" :disabled="!!effect?.blocks.length || !changed || save.isPending.value">Save the brief</button>
      </div>
    </form>
  </main>
  <aside class="why" aria-label="What it decides">
    <template v-if="changed && effect && (effect.lines.length || effect.blocks.length)">
      <h1>What this would change</h1>
      <p v-for="b in effect.blocks" :key="b" class="bad">{{ b.charAt(0).toUpperCase() + b.slice(1) }}.</p>
      <p v-for="l in effect.lines" :key="l" class="eff">{{ l.charAt(0).toUpperCase() + l.slice(1) }}.</p>
    </template>
    <h1 :style="changed ? 'margin-top: 14px' : ''">What it decides</h1>
    <template v-if="state">
      <div class="kv">
        <span>Return</span><span>{{ state.client.return }}</span>
      </div>
      <div class="kv">
        <span>Opening entry of</span><span>{{ day(dayBefore(state.client.opening_day)) }}</span>
      </div>
      <div class="kv">
        <span>Your role here</span><span>{{ state.client.role }}</span>
      </div>
      <form class="tin" @submit.prevent="tin.mutate(number)">
        <label for="own-tin">Its own tax number, {{ state.client.has_tax_id ? "kept sealed" : "not said" }}</label>
        <input id="own-tin" v-model="number" class="input" autocomplete="off" :placeholder="state.client.has_tax_id ? 'unchanged' : 'nine digits, for forms'" />
        <button class="btn small" :disabled="!number.trim() || tin.isPending.value">Keep it</button>
      </form>
      <RefusalBox :error="tin.error.value" />
      <div class="src">The opening day cannot move while something is posted; take it back first.</div>
    </template>
    <div class="keys">
      <span><kbd>g</kbd><kbd>2</kbd>chart</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
.tin {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 6px;
  margin: 10px 0 4px;
}
.tin label {
  grid-column: 1 / 3;
  font-size: 12px;
  color: var(--quiet);
}
.tin .btn {
  height: 30px;
}
.eff {
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}
</style>
