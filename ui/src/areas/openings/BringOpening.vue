<script setup lang="ts">
import { ref } from "vue";
import ChooseOne from "../../frame/ChooseOne.vue";
import VeilBox from "../../frame/VeilBox.vue";
import BringFile from "../../sheet/BringFile.vue";
import { purposes } from "../../sheet/meanings";

// One place to bring any file of the opening: what it is decides how it is read.
const emit = defineEmits<{ close: [] }>();
const order = ["trial-balance", "open-invoices", "open-bills", "parties", "bank-uncleared", "statement", "crosswalk"];
const what = ref(
  order.find((p) => location.pathname.endsWith({ "open-invoices": "invoices", "open-bills": "bills", parties: "parties", statement: "bank" }[p] ?? " ")) ??
    order[0]!,
);
const notes: Record<string, string> = {
  "trial-balance": "The old system's trial balance as of the day before the opening day, with its titles and totals.",
  "open-invoices": "Every invoice, credit and unapplied receipt that customers have not settled; flat or grouped by customer.",
  "open-bills": "Every bill, credit and prepayment not settled with vendors; flat or grouped by vendor.",
  parties: "Customers or vendors with their facts: terms, address, ids.",
  "bank-uncleared": "Checks not yet presented and deposits in transit as of the cutover. They post nothing.",
  statement: "The bank's statement: CSV, OFX or camt.053. Its closing balance is kept.",
  crosswalk: "A prepared table, old to new, of accounts, customers or vendors. It sets the mapping.",
};
</script>

<template>
  <VeilBox words="Bring a file in" :width="520" @close="emit('close')">
    <ChooseOne id="what-file" v-model="what" label="The file is" :options="order.map((p) => ({ value: p, label: purposes[p]!.name }))" />
    <p class="q" style="margin: 0 0 14px">{{ notes[what] }} It is read on a sheet first; nothing is posted until you say so.</p>
    <BringFile :key="what" :purpose="what" words="Choose the file"><button class="btn plain" @click="emit('close')">Cancel</button></BringFile>
  </VeilBox>
</template>
