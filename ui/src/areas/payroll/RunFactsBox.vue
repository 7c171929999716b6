<script setup lang="ts">
import { reactive } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import ChooseOne from "../../frame/ChooseOne.vue";
import DayInput from "../../frame/DayInput.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import VeilBox from "../../frame/VeilBox.vue";

// What the register says of itself, read from its titles, can be corrected.
const props = defineProps<{ run: Schemas["RunView"] }>();
const emit = defineEmits<{ close: [] }>();
const r = reactive({ provider: props.run.provider, check_date: props.run.check_date, from: props.run.from, to: props.run.to, kind: props.run.kind });
const save = useAct(
  (client) => unwrap(api.PUT("/api/clients/{client}/payroll/runs/{run}", { params: { path: { client, run: props.run.id } }, body: { ...r } })),
  () => emit("close"),
  {
    undo: (_v, client) => {
      const { id, provider, check_date, from, to, kind } = props.run;
      return {
        words: "what the register says of itself",
        run: () =>
          unwrap(
            api.PUT("/api/clients/{client}/payroll/runs/{run}", { params: { path: { client, run: id } }, body: { provider, check_date, from, to, kind } }),
          ),
      };
    },
  },
);
const kinds = ["regular", "bonus", "correction"].map((v) => ({ value: v, label: v }));
</script>

<template>
  <VeilBox words="What the register says of itself" :width="460" @close="emit('close')">
    <RefusalBox :error="save.error.value" />
    <form @submit.prevent="save.mutate(undefined)">
      <div class="field"><label for="run-provider">Provider</label><input id="run-provider" v-model="r.provider" class="input" /></div>
      <div class="field"><label for="run-check">Check date</label><DayInput id="run-check" v-model="r.check_date" label="Check date" /></div>
      <div class="field"><label for="run-from">Period from</label><DayInput id="run-from" v-model="r.from" label="Period from" /></div>
      <div class="field"><label for="run-to">Period to</label><DayInput id="run-to" v-model="r.to" label="Period to" /></div>
      <ChooseOne id="run-kind" v-model="r.kind" label="Kind of run" :options="kinds" />
      <p style="display: flex; gap: 8px">
        <button class="btn prime" :disabled="save.isPending.value">Keep it</button>
        <button type="button" class="btn plain" @click="emit('close')">Cancel</button>
      </p>
    </form>
  </VeilBox>
</template>
