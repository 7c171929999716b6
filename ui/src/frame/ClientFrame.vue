<script setup lang="ts">
import { computed, provide, ref, watchEffect } from "vue";
import { RouterView, useRoute, useRouter } from "vue-router";
import { noAnswer } from "../api/client";
import { useClientId, useClientState, useFiles } from "../api/queries";
import { moment } from "../format";
import { useKeys } from "../keys";
import { purposes } from "../sheet/meanings";
import ProofStrip from "./ProofStrip.vue";
import RailBar from "./RailBar.vue";
import TopBar from "./TopBar.vue";
import UndoBar from "./UndoBar.vue";
import { foldedKey } from "./panes";

const route = useRoute();
const router = useRouter();
const id = useClientId();
const { data: state, error, refetch, dataUpdatedAt } = useClientState();
// A server that does not answer takes nothing off the screen: what is typed stays.
const lost = computed(() => noAnswer(error.value));
watchEffect((tidy) => {
  if (!lost.value) return;
  const again = setInterval(() => void refetch(), 5_000);
  tidy(() => clearInterval(again));
});

const folded = ref(localStorage.getItem("why") === "folded");
provide(foldedKey, folded);
watchEffect(() => localStorage.setItem("why", folded.value ? "folded" : "shown"));

// A file on the sheet belongs to the area that it is read for.
const { data: files } = useFiles();
const sheetOf = computed(() => purposes[files.value?.find((f) => f.id === Number(route.params.batch))?.purpose ?? ""]?.home.split("/")[0]);

const inBooks = computed(() => route.path.includes("/books"));
let before = "";

// `b` goes to the books, and again back to where one was.
function books() {
  if (inBooks.value) void router.push(before || `/c/${id.value}/brief`);
  else {
    before = route.fullPath;
    void router.push(`/c/${id.value}/books`);
  }
}

watchEffect(() => {
  if (state.value) document.title = `${state.value.client.name} · Coatrack`;
});

// Here, and not where it is shown: a screen of its own z wins over it.
const undoBar = ref<InstanceType<typeof UndoBar>>();
useKeys([
  { key: "z", words: "undo the last change", run: () => undoBar.value?.undo() },
  { key: "b", words: "the books, and back", run: books },
  { key: "w", words: "fold the why", run: () => (folded.value = !folded.value) },
  {
    key: "g 1–9",
    words: "go to a peg",
    run: (e) => {
      const peg = state.value?.pegs[Number(e.key) - 1];
      if (peg) void router.push(`/c/${id.value}/${peg.key}`);
    },
  },
]);
</script>

<template>
  <div v-if="lost && !state" class="empty" style="padding: 60px">
    <b>The server does not answer</b>
    Nothing is lost; what was saved is there when it does. <button class="btn small" @click="refetch()">Try again</button>
  </div>
  <div v-else-if="error && !lost" class="empty" style="padding: 60px">
    <b>There is nothing here for you</b>
    This client does not exist, or you have no part in it. <RouterLink to="/board">Go to the board</RouterLink>
  </div>
  <div v-else class="shell" :class="{ folded }">
    <TopBar :state="state" :in-books="inBooks" @books="books" />
    <RailBar :pegs="state?.pegs ?? []" :base="`/c/${id}`" :sheet-of="sheetOf" />
    <RouterView :key="String(route.params.client)" />
    <p v-if="lost" class="lost" role="alert">
      The server does not answer. What stands here is of {{ moment(new Date(dataUpdatedAt).toISOString()) }}; what you typed is still there.
      <button class="btn small" @click="refetch()">Try again</button>
    </p>
    <ProofStrip :state="state" :base="`/c/${id}`"><UndoBar ref="undoBar" :saved="state?.saved" /></ProofStrip>
  </div>
</template>

<style scoped>
/* Over the foot of the panes, so that nothing moves when it comes and goes. */
.lost {
  grid-row: 3;
  grid-column: 1 / -1;
  align-self: end;
  z-index: 30;
  margin: 0;
  padding: 8px 20px;
  background: var(--fails-wash);
  border-top: 2px solid var(--fails);
  color: #7c2b21;
}
</style>
