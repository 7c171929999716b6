<script setup lang="ts">
import { ref } from "vue";
import { api, unwrap } from "../api/client";
import { useAct, useClientId, useKits } from "../api/queries";
import { moment } from "../format";
import RefusalBox from "../frame/RefusalBox.vue";
import VeilBox from "../frame/VeilBox.vue";

// The firm's earlier choices, laid over this client's labels as suggestions.
const emit = defineEmits<{ close: [] }>();
const id = useClientId();
const { data: kits } = useKits();
const name = ref("");
const save = useAct(
  (client) => unwrap(api.POST("/api/clients/{client}/kits", { params: { path: { client } }, body: { name: name.value } })),
  () => (name.value = ""),
  {
    undo: (_v, client, result) => {
      const before = (kits.value ?? []).map((k) => k.id);
      return {
        words: `mapping template ${name.value}`,
        run: async () => {
          const made = result()?.find((k) => !before.includes(k.id));
          if (made) await unwrap(api.DELETE("/api/clients/{client}/kits/{kit}", { params: { path: { client, kit: made.id } } }));
        },
      };
    },
  },
);
const layIt = (client: number, kit: number, on: boolean) =>
  unwrap(api.POST("/api/clients/{client}/kits/{kit}/lay", { params: { path: { client, kit } }, body: { on } }));
const lay = useAct((client, v: { kit: number; on: boolean }) => layIt(client, v.kit, v.on), undefined, {
  undo: (v, client) => ({ words: "mapping template", run: () => layIt(client, v.kit, !v.on) }),
});
</script>

<template>
  <VeilBox words="Kits and crosswalk" :width="560" @close="emit('close')">
    <RefusalBox :error="save.error.value ?? lay.error.value" />
    <p class="q" style="margin-bottom: 8px">
      A kit keeps a client's choices by name. Laid over another client it only suggests, with “same choice at …” as evidence; it sets nothing.
    </p>
    <div v-for="k in kits ?? []" :key="k.id" class="kv">
      <span
        >{{ k.name }}<br /><small class="q">{{ k.rows }} choices from {{ k.client }}, {{ moment(k.at) }} by {{ k.by.initials }}</small></span
      ><span
        ><button class="btn small" @click="lay.mutate({ kit: k.id, on: !k.laid })">{{ k.laid ? "Take it off" : "Lay it over" }}</button></span
      >
    </div>
    <p v-if="!kits?.length" class="q">The firm has no kit yet.</p>
    <form class="row" @submit.prevent="save.mutate(undefined)">
      <div class="field">
        <label for="kit-name">Save this client's choices as</label><input id="kit-name" v-model="name" class="input" required maxlength="120" />
      </div>
      <button class="btn" type="submit" :disabled="!name">Save the kit</button>
    </form>
    <p>
      The mapping as a table, old to new: <a :href="`/api/clients/${id}/crosswalk.csv`">crosswalk as CSV</a>. A prepared one is brought like any file of the
      opening.
    </p>
  </VeilBox>
</template>

<style scoped>
.row {
  display: flex;
  gap: 10px;
  align-items: end;
  margin: 12px 0;
}
.row .field {
  flex: 1;
  margin: 0;
}
</style>
