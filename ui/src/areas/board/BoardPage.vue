<script setup lang="ts">
import { computed, ref } from "vue";
import { useRouter } from "vue-router";
import type { Schemas } from "../../api/client";
import { useBoard } from "../../api/queries";
import { day, moment, monthNames, plural } from "../../format";
import FirmRail from "./FirmRail.vue";
import FirmStrip from "./FirmStrip.vue";
import PileFilter from "../../frame/PileFilter.vue";
import TopBar from "../../frame/TopBar.vue";
import { useKeys } from "../../keys";
import BundleIn from "./BundleIn.vue";
import NewClient from "./NewClient.vue";

const router = useRouter();
const { data: board, isPending } = useBoard();
const text = ref("");
const at = ref(0);
const making = ref<"" | "client" | "bundle">("");
const shown = computed(() => (board.value ?? []).filter((b) => b.client.name.toLowerCase().includes(text.value.toLowerCase())));
const inHand = computed<Schemas["BoardRow"] | undefined>(() => shown.value[at.value]);
const groups = computed(() => [
  { name: "Does not hold", rows: shown.value.filter((b) => b.proofs > 0) },
  { name: "Loose ends", rows: shown.value.filter((b) => b.proofs === 0 && b.loose > 0) },
  { name: "Nothing loose", rows: shown.value.filter((b) => b.proofs === 0 && b.loose === 0) },
]);

/** where a client is gone on with: the first area with loose ends. */
function goOn(b: Schemas["BoardRow"]): string {
  const peg = b.pegs.find((p) => p.state === "half") ?? b.pegs.find((p) => p.state === "hollow");
  return `/c/${b.client.id}/${peg?.key ?? "brief"}`;
}

const dueIn = (d: Schemas["RulebookComing"]) => (d.days_left === 0 ? "today" : `in ${plural(d.days_left, "day")}`);
const move = (n: number) => (at.value = Math.max(0, Math.min(shown.value.length - 1, at.value + n)));
useKeys([
  { key: "j", words: "next client", run: () => move(1) },
  { key: "k", words: "previous client", run: () => move(-1) },
  { key: "ArrowDown", words: "next client", run: () => move(1) },
  { key: "ArrowUp", words: "previous client", run: () => move(-1) },
  { key: "Enter", words: "open", run: () => inHand.value && router.push(goOn(inHand.value)) },
  { key: "c", words: "new client", run: () => (making.value = "client") },
]);
</script>

<template>
  <div class="shell">
    <TopBar />
    <FirmRail on="board" />
    <aside class="pile" aria-label="Clients by what is loose">
      <PileFilter v-model="text" words="filter clients" />
      <template v-for="g in groups" :key="g.name">
        <template v-if="g.rows.length">
          <div class="g">{{ g.name }}</div>
          <button v-for="b in g.rows" :key="b.client.id" class="r" :class="{ on: b === inHand }" @click="at = shown.indexOf(b)">
            <span
              >{{ b.client.name }}<small>{{ b.words }}</small></span
            ><span>{{ b.loose ? `${b.loose} loose` : "–" }}</span>
          </button>
        </template>
      </template>
    </aside>
    <main class="bench" tabindex="0">
      <div class="head">
        <h1>The board</h1>
        <span class="sub">{{ plural(board?.length ?? 0, "client") }}</span>
        <div class="acts">
          <button class="btn" @click="making = 'bundle'">Take a bundle in</button><button class="btn prime" @click="making = 'client'">New client</button>
        </div>
      </div>
      <NewClient v-if="making === 'client'" @close="making = ''" />
      <BundleIn v-else-if="making === 'bundle'" @close="making = ''" />
      <p v-if="isPending" class="busy">reading the board…</p>
      <div v-else-if="!board?.length" class="empty">
        <b>No clients yet</b>Make the first one; then bring in its chart of accounts and its old trial balance.
      </div>
      <template v-else>
        <div class="heads"><span>Client</span><span>Loose</span><span>Proofs</span><span>Next due</span><span>Touched</span></div>
        <article v-for="(b, i) in shown" :key="b.client.id" class="cl" :class="{ hand: i === at }" @click="at = i">
          <div class="l1">
            <div>
              <h2>
                <RouterLink class="quiet-link" :to="goOn(b)">{{ b.client.name }}</RouterLink>
              </h2>
              <small>{{ b.client.entity_class }}, opens {{ day(b.client.opening_day) }}</small>
            </div>
            <div>
              <b>{{ b.loose }}</b><small>{{ b.words }}</small>
            </div>
            <div>
              <b>{{ b.proofs || "–" }}</b><small>{{ b.proofs ? (b.proofs === 1 ? "does not hold" : "do not hold") : "every proof holds" }}</small>
            </div>
            <div>
              <b :class="{ warn: b.due && b.due.days_left < 31 }">{{ b.due ? day(b.due.day) : "–" }}</b><small>{{
                b.due ? dueIn(b.due) : "no returns here"
              }}</small>
            </div>
            <div>
              {{ b.touched_by.initials }}<small>{{ moment(b.touched) }}</small>
            </div>
          </div>
          <div class="mini">
            <RouterLink v-for="p in b.pegs" :key="p.key" :to="`/c/${b.client.id}/${p.key}`" :class="{ half: p.state === 'half', full: p.state === 'solid' }"
              ><i />{{ p.name }} <b v-if="p.loose">{{ p.loose }}</b></RouterLink
            >
          </div>
        </article>
      </template>
    </main>
    <aside class="why" aria-label="The client in hand">
      <template v-if="inHand">
        <h1>{{ inHand.client.name }}</h1>
        <div class="sub">{{ plural(inHand.loose, "loose end") }}</div>
        <div v-for="p in inHand.pegs" :key="p.key" class="kv">
          <span :class="{ q: p.key === 'proof' }">{{ p.key === "proof" ? "Proof, counted apart" : p.name }}</span><b>{{ p.loose || "–" }}</b>
        </div>
        <div style="margin-top: 12px"><RouterLink class="btn" :to="goOn(inHand)">Go on where it is loose</RouterLink></div>
        <template v-if="inHand.due">
          <h2>Due {{ day(inHand.due.day) }}</h2>
          <div class="sub">{{ dueIn(inHand.due) }}</div>
          <ul class="dues">
            <li v-for="w in inHand.due.what" :key="w">{{ w }}</li>
          </ul>
        </template>
        <div class="src">
          return: {{ inHand.client.return }}<br />{{ inHand.client.method }} basis, year ends with {{ monthNames[inHand.client.fiscal_year_end - 1] }}
        </div>
      </template>
      <div class="keys">
        <span><kbd>Enter</kbd>open</span><span><kbd>j</kbd><kbd>k</kbd>move</span><span><kbd>?</kbd>keys</span>
      </div>
    </aside>
    <FirmStrip :board="board ?? []" />
  </div>
</template>

<style scoped>
.heads,
.l1 {
  display: grid;
  grid-template-columns: 1fr 132px 106px 96px 84px;
  column-gap: 12px;
}
.heads {
  padding: 0 11px 5px;
  font-size: 12px;
  color: var(--quiet);
}
.heads span:last-child,
.l1 > div:last-child {
  text-align: right;
}
.cl {
  border-bottom: 1px solid var(--rule);
  padding: 13px 12px 12px;
  margin: 0 -1px;
}
.heads + .cl {
  border-top: 1px solid var(--rule-firm);
}
.cl.hand {
  background: var(--hand);
  box-shadow: inset 3px 0 0 var(--brass);
}
.dues {
  margin: 4px 0 0;
  padding-left: 16px;
  line-height: 20px;
}
.cl h2 {
  font-size: 15px;
}
.cl small {
  font-size: 12px;
  color: var(--quiet);
  display: block;
  line-height: 16px;
}
.mini {
  display: flex;
  gap: 34px;
  position: relative;
  margin-top: 10px;
  width: fit-content;
}
.mini::before {
  content: "";
  position: absolute;
  left: 4px;
  right: 40px;
  top: 6px;
  height: 2px;
  background: #d5c29e;
}
.mini a {
  position: relative;
  font-size: 12px;
  line-height: 16px;
  color: #463e37;
  padding-top: 17px;
  white-space: nowrap;
  text-decoration: none;
  min-width: 46px;
}
.mini i {
  position: absolute;
  left: 0;
  top: 0;
  width: 13px;
  height: 13px;
  border-radius: 50%;
  border: 2px solid var(--brass);
  background: var(--paper);
}
.hand .mini i {
  background-color: var(--hand);
}
.mini .half i {
  background: linear-gradient(90deg, var(--brass) 50%, var(--paper) 50%);
}
.mini .full i {
  background: var(--brass) !important;
}
.mini b {
  color: var(--brass-text);
}
</style>
