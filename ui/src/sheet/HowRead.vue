<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../api/client";
import { useClientId, useFiles } from "../api/queries";
import { isZero, plain } from "../money";
import { purposes } from "./meanings";

const props = defineProps<{ file: Schemas["Batch"]; open: boolean }>();
const emit = defineEmits<{ change: [s: Schemas["Setting"]]; go: [record: number, column: number] }>();
const id = useClientId();
const r = computed(() => props.file.reading!);
// Answers that are typed, by question, where there is nothing to choose.
const told = ref<Record<string, string>>({});
const sentence = (why: string) => why.charAt(0).toUpperCase() + why.slice(1);
const put = (key: string) => (e: Event) => emit("change", { key, value: (e.target as HTMLSelectElement).value });
const signs: Record<string, string> = {
  two_columns: "two columns",
  signed: "signed figures",
  side: "Dr and Cr words",
  normal: "each on its normal side",
  "credit-positive": "credits positive",
  "paid-positive": "paid is positive",
  reversed: "turned round",
  document: "as each document says",
  checks: "checks positive",
  deposits: "deposits positive",
  sections: "as the headings say",
  balance: "by the running balance",
};
const { data: files } = useFiles();
const sources = computed(() => [...new Set((files.value ?? []).map((f) => f.source))].filter((s) => s !== props.file.source));
const payments = computed(() => ["vendor-payments", "prior-payments"].includes(props.file.purpose));
// What can be chosen, and what it is read as where that is nothing to choose.
const offered = computed(() => {
  const all = payments.value ? ["paid-positive", "reversed"] : ["signed", "side", "normal", "credit-positive"];
  return all.includes(r.value.sign) || !r.value.sign ? all : [r.value.sign, ...all];
});
// Only a trial balance has two sides that must meet.
const short = computed(() => props.file.purpose === "trial-balance" && !isZero(r.value.totals.difference));
const { data: suspects } = useQuery({
  queryKey: ["client", id, "suspects", computed(() => [props.file.id, props.file.version])],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/batches/{batch}/suspects", { params: { path: { client: id.value, batch: props.file.id } } })),
  enabled: short,
});
</script>

<template>
  <h1>How it was read</h1>
  <div class="sub">{{ open ? "change one and the grid follows at once" : "frozen when it was taken in" }}</div>
  <div class="read">
    <label for="h-as">Kind of file</label>
    <select
      id="h-as"
      class="input"
      :value="file.purpose"
      :disabled="!open"
      title="It can be changed without importing the file again"
      @change="put('as')($event)"
    >
      <option v-for="(p, key) in purposes" :key="key" :value="key">{{ p.name }}</option>
    </select>
    <label for="h-source">Comes from</label>
    <input
      id="h-source"
      class="input"
      list="h-sources"
      maxlength="80"
      :value="file.source"
      :disabled="!open"
      title="files of one source share their items, names and column choices"
      @change="put('source')($event)"
    />
    <datalist id="h-sources"><option v-for="s in sources" :key="s" :value="s" /></datalist>
    <template v-if="file.purpose === 'crosswalk' || (file.purpose === 'parties' && r.party_kind)">
      <label for="h-party">They are</label>
      <select id="h-party" class="input" :value="r.party_kind || 'account'" :disabled="!open" @change="put('party_kind')($event)">
        <option v-if="file.purpose === 'crosswalk'" value="account">accounts</option>
        <option value="customer">customers</option>
        <option value="vendor">vendors</option>
      </select>
    </template>
    <template v-if="file.sheets.length > 1">
      <label for="h-sheet">Sheet</label>
      <select id="h-sheet" class="input" :value="r.sheet" :disabled="!open" @change="put('sheet')($event)">
        <option v-for="s in file.sheets" :key="s">{{ s }}</option>
      </select>
    </template>
    <template v-if="r.format === 'csv'">
      <label for="h-enc">Encoding</label>
      <select id="h-enc" class="input" :value="r.encoding" :disabled="!open" @change="put('encoding')($event)">
        <option v-for="e in ['utf-8', 'utf-8-bom', 'windows-1252', 'utf-16le', 'utf-16be']" :key="e">{{ e }}</option>
      </select>
      <label for="h-del">Delimiter</label>
      <select id="h-del" class="input" :value="r.delimiter" :disabled="!open" @change="put('delimiter')($event)">
        <option value=",">comma</option>
        <option value=";">semicolon</option>
        <option :value="'\t'">tab</option>
        <option value="|">pipe</option>
      </select>
    </template>
    <label for="h-head">Header row</label>
    <input
      id="h-head"
      class="input"
      type="number"
      min="1"
      :value="r.header_row || ''"
      placeholder="none"
      :disabled="!open"
      @change="emit('change', { key: 'header_row', value: ($event.target as HTMLInputElement).value || 'none' })"
    />
    <template v-if="file.purpose !== 'chart'">
      <label for="h-dec">Decimal mark</label>
      <select id="h-dec" class="input" :value="r.decimal_mark" :disabled="!open" @change="put('decimal_mark')($event)">
        <option value=".">point</option>
        <option value=",">comma</option>
      </select>
      <label for="h-date">Date order</label>
      <select id="h-date" class="input" :value="r.date_order" :disabled="!open" @change="put('date_order')($event)">
        <option value="mdy">month first</option>
        <option value="dmy">day first</option>
      </select>
      <template v-if="r.sign">
        <label for="h-sign">Sign</label>
        <select id="h-sign" class="input" :value="r.sign" :disabled="!open || r.sign === 'two_columns'" @change="put('sign')($event)">
          <option v-for="s in offered" :key="s" :value="s">{{ signs[s] ?? s }}</option>
        </select>
      </template>
    </template>
  </div>
  <div v-for="q in r.questions" :key="q.key" class="q2">
    <p><b>Which is it?</b> {{ sentence(q.why) }}.<template v-if="!open"> Put the file back on the sheet to say it.</template></p>
    <div class="alt">
      <button v-for="c in q.choices" :key="c.value" class="btn small" :disabled="!open" @click="emit('change', { key: q.key, value: c.value })">
        {{ c.words }}
      </button>
      <form v-if="!q.choices.length" class="told" @submit.prevent="emit('change', { key: q.key, value: told[q.key] ?? '' })">
        <label class="sr" :for="`q-${q.key}`">{{ sentence(q.why) }}</label>
        <input :id="`q-${q.key}`" v-model="told[q.key]" class="input" :placeholder="q.key === 'through' ? '2026-06-30' : ''" :disabled="!open" required />
        <button class="btn small" type="submit" :disabled="!open">Save</button>
      </form>
    </div>
  </div>
  <template v-if="short && suspects?.length">
    <h2>Why it is {{ plain(r.totals.difference) }} off</h2>
    <div v-for="(s, i) in suspects" :key="i" class="kv">
      <span
        ><button v-if="s.record" class="linkish left" @click="emit('go', s.record, s.column)">{{ s.words }}</button
        ><template v-else>{{ s.words }}</template></span
      >
    </div>
  </template>
</template>

<style scoped>
.read {
  display: grid;
  grid-template-columns: 92px 1fr;
  row-gap: 7px;
  align-items: center;
  margin-top: 6px;
}
.read label {
  color: var(--quiet);
  font-size: 13px;
}
.q2 {
  margin-top: 14px;
  border-left: 3px solid var(--brass);
  padding-left: 11px;
}
.q2 p {
  margin-bottom: 7px;
}
.alt {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
.alt .btn {
  max-width: 100%;
  height: auto;
  white-space: normal;
  text-align: left;
}
.told {
  display: flex;
  gap: 6px;
}
.left {
  text-align: left;
}
</style>
