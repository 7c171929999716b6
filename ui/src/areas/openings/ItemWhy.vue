<script setup lang="ts">
import { computed } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId } from "../../api/queries";
import { day } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import WhyPane from "../../frame/WhyPane.vue";
import { isZero, plain, words } from "../../money";
import PartyPick from "./PartyPick.vue";

// One item with its evidence; or one likely cause with the way to mend it here.
const props = defineProps<{
  line?: Schemas["ItemLine"];
  need?: Schemas["PartyNeed"];
  cause?: Schemas["OpeningCause"];
  batch: number;
  lastFix: number;
  side: string;
  posted?: boolean;
}>();
const emit = defineEmits<{ see: [] }>();
const id = useClientId();
const put = (client: number, batch: number, body: Schemas["Mend"]) =>
  unwrap(api.POST("/api/clients/{client}/batches/{batch}/items/mend", { params: { path: { client, batch } }, body }));
const mend = useAct((client, body: Schemas["Mend"]) => put(client, props.batch, body), undefined, {
  undo: (_v, client) => {
    const { batch, lastFix } = props;
    return { words: "correction of a row", run: () => put(client, batch, { how: "undo", last_fix: lastFix }) };
  },
});
// The name stands above; it is not said twice.
const told = computed(() => {
  const all = props.cause?.words ?? "";
  const name = props.cause?.name ?? "";
  const w = (all.startsWith(name) ? all.slice(name.length) : all).replace(/^[,: ]+/, "");
  return w.charAt(0).toUpperCase() + w.slice(1);
});
const lowers = (amount: string) => (props.side === "receivable" ? amount.startsWith("-") : !amount.startsWith("-"));
const flipWords = (amount: string) => (lowers(amount) ? (props.side === "receivable" ? "an invoice" : "a bill") : "a credit");
</script>

<template>
  <div v-if="cause" class="cause">
    <p>
      <button v-if="cause.fact_id" class="linkish" @click="emit('see')">{{ cause.name }}</button><b v-else>{{ cause.name }}</b>
    </p>
    <p class="q">{{ told }}.</p>
    <RefusalBox :error="mend.error.value" />
    <template v-if="posted && cause.fact_id">
      <button v-if="cause.mend === 'flip'" class="btn small" :disabled="mend.isPending.value" @click="mend.mutate({ fact_id: cause.fact_id, how: 'flip' })">
        Make it {{ flipWords(cause.amount) }}
      </button>
      <button
        v-else-if="cause.mend === 'amount'"
        class="btn small"
        :disabled="mend.isPending.value"
        @click="mend.mutate({ fact_id: cause.fact_id, how: 'amount', amount: cause.to })"
      >
        Make it {{ plain(cause.to) }}
      </button>
      <button
        v-else-if="cause.mend === 'drop'"
        class="btn small"
        :disabled="mend.isPending.value"
        @click="mend.mutate({ fact_id: cause.fact_id, how: 'drop' })"
      >
        Set the row aside
      </button>
    </template>
    <RouterLink v-if="cause.record" class="s" style="margin-left: 8px" :to="`/c/${id}/sheet/${batch}?row=${cause.record}`">row {{ cause.record }}</RouterLink>
  </div>
  <template v-else-if="line">
    <h1>{{ line.document.charAt(0).toUpperCase() + line.document.slice(1) }} {{ line.number }}</h1>
    <div class="sub">{{ line.party }}, {{ words(line.what === "gone" ? line.was : line.amount) }}</div>
    <p v-if="line.why" class="warn">{{ line.why.charAt(0).toUpperCase() + line.why.slice(1) }}.</p>
    <template v-if="need"
      ><h2>Who is “{{ need.name }}”?</h2>
      <PartyPick :need="need"
    /></template>
    <div class="kv">
      <span>Dated</span><span>{{ day(line.day) }}</span>
    </div>
    <div class="kv">
      <span>Due</span><span>{{ line.due ? day(line.due) : line.terms ? `by its terms, ${line.terms}` : "not said" }}</span>
    </div>
    <div v-if="!isZero(line.original)" class="kv">
      <span>Original</span><span>{{ words(line.original) }}</span>
    </div>
    <div v-if="!isZero(line.settled)" class="kv">
      <span>Settled</span><span>{{ words(line.settled) }}</span>
    </div>
    <div v-if="!isZero(line.tax)" class="kv">
      <span>Tax part, memo only</span><span>{{ plain(line.tax) }}</span>
    </div>
    <div v-for="(v, k) in line.tags ?? {}" :key="k" class="kv">
      <span>{{ k }}</span><span>{{ v }}</span>
    </div>
    <template v-if="line.fact_id">
      <h2>Where it comes from</h2>
      <WhyPane :what="{ fact: line.fact_id }" />
    </template>
    <template v-if="line.what !== 'gone' && line.fact_id">
      <h2>Mend it here</h2>
      <RefusalBox :error="mend.error.value" />
      <p>
        <button class="btn small" :disabled="mend.isPending.value" @click="mend.mutate({ fact_id: line.fact_id, how: 'flip' })">
          Make it {{ flipWords(line.amount) }}
        </button>
        <RouterLink class="s" style="margin-left: 8px" :to="`/c/${id}/sheet/${batch}?row=${line.record}`">see it on the sheet</RouterLink>
      </p>
    </template>
  </template>
</template>

<style scoped>
.cause {
  padding: 7px 0 8px;
  border-bottom: 1px solid var(--rule);
}
.cause .btn {
  margin-top: 5px;
}
</style>
