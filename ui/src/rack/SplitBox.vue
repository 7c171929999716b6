<script setup lang="ts">
import { computed, ref } from "vue";
import type { Schemas } from "../api/client";
import ChooseOne from "../frame/ChooseOne.vue";
import VeilBox from "../frame/VeilBox.vue";
import { cents, fromCents, isCredit, plain, typed, words } from "../money";
import type { Row } from "./rows";

// One old account over several new ones: stated amounts, the remainder to one.
const props = defineProps<{ row: Row; targets: Schemas["Target"][] }>();
const emit = defineEmits<{ close: []; split: [account: number, parts: { account_id: number; amount: string }[]] }>();
const options = computed(() => [
  { value: 0, label: "choose an account" },
  ...props.targets
    .filter((t) => t.active && t.kind && !t.role.startsWith("opening clearing"))
    .map((t) => ({ value: t.id, label: `${t.number} ${t.name}`.trim() })),
]);
const abs = (m: string) => m.replace("-", "");
const parts = ref(
  (props.row.parts ?? []).length ? (props.row.parts ?? []).map((p) => ({ account: p.account_id, amount: abs(p.amount) })) : [{ account: 0, amount: "" }],
);
const rest = ref(props.row.state === "set" ? props.row.target_id : 0);
const clean = (s: string) => {
  const t = typed(s) ?? "";
  return t.startsWith("-") ? "" : t;
};
// Parts are typed on the side on which the old account stands.
const signed = (a: string) => (isCredit(props.row.seen) ? fromCents(-cents(a)) : a);
const bad = computed(() => parts.value.filter((p) => p.amount && !clean(p.amount)));
const said = computed(() => parts.value.filter((p) => p.account && clean(p.amount)));
const remainder = computed(() => fromCents(cents(props.row.seen) - said.value.reduce((s, p) => s + cents(signed(clean(p.amount))), 0n)));
const ready = computed(() => !bad.value.length && said.value.length > 0 && rest.value > 0);
function go() {
  emit(
    "split",
    rest.value,
    said.value.map((p) => ({ account_id: p.account, amount: signed(clean(p.amount)) })),
  );
}
</script>

<template>
  <VeilBox :words="`Split ${row.number} ${row.name}, ${words(row.seen)}`" :width="560" @close="emit('close')">
    <form @submit.prevent="go">
      <div v-for="(p, i) in parts" :key="i" class="row">
        <ChooseOne :id="`part-${i}`" v-model="p.account" :label="i ? 'and to' : 'A stated amount goes to'" :options="options" />
        <div class="field amt">
          <label :for="`part-a-${i}`">amount</label
          ><input :id="`part-a-${i}`" v-model="p.amount" class="input" inputmode="decimal" :aria-invalid="!!p.amount && !clean(p.amount)" />
        </div>
      </div>
      <p v-for="b in bad" :key="b.amount" class="bad">“{{ b.amount }}” is not an amount; type it without a sign, as 640.00</p>
      <button type="button" class="linkish" @click="parts.push({ account: 0, amount: '' })">another part</button>
      <div class="row" style="margin-top: 10px">
        <ChooseOne id="part-rest" v-model="rest" label="The remainder goes to" :options="options" />
        <div class="field amt">
          <span class="q s">remainder</span><b class="n">{{ isCredit(remainder) ? "credit " : "" }}{{ plain(remainder) }}</b>
        </div>
      </div>
      <span class="acts"
        ><button class="btn prime" type="submit" :disabled="!ready">Set the split</button
        ><button class="btn plain" type="button" @click="emit('close')">Cancel</button></span
      >
    </form>
  </VeilBox>
</template>

<style scoped>
.row {
  display: flex;
  gap: 12px;
  align-items: end;
}
.row > :first-child {
  flex: 1;
}
.amt {
  width: 130px;
}
.amt input {
  text-align: right;
}
</style>
