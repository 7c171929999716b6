<script setup lang="ts">
import { ref, watch } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import RefusalBox from "../../frame/RefusalBox.vue";
import { plain, typed as amountOf } from "../../money";

// Where only totals are reported the officers' part is asked for in each run.
const props = defineProps<{ run: Schemas["RunView"] }>();
const said = ref<Record<number, string>>({});
watch(
  () => props.run.officer_shares,
  (ss) => {
    for (const s of ss) said.value[s.item_id] ??= s.said ?? "";
  },
  { immediate: true },
);
const save = useAct(
  (client) =>
    unwrap(
      api.PUT("/api/clients/{client}/payroll/runs/{run}/officer-share", {
        params: { path: { client, run: props.run.id } },
        body: {
          shares: props.run.officer_shares.map((s) => ({ item_id: s.item_id, said: amountOf(said.value[s.item_id] || "0") ?? said.value[s.item_id] ?? "" })),
        },
      }),
    ),
  undefined,
  {
    undo: (_v, client) => {
      const run = props.run.id;
      const shares = props.run.officer_shares.filter((s) => s.said).map((s) => ({ item_id: s.item_id, said: s.said! }));
      return {
        words: "the officers' share",
        run: async () => {
          await unwrap(api.PUT("/api/clients/{client}/payroll/runs/{run}/officer-share", { params: { path: { client, run } }, body: { shares } }));
          said.value = Object.fromEntries(shares.map((s) => [s.item_id, s.said]));
        },
      };
    },
  },
);
</script>

<template>
  <form class="said" @submit.prevent="save.mutate(undefined)">
    <p>The register reports totals only. What did officers earn of them?</p>
    <RefusalBox :error="save.error.value" />
    <div v-for="s in run.officer_shares" :key="s.item_id" class="share">
      <label :for="`share-${s.item_id}`">{{ s.item }}, {{ plain(s.total ?? "0") }} in all</label>
      <input :id="`share-${s.item_id}`" v-model="said[s.item_id]" class="input n" placeholder="0.00" />
      <button v-if="s.last" type="button" class="linkish" @click="said[s.item_id] = s.last!">as last time, {{ plain(s.last) }}</button>
    </div>
    <button class="btn small prime" :disabled="save.isPending.value">That is the officers' share</button>
  </form>
</template>

<style scoped>
.share {
  display: grid;
  grid-template-columns: 240px 120px 1fr;
  gap: 8px;
  align-items: center;
  margin-bottom: 6px;
}
</style>
