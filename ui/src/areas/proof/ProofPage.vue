<script setup lang="ts">
import WholeText from "../../frame/WholeText.vue";
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useProofs } from "../../api/queries";
import { moment } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useKeys } from "../../keys";
import { isCredit, isZero, plain, words } from "../../money";
import FigureTable from "../../frame/FigureTable.vue";

type Proof = Schemas["ProofLine"];
const id = useClientId();
const route = useRoute();
const { data: proofs, isPending } = useProofs();
const at = ref(String(route.query.proof ?? ""));
const reason = ref("");
const inHand = computed<Proof | undefined>(() => proofs.value?.find((p) => p.key === at.value));
watch(
  proofs,
  (ps) => {
    if (!at.value && ps?.length) at.value = ps[0]!.key;
  },
  { immediate: true },
);
const fig = (p: Proof, m: string) => (p.unit === "count" ? plain(m).slice(0, -3) : isCredit(m) ? `credit ${plain(m)}` : plain(m));
const state = (p: Proof) => (p.waiting ? "waits" : p.holds ? "holds ✓" : p.stands ? "accepted" : "does not hold ▲");
const parts = computed(() => [
  { name: "Does not hold", rows: (proofs.value ?? []).filter((p) => !p.stands) },
  { name: "Holds", rows: (proofs.value ?? []).filter((p) => p.stands && !p.waiting) },
  { name: "Waits for the work", rows: (proofs.value ?? []).filter((p) => p.waiting) },
]);
const accept = useAct(
  (client, p: Proof) =>
    unwrap(
      api.POST("/api/clients/{client}/proofs/{proof}/accept", {
        params: { path: { client, proof: p.key } },
        body: { reason: reason.value, left: p.left, right: p.right },
      }),
    ),
  () => (reason.value = ""),
  {
    undo: (p, client) => ({
      words: `difference accepted, ${p.sentence}`,
      run: () => unwrap(api.DELETE("/api/clients/{client}/proofs/{proof}/accept", { params: { path: { client, proof: p.key } } })),
    }),
  },
);
const withdraw = useAct(
  (client, p: Proof) => unwrap(api.DELETE("/api/clients/{client}/proofs/{proof}/accept", { params: { path: { client, proof: p.key } } })),
  undefined,
  {
    undo: (p, client) =>
      p.accepted && {
        words: `acceptance withdrawn, ${p.sentence}`,
        run: () =>
          unwrap(
            api.POST("/api/clients/{client}/proofs/{proof}/accept", {
              params: { path: { client, proof: p.key } },
              body: { reason: p.accepted!.reason, left: p.left, right: p.right },
            }),
          ),
      },
  },
);
const link = (l: string) => `/c/${id.value}/${l}`;
function move(n: number) {
  const all = parts.value.flatMap((p) => p.rows);
  const i = all.findIndex((p) => p.key === at.value);
  at.value = all[Math.max(0, Math.min(all.length - 1, i + n))]?.key ?? "";
}
useKeys([
  { key: "j", words: "next proof", run: () => move(1) },
  { key: "k", words: "previous proof", run: () => move(-1) },
  { key: "ArrowDown", words: "next proof", run: () => move(1) },
  { key: "ArrowUp", words: "previous proof", run: () => move(-1) },
  {
    key: "p",
    words: "next proof that does not hold",
    run: () => {
      const open = parts.value[0]!.rows;
      const i = open.findIndex((p) => p.key === at.value);
      at.value = open[(i + 1) % Math.max(1, open.length)]?.key ?? at.value;
    },
  },
]);
</script>

<template>
  <aside class="pile" aria-label="Proofs">
    <template v-for="g in parts" :key="g.name">
      <template v-if="g.rows.length">
        <div class="g">
          {{ g.name }} <span>{{ g.rows.length }}</span>
        </div>
        <button v-for="p in g.rows" :key="p.key" class="r" :class="{ on: p.key === at }" @click="at = p.key">
          <span><WholeText :text="p.sentence" /></span><span />
        </button>
      </template>
    </template>
  </aside>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>Proof</h1>
      <span class="sub">sentences that must hold; they run by themselves after every change</span>
      <div class="acts"><RouterLink class="btn" :to="`/c/${id}/history`">History</RouterLink></div>
    </div>
    <RefusalBox :error="accept.error.value" />
    <p v-if="isPending" class="busy">proving…</p>
    <FigureTable v-else class="proofs">
      <thead>
        <tr>
          <th>Sentence</th>
          <th class="n">Left</th>
          <th class="n">Right</th>
          <th class="n">Difference</th>
          <th style="width: 116px; padding-left: 18px">State</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in proofs" :key="p.key" class="can" :class="{ hand: p.key === at }" @click="at = p.key">
          <td class="sentence">
            <button class="quiet-link" @click.stop="at = p.key"><WholeText :text="p.sentence" /></button><small>{{ p.left_name }} | {{ p.right_name }}</small>
          </td>
          <td class="n">{{ p.waiting ? "–" : fig(p, p.left) }}</td>
          <td class="n">{{ p.waiting ? "–" : fig(p, p.right) }}</td>
          <td class="n" :class="{ bad: !p.stands }">{{ isZero(p.difference) ? "" : fig(p, p.difference) }}</td>
          <td style="padding-left: 18px">
            <span :class="{ ok: p.holds && !p.waiting, bad: !p.stands, warn: p.stands && !p.holds, q: p.waiting }">{{ state(p) }}</span>
          </td>
        </tr>
      </tbody>
    </FigureTable>
  </main>
  <aside class="why" aria-label="The proof in hand">
    <template v-if="inHand">
      <h1>{{ inHand.sentence }}</h1>
      <div class="sub">{{ inHand.waiting || state(inHand) }}</div>
      <template v-if="inHand.causes.length">
        <h2>Likely causes, nearest first</h2>
        <div v-for="(c, i) in inHand.causes" :key="i" class="kv">
          <span
            ><RouterLink v-if="c.link" :to="link(c.link)"><WholeText :text="c.words" /></RouterLink
            ><template v-else><WholeText :text="c.words" /></template></span
          ><span v-if="!isZero(c.amount)">{{ words(c.amount) }}</span>
        </div>
      </template>
      <template v-if="inHand.rows.length">
        <h2>Rows behind it</h2>
        <div v-for="(r, i) in inHand.rows.slice(0, 60)" :key="i" class="kv">
          <span
            ><RouterLink v-if="r.link" :to="link(r.link)"><WholeText :text="r.words" /></RouterLink
            ><template v-else><WholeText :text="r.words" /></template></span
          ><span>{{ words(r.amount) }}</span>
        </div>
        <p v-if="inHand.rows.length > 60" class="q s">and {{ inHand.rows.length - 60 }} more</p>
      </template>
      <div v-if="inHand.accepted" class="src">
        accepted by {{ inHand.accepted.by }}, {{ moment(inHand.accepted.at) }}: “{{ inHand.accepted.reason }}”. It lapses when the figures change.
        <button v-if="inHand.stands && !inHand.holds" class="linkish" :disabled="withdraw.isPending.value" @click="withdraw.mutate(inHand)">Withdraw</button>
        <RefusalBox :error="withdraw.error.value" />
      </div>
      <form v-if="!inHand.stands" style="margin: 14px 0" @submit.prevent="accept.mutate(inHand)">
        <label for="why-ok" class="q s">The difference may stand, because</label>
        <input id="why-ok" v-model="reason" class="input" required />
        <button class="btn small" style="margin-top: 6px" type="submit">Accept {{ fig(inHand, inHand.difference) }} with this reason</button>
      </form>
    </template>
    <div class="keys">
      <span><kbd>p</kbd>next that does not hold</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
.proofs td {
  height: 41px;
  line-height: 17px;
}
.sentence {
  white-space: normal;
}
.sentence small {
  display: block;
  font-size: 12px;
  color: var(--quiet);
}
.pile .r > span:first-child {
  white-space: normal;
}
</style>
