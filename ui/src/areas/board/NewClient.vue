<script setup lang="ts">
import { ref } from "vue";
import { useRouter } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import RefusalBox from "../../frame/RefusalBox.vue";
import FactsForm from "../brief/FactsForm.vue";

const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const blank: Schemas["Facts"] = {
  name: "",
  legal_name: "",
  trade_name: "",
  entity_class: "sole proprietor",
  address: "",
  telephone: "",
  fiscal_year_end: 12,
  method: "accrual",
  currency: "USD",
  opening_day: "",
  needs: [],
};
const f = ref({ ...blank });
// Escape leaves an untouched form; what was typed is only left on purpose.
function escape() {
  if (JSON.stringify(f.value) === JSON.stringify(blank)) emit("close");
}
const make = useAct(
  (_c, body: Schemas["Facts"]) => unwrap(api.POST("/api/clients", { body })),
  (c) => void router.push(`/c/${c.id}/chart`),
);
</script>

<template>
  <form class="unfolded" aria-label="New client" @submit.prevent="make.mutate(f)" @keydown.esc="escape">
    <RefusalBox :error="make.error.value" />
    <FactsForm v-model="f" />
    <div class="acts">
      <button class="btn prime" type="submit" :disabled="make.isPending.value">Make the client</button
      ><button class="btn plain" type="button" @click="emit('close')">Cancel</button>
    </div>
  </form>
</template>
