<script setup lang="ts">
import { ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId } from "../../api/queries";
import RefusalBox from "../../frame/RefusalBox.vue";
import VeilBox from "../../frame/VeilBox.vue";

const emit = defineEmits<{ close: [] }>();
const id = useClientId();
const f = ref({ from: "", to: "", start: "", step: "10" });
const shown = ref<Schemas["Renumbered"][]>();
const body = (apply: boolean) => ({ from: f.value.from, to: f.value.to, start: Number(f.value.start), step: Number(f.value.step) || 10, apply });
const look = useAct(
  (client) => unwrap(api.POST("/api/clients/{client}/renumber", { params: { path: { client } }, body: body(false) })),
  (r) => (shown.value = r),
);
const apply = useAct(
  (client) => unwrap(api.POST("/api/clients/{client}/renumber", { params: { path: { client } }, body: body(true) })),
  () => emit("close"),
  {
    undo: (_v, client, result) => ({
      words: "new account numbers",
      run: async () => {
        const done = result();
        if (done)
          await unwrap(
            api.POST("/api/clients/{client}/renumber", {
              params: { path: { client } },
              body: { from: "", to: "", start: 0, step: 1, apply: true, undo: done },
            }),
          );
      },
    }),
  },
);
void id;
</script>

<template>
  <VeilBox words="Renumber a range" :width="560" @close="emit('close')">
    <RefusalBox :error="look.error.value ?? apply.error.value" />
    <form class="row" @submit.prevent="look.mutate(undefined)">
      <div class="field"><label for="rn-from">From number</label><input id="rn-from" v-model="f.from" class="input" required /></div>
      <div class="field"><label for="rn-to">to number</label><input id="rn-to" v-model="f.to" class="input" required /></div>
      <div class="field"><label for="rn-start">become</label><input id="rn-start" v-model="f.start" class="input" inputmode="numeric" required /></div>
      <div class="field"><label for="rn-step">in steps of</label><input id="rn-step" v-model="f.step" class="input" inputmode="numeric" /></div>
      <button class="btn" type="submit">Look</button>
    </form>
    <div v-if="shown" class="list" tabindex="0" role="group" aria-label="New numbers">
      <div v-for="r in shown" :key="r.account_id" class="kv">
        <span
          >{{ r.name }}<small v-if="r.clash" class="bad"> clashes with {{ r.clash }}</small></span
        ><span>{{ r.before }} → {{ r.after }}</span>
      </div>
    </div>
    <span class="acts" style="margin-top: 12px">
      <button class="btn prime" :disabled="!shown || shown.some((r) => r.clash)" @click="apply.mutate(undefined)">
        Renumber {{ shown?.length ?? 0 }} accounts
      </button>
      <button class="btn plain" @click="emit('close')">Cancel</button>
    </span>
  </VeilBox>
</template>

<style scoped>
.row {
  display: flex;
  gap: 10px;
  align-items: end;
}
.row .btn {
  margin-bottom: 10px;
}
.list {
  max-height: 300px;
  overflow: auto;
}
</style>
