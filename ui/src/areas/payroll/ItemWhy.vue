<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { api, Refusal, type Schemas, unwrap } from "../../api/client";
import { useAct, usePayroll } from "../../api/queries";
import { day, plural } from "../../format";
import { askFirst } from "../../frame/ask";
import ChooseOne from "../../frame/ChooseOne.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import StatePeg from "../../frame/StatePeg.vue";
import { figure } from "../../money";
import BoxFeeds from "./BoxFeeds.vue";
import PayPicker from "./PayPicker.vue";
import { sideOf } from "./payroll";

// The item in hand: what it is, where each of its halves goes, what it feeds.
const props = defineProps<{ item: Schemas["PayItem"]; needs: Schemas["PayNeed"][] }>();
const picking = defineModel<number>("picking", { default: -1 });
const { data: p } = usePayroll();
const body = ref<Schemas["PayBinding"]>();
const bind = useAct(
  (client, b: Schemas["PayBinding"]) => (
    (body.value = b),
    unwrap(api.PUT("/api/clients/{client}/payroll/bindings", { params: { path: { client } }, body: b }))
  ),
  () => (picking.value = -1),
  {
    undo: (b, client) => {
      if (b.then === "repost") return undefined;
      const was = b.needs.map((n) => ({ n, before: props.needs.find((x) => x.item_id === n.item_id && x.facet === n.facet && x.group === (n.group ?? "")) }));
      return {
        words: props.item.name,
        run: async () => {
          for (const { n, before } of was) {
            const now = p.value?.items.find((i) => i.id === n.item_id)?.needs.find((x) => x.facet === n.facet && x.group === (n.group ?? ""));
            const needs = [{ ...n, seen: now?.binding_id }];
            const back = before?.state === "set" ? { needs, account_id: before.target_id, from: before.from } : { needs, take_back: true };
            await unwrap(api.PUT("/api/clients/{client}/payroll/bindings", { params: { path: { client } }, body: { ...back, sure: true } }));
          }
        },
      };
    },
  },
);
const say = useAct(
  (client, kind: string) =>
    unwrap(
      api.PUT("/api/clients/{client}/payroll/items/{item}", { params: { path: { client, item: props.item.id } }, body: { kind, version: props.item.version } }),
    ),
  undefined,
  {
    undo: (_kind, client) => {
      const was = props.item;
      return {
        words: `${was.name} is ${was.kind || "not said"}`,
        run: () =>
          unwrap(
            api.PUT("/api/clients/{client}/payroll/items/{item}", {
              params: { path: { client, item: was.id } },
              body: { kind: was.kind, unsure: was.sure ? undefined : was.why, version: p.value?.items.find((i) => i.id === was.id)?.version ?? 0 },
            }),
          ),
      };
    },
  },
);
const kind = ref("");
watch(
  () => props.item,
  (i) => ((kind.value = i.kind), bind.reset(), say.reset()),
  { immediate: true },
);
const posted = computed(() => {
  const e = bind.error.value;
  return e instanceof Refusal && e.code === "posted-runs" ? (e.now as Schemas["RunEffect"][]) : [];
});
const look = computed(() => (bind.error.value as { code?: string } | null)?.code === "look-first");
// A choice is its group's alone. For all groups it is an act of its own, which says what it
// changes; officers are always mapped apart.
const key = (n: Schemas["PayNeed"]) => ({ item_id: n.item_id, facet: n.facet, group: n.group || undefined, own: true, seen: n.binding_id });
const set = (n: Schemas["PayNeed"], account: number) => bind.mutate({ needs: [key(n)], account_id: account });
const groupsOf = (n: Schemas["PayNeed"]) => props.needs.filter((x) => x.facet === n.facet && x.group !== "officers");
const called = (g: string) => g || "no department";
async function setAll(n: Schemas["PayNeed"]) {
  const groups = groupsOf(n);
  const ok = await askFirst({
    title: `Map ${props.item.name} to ${n.target} for all groups?`,
    facts: groups.map((g) => [
      called(g.group),
      g.target_id === n.target_id && g.state === "set" ? "as it is" : `${g.state === "set" ? g.target : "not mapped"} → ${n.target}`,
    ]),
    undo: "You can undo this with z. Officers keep their own account; groups that come with later runs follow.",
    act: `Map ${plural(groups.length, "group")}`,
  });
  if (ok) bind.mutate({ needs: [...groups.map(key), { item_id: n.item_id, facet: n.facet }], account_id: n.target_id });
}
</script>

<template>
  <h1>{{ item.name }}</h1>
  <p class="sub">
    {{ item.section || "nobody said yet what it is" }}<template v-if="item.code">, code {{ item.code }}</template>
  </p>
  <RefusalBox :error="bind.error.value ?? say.error.value" />
  <div v-if="posted.length" class="said">
    <table class="fx">
      <tbody>
        <tr v-for="f in posted" :key="f.run_id">
          <td>run of {{ day(f.check_date) }}</td>
          <td class="n">{{ figure(f.amount) }}</td>
          <td class="q">{{ f.locked ? "locked, stays" : f.correction_waits ? "a correction waits: post it first" : "" }}</td>
        </tr>
      </tbody>
    </table>
    <p class="acts">
      <button class="btn small prime" @click="bind.mutate({ ...body!, then: 'forward' })">From the next run on</button>
      <button class="btn small" @click="bind.mutate({ ...body!, then: 'repost' })">Post what changed too</button>
      <button class="btn small plain" @click="bind.reset()">Cancel</button>
    </p>
  </div>
  <p v-if="look"><button class="btn small" @click="bind.mutate({ ...body!, sure: true })">It is meant</button></p>
  <template v-for="(n, i) in needs" :key="n.facet + n.group">
    <div class="need">
      <b
        >{{ sideOf[n.facet] }} {{ n.facet }}<template v-if="n.group"> of {{ n.group }}</template></b
      >
      <span v-if="n.seen" class="n">{{ figure(n.seen) }}</span>
      <span v-else class="q">pay is hidden</span>
    </div>
    <div class="need">
      <span><StatePeg :state="n.state" :revisit="n.revisit" /> {{ n.target }}</span>
    </div>
    <p v-if="n.evidence || n.by" class="q">
      {{ n.evidence }}<template v-if="n.by">, {{ n.by }}</template
      ><template v-if="n.from">, from {{ day(n.from) }}</template>
    </p>
    <PayPicker v-if="picking === i && p" :need="n" :name="item.name" :targets="p.targets" @take="(a) => set(n, a)" @close="picking = -1" />
    <p v-else class="acts">
      <button v-if="n.state === 'suggested'" class="btn small prime" :disabled="bind.isPending.value" @click="set(n, n.target_id)">
        Set to {{ n.target.split(" ")[0] }}
      </button>
      <button class="btn small plain" @click="picking = i">{{ n.state === "set" ? "Change" : "Choose another" }}</button>
      <button v-if="n.state === 'set' && n.group !== 'officers' && groupsOf(n).length > 1" class="btn small plain" @click="setAll(n)">For all groups…</button>
      <button v-if="n.state === 'set'" class="btn small plain" @click="bind.mutate({ needs: [key(n)], take_back: true })">Remove the mapping</button>
    </p>
  </template>
  <h2>What it is</h2>
  <ChooseOne :id="`kind-${item.id}`" v-model="kind" label="Kind of item" :options="(p?.kinds ?? []).map((k) => ({ value: k.kind, label: k.kind }))" />
  <p class="q">{{ item.why === "said" ? "said by a person" : item.why }}<template v-if="!item.sure">; not sure, so it holds its runs</template></p>
  <p v-if="kind && (kind !== item.kind || !item.sure)">
    <button class="btn small prime" @click="say.mutate(kind)">It is {{ kind }}</button>
  </p>
  <BoxFeeds :item="item" />
</template>

<style scoped>
.fx td {
  height: 24px;
  border: 0;
}
.need {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  margin-top: 8px;
}
.acts {
  display: flex;
  gap: 6px;
  margin: 4px 0 8px;
  border-bottom: 1px solid var(--rule);
  padding-bottom: 9px;
}
</style>
