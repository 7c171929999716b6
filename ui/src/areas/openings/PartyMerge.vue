<script setup lang="ts">
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useParties, usePartyMerge } from "../../api/queries";
import { few, plural } from "../../format";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import ChooseOne from "../../frame/ChooseOne.vue";
import { isCredit, plain } from "../../money";

// Two spellings of one customer or vendor become one: what it would do is said first.
const props = defineProps<{ party: Schemas["Party"] }>();
const id = useClientId();
const { data: parties } = useParties();
const into = ref(0);
const options = computed(() => [
  { value: 0, label: "nobody else" },
  ...(parties.value ?? []).filter((p) => p.active && p.id !== props.party.id).map((p) => ({ value: p.id, label: p.name })),
]);
const { data: m } = usePartyMerge(computed(() => ({ party: props.party.id, into: Number(into.value) })));
const merge = (client: number, party: number, into: number) =>
  unwrap(api.POST("/api/clients/{client}/parties/{party}/merge", { params: { path: { client, party } }, body: { into } }));
const own = (client: number, party: number) => unwrap(api.POST("/api/clients/{client}/parties/{party}/revive", { params: { path: { client, party } } }));
const join = useAct((client, v: number) => merge(client, props.party.id, v), undefined, { grave: true });
async function joinThem() {
  const what = m.value!;
  const ok = await askFirst({
    title: `Merge ${what.from} into ${what.into}?`,
    facts: [
      ["Becomes inactive", what.from],
      ["Names in lists", few(what.names) || "none"],
      ["Payments", String(what.payment_lines)],
    ],
    undo: `Merging cannot be undone as a whole: ${what.from} can be made its own again later, but its names and payments stay with ${what.into}.`,
    act: `Merge into ${what.into}`,
  });
  if (ok) join.mutate(Number(into.value));
}
const revive = useAct((client) => own(client, props.party.id));
</script>

<template>
  <section v-if="!party.active">
    <h2>Not active any more</h2>
    <p class="q">It was joined into another. Names that were given to that one stay with it.</p>
    <button class="btn small" @click="revive.mutate(undefined)">Make it its own again</button>
    <RefusalBox :error="revive.error.value" />
  </section>
  <section v-else-if="options.length > 1">
    <h2>The same as somebody here</h2>
    <ChooseOne id="same-party" v-model="into" label="It is really" :options="options" />
    <template v-if="into && m">
      <p v-if="m.refused" class="bad">Kept apart: {{ m.refused }}.</p>
      <template v-else>
        <p>
          <b>{{ m.from }}</b> goes, <b>{{ m.into }}</b> stays.
          <template v-if="m.names.length">{{ plural(m.names.length, "name") }} in lists {{ m.names.length === 1 ? "is" : "are" }} of who stays. </template>
          <template v-if="m.payment_lines">{{ plural(m.payment_lines, "payment") }} count for who stays. </template>
          <template v-if="m.items">
            {{ plural(m.items, "posted item") }}, {{ isCredit(m.open) ? "credit " : "" }}{{ plain(m.open) }}, {{ m.items === 1 ? "stays" : "stay" }} posted as
            {{ m.items === 1 ? "it is" : "they are" }} until
            <template v-for="(l, i) in m.lists" :key="l.id"
              ><template v-if="i">, </template><RouterLink :to="`/c/${id}/sheet/${l.id}`">{{ l.name }}</RouterLink></template
            >
            {{ m.lists.length === 1 ? "is" : "are" }} posted again.
          </template>
        </p>
        <button class="btn small prime" style="margin-top: 6px" :disabled="join.isPending.value" @click="joinThem">Merge them…</button>
      </template>
    </template>
    <RefusalBox :error="join.error.value" />
  </section>
</template>

<style scoped>
section {
  margin-top: 16px;
  border-top: 1px solid var(--rule);
  padding-top: 4px;
}
</style>
