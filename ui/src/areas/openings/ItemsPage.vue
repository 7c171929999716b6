<script setup lang="ts">
import { computed, nextTick, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useItems, useOpenings, usePartyNeeds } from "../../api/queries";
import { day, plural } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useKeys } from "../../keys";
import { isCredit, isZero, plain, words } from "../../money";
import CashCase from "./CashCase.vue";
import LongActBar from "../../frame/LongActBar.vue";
import ItemsTable from "./ItemsTable.vue";
import ItemsTape from "./ItemsTape.vue";
import ItemWhy from "./ItemWhy.vue";
import OpeningShell from "./OpeningShell.vue";

const props = defineProps<{ side: "receivable" | "payable" }>();
const id = useClientId();
const route = useRoute();
const router = useRouter();
const text = ref("");
const at = ref("");
const gone = ref<string[]>([]);
const { data: o } = useOpenings();
const { data: needs } = usePartyNeeds();
const side = computed(() => o.value?.sides.find((s) => s.side === props.side));
const many = computed(() => (props.side === "receivable" ? "invoices" : "bills"));
const taken = computed(() => (side.value?.batches ?? []).filter((b) => b.state === "taken"));
const waiting = computed(() => (side.value?.batches ?? []).filter((b) => b.state === "sheet"));
const batch = computed(() => Number(route.query.batch) || taken.value[taken.value.length - 1]?.id || 0);
const { data: d, isPending } = useItems(batch, gone);
const post = useAct(
  (client, b: number) =>
    unwrap(api.POST("/api/clients/{client}/batches/{batch}/items/post", { params: { path: { client, batch: b } }, body: { gone: gone.value } })),
  () => (gone.value = []),
  { grave: true },
);
const ask = useAct((client) =>
  unwrap(api.POST("/api/clients/{client}/openings/choice", { params: { path: { client } }, body: { key: "cash-items", value: "" } })),
);
// Thousands of items are posted behind, with progress; a few at once.
const long = ref(0);
const begin = useAct(
  (client, b: number) =>
    unwrap(api.POST("/api/clients/{client}/acts", { params: { path: { client } }, body: { act: "post-items", args: { batch: b, gone: gone.value } } })),
  (a) => (long.value = a.id),
);
const go = () => ((d.value?.posts ?? 0) > 5000 ? begin.mutate(batch.value) : post.mutate(batch.value));
watch(batch, () => ((gone.value = []), (at.value = "")));

const key = (l: Schemas["ItemLine"]) => `${l.what}|${l.fact_id}|${l.identity}`;
const lines = computed(() => (d.value?.lines ?? []).filter((l) => `${l.party} ${l.number} ${l.document}`.toLowerCase().includes(text.value.toLowerCase())));
const inHand = computed(() => lines.value.find((l) => key(l) === at.value));
const need = computed(() => (inHand.value?.what === "held" ? needs.value?.find((n) => n.label_id === inHand.value?.label_id) : undefined));
const differ = computed(() =>
  d.value
    ? (d.value.counts["new"] ?? 0) +
      (d.value.counts["amount changed"] ?? 0) +
      (d.value.counts["party changed"] ?? 0) +
      (d.value.counts["date changed"] ?? 0) +
      gone.value.length
    : 0,
);
const nothing = computed(() => d.value?.blocks.every((b) => b.code === "nothing" || b.code === "all-held") && d.value.blocks.length > 0);
const verb = computed(() => {
  if (!d.value) return "";
  const c = d.value.counts;
  const held = c["held"] ? `; ${c["held"]} stay held` : "";
  const changed = (c["amount changed"] ?? 0) + (c["party changed"] ?? 0) + (c["date changed"] ?? 0) + gone.value.length;
  return changed ? `Post ${plural(differ.value, "difference")}${held}` : `Post ${(c["new"] ?? 0).toLocaleString("en-US")} ${many.value}${held}`;
});
function move(n: number) {
  const i = lines.value.findIndex((l) => key(l) === at.value);
  const next = lines.value[Math.max(0, Math.min(lines.value.length - 1, i + n))];
  if (next) at.value = key(next);
  void nextTick(() => document.querySelector("tr.hand")?.scrollIntoView({ block: "nearest" }));
}
function nextLoose() {
  const loose = lines.value.filter((l) => l.what === "held" || l.what === "gone");
  const i = loose.findIndex((l) => key(l) === at.value);
  const next = loose[(i + 1) % Math.max(1, loose.length)];
  if (next) at.value = key(next);
  else if (d.value?.causes[0]?.fact_id) at.value = lines.value.filter((l) => l.fact_id === d.value!.causes[0]!.fact_id).map(key)[0] ?? "";
}
useKeys([
  { key: "j", words: "next item", run: () => move(1) },
  { key: "k", words: "previous item", run: () => move(-1) },
  { key: "ArrowDown", words: "next item", run: () => move(1) },
  { key: "ArrowUp", words: "previous item", run: () => move(-1) },
  { key: "p", words: "next loose item, or the nearest cause", run: nextLoose },
]);
const say = (m: string) => (isCredit(m) ? "credit " : "") + plain(m);
</script>

<template>
  <OpeningShell v-model:filter="text">
    <template #tape><ItemsTape v-if="side" :side="side" :draft="d" /><span v-else /></template>
    <RefusalBox :error="post.error.value ?? begin.error.value ?? ask.error.value" />
    <LongActBar v-if="long" :act="long" @over="long = 0" />
    <p v-if="!o" class="busy">reading the items…</p>
    <div v-else-if="!batch" class="empty">
      <b>No open {{ many }} yet</b>
      <template v-if="waiting.length">
        {{ plural(waiting.length, "file") }} {{ waiting.length === 1 ? "waits" : "wait" }} on the sheet:
        <RouterLink v-for="w in waiting" :key="w.id" :to="`/c/${id}/sheet/${w.id}`">{{ w.name }}</RouterLink>. Take it in, and its items stand here.
      </template>
      <template v-else
        >Bring the list of open {{ many }} as of the cutover, flat or grouped by {{ side?.side === "receivable" ? "customer" : "vendor" }}. Each is posted by
        itself against {{ side?.clearing.name || "the clearing account" }}; when they add up, it is exactly 0.00.</template
      >
    </div>
    <template v-else-if="d">
      <div class="filterline">
        <button v-for="b in taken" :key="b.id" :class="{ on: b.id === batch }" :hidden="taken.length < 2" @click="router.replace({ query: { batch: b.id } })">
          {{ b.name }}
        </button>
        <span class="view">
          <template v-if="waiting.length"
            ><RouterLink v-for="w in waiting" :key="w.id" :to="`/c/${id}/sheet/${w.id}`">{{ w.name }} waits on the sheet</RouterLink></template
          >
        </span>
      </div>
      <CashCase v-if="d.blocks.some((b) => b.code === 'cash-method')" :words="d.blocks.find((b) => b.code === 'cash-method')!.words" />
      <div v-if="!nothing || d.notes.length || d.blocks.length" class="do">
        <div>
          <p v-for="b in d.blocks.filter((x) => x.code !== 'cash-method')" :key="b.words" :class="nothing ? 'q' : 'bad'">
            <RouterLink v-if="b.link" :to="`/c/${id}/${b.link}`">{{ b.words }}</RouterLink><template v-else>{{ b.words }}</template>
          </p>
          <p v-for="n in d.notes" :key="n" class="q">{{ n }}</p>
          <p v-if="d.missing_roles.length" class="q">
            Posting also makes <template v-for="(m, i) in d.missing_roles" :key="m.role"><template v-if="i">, </template>{{ m.number }} {{ m.name }}</template
            >, which nobody holds yet.
          </p>
        </div>
        <button v-if="!nothing" class="btn prime" :disabled="d.blocks.length > 0 || post.isPending.value" @click="go">
          {{ post.isPending.value ? "posting…" : verb }}
        </button>
      </div>
      <p v-if="isPending" class="busy">comparing…</p>
      <ItemsTable v-model:at="at" v-model:gone="gone" :draft="d" :lines="lines" :needs="needs ?? []" :side="side!.side" :line-key="key" />
    </template>
    <template #why>
      <template v-if="inHand"><ItemWhy :line="inHand" :need="need" :batch="batch" :last-fix="d?.last_fix ?? 0" :side="side!.side" /></template>
      <template v-else-if="d && side">
        <template v-if="side.cash === 'deferred'">
          <h1>Deferred until settled</h1>
          <div class="sub">{{ d.against }}, {{ isZero(d.after) ? "0.00" : words(d.after) }}</div>
          <p>
            On the cash method nothing of these {{ many }} is {{ props.side === "receivable" ? "income" : "expense" }} yet. Each stands on the control account
            against this one; settling it moves it to {{ props.side === "receivable" ? "income" : "expense" }}.
          </p>
          <p v-if="!side.count" style="margin-top: 8px"><button class="linkish" @click="ask.mutate(undefined)">Choose again which case it is</button></p>
        </template>
        <h1 v-else>{{ isZero(d.after) ? "Nothing is left" : `Why ${plain(d.after)} is left` }}</h1>
        <div v-if="side.cash !== 'deferred'" class="sub">{{ d.against }}, {{ isZero(d.after) ? "0.00" : words(d.after) }}</div>
        <p v-if="side.cash !== 'deferred'">
          The trial balance says {{ props.side === "receivable" ? "customers owe" : "vendors are owed" }} <b>{{ plain(side.carried) }}</b>.
          <template v-if="side.count">
            {{ plural(side.count, "posted item") }} add up to <b>{{ plain(side.items) }}</b>.
          </template>
          <template v-if="!isZero(d.moves)">
            {{ side.count ? "What is ready moves" : `The ${d.posts} ready ${many} add up to` }} <b>{{ side.count ? words(d.moves) : plain(d.moves) }}</b>.
          </template>
        </p>
        <p v-if="d.counts['held']" style="margin-top: 6px">
          {{ plural(d.counts["held"]!, "item") }}, <b>{{ say(d.held) }}</b>, {{ d.counts["held"] === 1 ? "is" : "are" }} held.<template
            v-if="!isZero(d.lead.rest)"
          >
            Once posted, the {{ many }} are <b>{{ plain(d.lead.rest) }}</b>
            {{ d.lead.words.includes("over") || d.lead.words.includes("more than") ? "over" : "short" }}.</template
          >
        </p>
        <template v-if="d.causes.length">
          <h2>Likely causes, nearest first</h2>
          <ItemWhy
            v-for="c in d.causes.slice(0, 5)"
            :key="c.words"
            :cause="c"
            :batch="batch"
            :last-fix="d.last_fix"
            :side="side.side"
            :posted="d.state === 'taken'"
            @see="at = lines.filter((l) => l.fact_id === c.fact_id).map(key)[0] ?? ''"
          />
        </template>
        <p class="q s" style="margin-top: 12px">
          Aging as of {{ day(d.day) }}:
          <RouterLink :to="`/c/${id}/books/aging/${props.side}`">by {{ props.side === "receivable" ? "customer" : "vendor" }}</RouterLink>
        </p>
      </template>
      <template v-else
        ><h1>Open {{ many }}</h1>
        <p class="q">What is left, and why, stands here once a list is taken in.</p></template
      >
      <div class="keys">
        <span><kbd>p</kbd>next loose end</span><span><kbd>b</kbd>books</span><span><kbd>?</kbd>keys</span>
      </div>
    </template>
  </OpeningShell>
</template>

<style scoped>
.do {
  display: flex;
  justify-content: space-between;
  gap: 16px;
  align-items: flex-start;
  margin-bottom: 10px;
}
.do p {
  line-height: 19px;
  margin-bottom: 3px;
}
.do .btn {
  flex: none;
}
.filterline:not(:has(button:not([hidden]))):not(:has(.view a)) {
  display: none;
}
.filterline {
  gap: 16px;
}
</style>
