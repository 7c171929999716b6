<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, type Schemas, unwrap } from "../api/client";
import { useAct, useChoose, useClientId, useRack } from "../api/queries";
import PileFilter from "../frame/PileFilter.vue";
import RefusalBox from "../frame/RefusalBox.vue";
import MoneyFigure from "../frame/MoneyFigure.vue";
import { sum, words } from "../money";
import { plural } from "../format";
import AcceptLook from "../frame/AcceptLook.vue";
import type { Offer } from "../frame/offers";
import EffectPane from "./EffectPane.vue";
import KitsBox from "./KitsBox.vue";
import LabelWhy from "./LabelWhy.vue";
import SplitBox from "./SplitBox.vue";
import RackList from "./RackList.vue";
import RackTargets from "./RackTargets.vue";
import { byTarget, groups, headline, isLoose, matches, ordered, type Row, type Show } from "./rows";

const id = useClientId();
const route = useRoute();
const router = useRouter();
const { data: rack, isPending } = useRack();
const text = ref("");
const group = ref("");
const show = ref<Show>((route.query.show as Show) ?? "all");
const view = computed(() => String(route.query.view ?? "list"));
const target = ref(0);
const at = ref(Number(route.query.label ?? 0));
const picked = ref(new Set<number>());
const looking = ref(false);
const kits = ref(false);
const splitting = ref(false);
// A change to something posted waits here until its effect was seen.
const pending = ref<{ labels: number[]; account: number } | null>(null);
const list = ref<InstanceType<typeof RackList>>();

const all = computed<Row[]>(() => ordered(rack.value?.rows ?? []));
const inGroup = computed(() =>
  all.value.filter((r) => (!group.value || r.group === group.value) && (!target.value || (r.target_id === target.value && r.state !== "open"))),
);
// Rows stay where they are while one works through a filter, so that nothing jumps under the hands.
const shown = computed(() =>
  inGroup.value.filter(
    (r) => (matches(r, show.value) || r.label_id === at.value) && `${r.number} ${r.name} ${r.outside_id}`.toLowerCase().includes(text.value.toLowerCase()),
  ),
);
const inHand = computed(() => all.value.find((r) => r.label_id === at.value));
const pile = computed(() => groups(all.value));
const many = computed(() =>
  byTarget(all.value, rack.value?.targets ?? [])
    .filter((t) => t.id > 0 && t.rows.length > 1)
    .sort((a, b) => b.rows.length - a.rows.length)
    .slice(0, 8),
);
const suggested = computed(() => all.value.filter((r) => r.state === "suggested"));
const offers = computed<Offer[]>(() => {
  const byId = new Map(rack.value?.targets.map((t) => [t.id, t]));
  return suggested.value.flatMap((r) => {
    const t = byId.get(r.target_id);
    return r.suggestion && t
      ? [
          {
            key: String(r.label_id),
            name: `${r.number} ${r.name}`.trim(),
            target: `${t.number} ${t.name}`.trim(),
            evidence: r.evidence,
            confidence: r.suggestion.confidence,
            doubt: r.suggestion.doubt,
          },
        ]
      : [];
  });
});
watch(
  all,
  (rows) => {
    if (!at.value && rows.length) at.value = rows[0]!.label_id;
  },
  { immediate: true },
);
watch(
  () => route.query.label,
  (l) => l && (at.value = Number(l)),
);

const choose = useChoose();
const undone = ref<number[][]>([]);
function send(c: Partial<Schemas["Choice"]> & { label_ids: number[] }, keep = true) {
  const seen: Record<string, number> = {};
  for (const r of all.value) if (c.label_ids.includes(r.label_id)) seen[String(r.label_id)] = r.binding_id;
  if (keep) undone.value.push(c.label_ids);
  choose.mutate({ ...c, seen } as Schemas["Choice"]);
}
const inAct = () => (picked.value.size && picked.value.has(at.value) ? [...picked.value] : [at.value]);

function set(account: number, labels = inAct()) {
  if (rack.value?.posted) pending.value = { labels, account };
  else {
    send({ label_ids: labels, account_id: account });
    afterSet(labels);
  }
}
function afterSet(labels: number[]) {
  picked.value = new Set();
  if (labels.length === 1) list.value?.next();
}
function settle(from: string, repost: boolean) {
  if (!pending.value) return;
  send({ label_ids: pending.value.labels, account_id: pending.value.account, from: from || undefined, repost: repost || undefined });
  afterSet(pending.value.labels);
  pending.value = null;
}
function split(account: number, parts: { account_id: number; amount: string }[]) {
  send({ label_ids: [at.value], account_id: account, parts, repost: rack.value?.posted || undefined });
  splitting.value = false;
}
function undo() {
  const labels = undone.value.pop();
  if (labels) send({ label_ids: labels, take_back: true }, false);
}
const accept = useAct(
  (client, v: { labels: number[]; above: number }) =>
    unwrap(api.POST("/api/clients/{client}/rack/accept", { params: { path: { client } }, body: { label_ids: v.labels, above: v.above } })),
  () => (looking.value = false),
);
function nextLoose() {
  const loose = all.value.filter(isLoose);
  const i = loose.findIndex((r) => r.label_id === at.value);
  const next = loose[(i + 1) % Math.max(loose.length, 1)];
  if (next) at.value = next.label_id;
  else void router.push(`/c/${id.value}/proof`);
}
function go(v: string) {
  void router.replace({ query: { ...route.query, view: v === "list" ? undefined : v } });
}
function openTarget(t: number) {
  target.value = t;
  group.value = "";
  show.value = "all";
  go("list");
}
</script>

<template>
  <aside class="pile" aria-label="Old accounts by group">
    <PileFilter v-model="text" words="filter old accounts" />
    <template
      v-for="part in [
        { n: 'Loose ends', on: true },
        { n: 'Nothing loose', on: false },
      ]"
      :key="part.n"
    >
      <template v-if="pile.some((g) => g.loose > 0 === part.on)">
        <div class="g">{{ part.n }}</div>
        <button
          v-for="g in pile.filter((x) => x.loose > 0 === part.on)"
          :key="g.name"
          class="r"
          :class="{ on: group === g.name }"
          @click="
            group = group === g.name ? '' : g.name;
            target = 0;
          "
        >
          <span
            >{{ g.name
            }}<small v-if="g.loose">{{
              headline(g.rows)
                .filter((h) => !h.words.startsWith("0 ") && h.show !== "done")
                .map((h) => h.words)
                .join(", ")
            }}</small></span
          >
          <span>{{ g.loose ? `${g.loose} loose` : `${g.rows.length} done` }}</span>
        </button>
      </template>
    </template>
    <template v-if="many.length">
      <div class="g">Many to one</div>
      <button v-for="t in many" :key="t.id" class="r" :class="{ on: target === t.id }" @click="openTarget(target === t.id ? 0 : t.id)">
        <span
          >{{ t.name }}<small>from {{ t.rows.length }} old accounts</small></span
        ><span><MoneyFigure :m="t.amount" other="credit" /></span>
      </button>
    </template>
  </aside>
  <main class="bench rackbench">
    <div class="head" style="margin-bottom: 8px">
      <h1>Old accounts to new accounts</h1>
      <div class="acts">
        <button v-if="suggested.length" class="btn" @click="looking = true">Look at {{ plural(suggested.length, "suggestion") }}</button
        ><button class="btn" aria-haspopup="dialog" @click="kits = true">Kits</button
        ><RouterLink class="btn" :to="`/c/${id}/openings`">The opening entry</RouterLink>
      </div>
    </div>
    <KitsBox v-if="kits" @close="kits = false" />
    <SplitBox v-if="splitting && inHand && rack" :row="inHand" :targets="rack.targets" @close="splitting = false" @split="split" />
    <RefusalBox :error="choose.error.value ?? accept.error.value" />
    <div v-if="rack?.rows.length" class="filterline">
      <span
        ><template v-for="(h, i) in headline(all)" :key="h.show"
          ><template v-if="i">, </template
          ><button :class="{ on: show === h.show }" :aria-pressed="show === h.show" @click="show = show === h.show ? 'all' : h.show">
            {{ h.words }}
          </button></template
        ></span
      >
      <span class="view">
        <button
          v-for="v in ['List', 'Flow', 'By target']"
          :key="v"
          :class="{ on: view === v.toLowerCase() }"
          :aria-pressed="view === v.toLowerCase()"
          @click="go(v.toLowerCase())"
        >
          {{ v }}
        </button>
      </span>
    </div>
    <p v-if="isPending" class="busy">reading the rack…</p>
    <div v-else-if="!rack?.rows.length" class="empty">
      <b>Nothing to map yet</b>The rack fills when an old trial balance is taken in. <RouterLink :to="`/c/${id}/openings`">Bring one in</RouterLink>
    </div>
    <template v-else>
      <RackList
        v-if="view === 'list'"
        ref="list"
        v-model:at="at"
        v-model:picked="picked"
        :rows="shown"
        :targets="rack.targets"
        @set="set"
        @leave-out="(reason) => send({ label_ids: inAct(), leave_out: reason })"
        @revisit="(on) => send({ label_ids: inAct(), revisit: on }, false)"
        @take-back="send({ label_ids: inAct(), take_back: true }, false)"
        @undo="undo"
        @next-loose="nextLoose"
      />
      <RackTargets v-else :rows="inGroup" :targets="rack.targets" :flow="view === 'flow'" @open="openTarget" />
    </template>
  </main>
  <aside class="why" aria-label="Why">
    <AcceptLook
      v-if="looking && rack"
      :offers="offers"
      :busy="accept.isPending.value"
      @close="looking = false"
      @accept="(keys, above) => accept.mutate({ labels: keys.map(Number), above })"
    />
    <EffectPane
      v-else-if="pending && rack"
      :labels="pending.labels"
      :account="pending.account"
      :rows="all"
      :targets="rack.targets"
      @settle="settle"
      @close="pending = null"
    />
    <LabelWhy v-else-if="inHand && rack" :row="inHand" :targets="rack.targets" :picked="picked.size" @split="splitting = true" />
    <p v-if="picked.size > 1 && !pending" class="src">
      {{ picked.size }} chosen, {{ words(sum(all.filter((r) => picked.has(r.label_id)).map((r) => r.seen))) }}; one target sets them all
    </p>
    <div class="keys">
      <span><kbd>t</kbd>set</span><span><kbd>x</kbd>leave out</span><span><kbd>z</kbd>undo</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
.rackbench {
  display: flex;
  flex-direction: column;
  overflow: hidden;
}
.rackbench > .head,
.rackbench > .filterline {
  flex: none;
}
</style>
