<script setup lang="ts">
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import ChooseOne from "../../frame/ChooseOne.vue";
import DayInput from "../../frame/DayInput.vue";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import VeilBox from "../../frame/VeilBox.vue";

// What Form W-9 says of a payee, and a person's word on it.
const props = defineProps<{ payee: Schemas["Payee"] }>();
const emit = defineEmits<{ close: [] }>();
const f = ref<Schemas["PayeeFacts"]>({ ...props.payee.facts });
const number = ref("");
const consent = computed({ get: () => f.value.e_consent ?? "", set: (v) => (f.value.e_consent = v || undefined) });
const touched = ref(false);
const classes = [
  "individual or sole proprietor",
  "disregarded LLC",
  "partnership",
  "LLC taxed as a partnership",
  "C corporation",
  "S corporation",
  "LLC taxed as a C corporation",
  "LLC taxed as an S corporation",
  "trust or estate",
  "tax-exempt",
  "government",
  "foreign",
];
const save = useAct(
  (client, body: Schemas["PayeeFacts"]) =>
    unwrap(
      api.PUT("/api/clients/{client}/payees/payee/{payee}", {
        params: { path: { client, payee: props.payee.id }, query: { version: props.payee.version, year: props.payee.year } },
        body,
      }),
    ),
  () => emit("close"),
  {
    // A tax number that was replaced cannot be put back: it was never shown.
    undo: (v, client, result) => {
      const { id, year, facts } = props.payee;
      const before = { ...facts, tax_id: v.tax_id === undefined ? undefined : "" };
      return v.tax_id === undefined || !props.payee.tax_id_masked
        ? {
            words: facts.name,
            run: async () => {
              const now = result();
              if (now)
                await unwrap(
                  api.PUT("/api/clients/{client}/payees/payee/{payee}", {
                    params: { path: { client, payee: id }, query: { version: now.version, year } },
                    body: before,
                  }),
                );
            },
          }
        : undefined;
    },
  },
);
async function send() {
  if (touched.value && props.payee.tax_id_masked) {
    const ok = await askFirst({
      title: number.value ? `Replace the tax number of ${props.payee.facts.name}?` : `Delete the tax number of ${props.payee.facts.name}?`,
      facts: [
        ["Number now", props.payee.tax_id_masked],
        ["Number after", number.value ? `ending in ${number.value.replace(/\D/g, "").slice(-4)}` : "none"],
      ],
      undo: "This cannot be undone: the number before is not kept and would have to be typed again.",
      act: number.value ? "Replace the number" : "Delete the number",
    });
    if (!ok) return;
  }
  save.mutate({ ...f.value, ...(touched.value ? { tax_id: number.value } : {}) });
}
</script>

<template>
  <VeilBox :words="`What is known of ${payee.facts.name}`" :width="620" @close="emit('close')">
    <RefusalBox :error="save.error.value" />
    <form class="grid" @submit.prevent="send">
      <div class="field"><label for="p-name">Name, line 1 (a proprietor's own)</label><input id="p-name" v-model="f.name" class="input" /></div>
      <div class="field"><label for="p-legal">Line 1 of Form W-9, if it is another name</label><input id="p-legal" v-model="f.legal_name" class="input" /></div>
      <div class="field"><label for="p-trade">Trade name, line 2</label><input id="p-trade" v-model="f.trade_name" class="input" /></div>
      <ChooseOne id="p-class" v-model="f.class" label="Class" :options="[{ value: '', label: 'not said' }, ...classes.map((v) => ({ value: v, label: v }))]" />
      <ChooseOne
        id="p-from"
        v-model="f.class_from"
        label="The class comes from"
        :options="[
          { value: '', label: '–' },
          { value: 'w9', label: 'Form W-9' },
          { value: 'said', label: 'somebody said so' },
        ]"
      />
      <div class="field"><label for="p-w9">Form W-9 of</label><DayInput id="p-w9" v-model="f.w9_day" width="100%" none="none on file" /></div>
      <div class="field">
        <label for="p-tin">Tax number{{ payee.tax_id_masked ? `, now ${payee.tax_id_masked}` : "" }}</label>
        <input
          id="p-tin"
          v-model="number"
          class="input"
          autocomplete="off"
          :placeholder="payee.tax_id_masked ? 'unchanged' : 'nine digits'"
          @input="touched = true"
        />
      </div>
      <ChooseOne
        id="p-kind"
        v-model="f.tax_kind"
        label="It is"
        :options="[
          { value: '', label: 'not said' },
          { value: 'ssn', label: 'an SSN' },
          { value: 'ein', label: 'an EIN' },
          { value: 'itin', label: 'an ITIN' },
        ]"
      />
      <div class="field wide"><label for="p-street">Street</label><input id="p-street" v-model="f.street" class="input" /></div>
      <div class="field"><label for="p-city">City</label><input id="p-city" v-model="f.city" class="input" /></div>
      <div class="two">
        <div class="field"><label for="p-state">State</label><input id="p-state" v-model="f.state" class="input" maxlength="30" /></div>
        <div class="field"><label for="p-zip">Postal code</label><input id="p-zip" v-model="f.zip" class="input" /></div>
      </div>
      <div class="field"><label for="p-mail">E-mail</label><input id="p-mail" v-model="f.email" class="input" /></div>
      <div class="field">
        <label for="p-consent">Agreed to electronic statements on</label><DayInput id="p-consent" v-model="consent" width="100%" none="not agreed" />
      </div>
      <div class="field"><label for="p-tel">Telephone</label><input id="p-tel" v-model="f.telephone" class="input" /></div>
      <ChooseOne
        id="p-gets"
        v-model="f.gets"
        label="Gets forms"
        :options="[
          { value: '', label: 'not said' },
          { value: 'yes', label: 'yes, gets forms' },
          { value: 'no', label: 'gets none, because…' },
        ]"
      />
      <div class="field">
        <label for="p-code">Exempt payee code, from Form W-9</label
        ><input id="p-code" v-model="f.exempt_code" class="input" maxlength="2" inputmode="numeric" placeholder="none" />
      </div>
      <div v-if="f.gets === 'no'" class="field"><label for="p-why">because</label><input id="p-why" v-model="f.why" class="input" /></div>
      <div class="ticks wide">
        <label><input v-model="f.attorney" type="checkbox" /> attorney or law firm</label>
        <label><input v-model="f.agent" type="checkbox" /> rent agent or property manager</label>
        <label><input v-model="f.ordered" type="checkbox" /> the IRS gave notice of a wrong number</label>
        <label><input v-model="f.without_number" type="checkbox" /> file without a number, on purpose</label>
      </div>
      <div class="acts wide">
        <button class="btn prime" type="submit" :disabled="save.isPending.value">Keep it</button>
        <button class="btn plain" type="button" @click="emit('close')">Cancel</button>
      </div>
    </form>
  </VeilBox>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 14px;
}
.wide {
  grid-column: 1 / 3;
}
.two {
  display: grid;
  grid-template-columns: 80px 1fr;
  gap: 10px;
}
.ticks {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 14px;
  margin: 2px 0 12px;
}
</style>
