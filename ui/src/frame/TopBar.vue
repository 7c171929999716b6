<script setup lang="ts">
import { computed, ref } from "vue";
import { useRouter } from "vue-router";
import { api, type Schemas, unwrap } from "../api/client";
import { useBoard, useMe } from "../api/queries";
import { day, plural } from "../format";
import { useKeys } from "../keys";
import FindBox from "./FindBox.vue";
import KeysHelp from "./KeysHelp.vue";

const props = defineProps<{ state?: Schemas["State"]; inBooks?: boolean }>();
const emit = defineEmits<{ books: [] }>();
const router = useRouter();
const { data: me } = useMe();
const { data: board } = useBoard();
const finding = ref(false);
const helping = ref(false);
const open = ref<"" | "client" | "me">("");

const classWords: Record<string, string> = {
  "LLC taxed as S corporation": "S corporation",
  "LLC taxed as C corporation": "C corporation",
  "LLC taxed as partnership": "partnership",
};
const facts = computed(() => {
  const c = props.state?.client;
  if (!c) return me.value ? `${plural(board.value?.length ?? 0, "client")}, ${me.value.people === 1 ? "1 person" : `${me.value.people} people`}` : "";
  return `opens ${day(c.opening_day)} · ${classWords[c.entity_class] ?? c.entity_class} · ${c.currency}${c.role === "reviewer" ? " · you read here and sign off" : ""}`;
});

async function signOut() {
  await unwrap(api.DELETE("/api/session"));
  sessionStorage.clear(); // what was typed and not sent is this person's
  location.assign("/sign-in");
}

function go(to: string) {
  open.value = "";
  void router.push(to);
}

useKeys([
  { key: "Ctrl K", words: "find anything", run: () => (finding.value = true) },
  { key: "?", words: "these keys", run: () => (helping.value = !helping.value) },
  { key: "Escape", words: "close", run: () => ((finding.value = false), (helping.value = false), (open.value = "")) },
]);
</script>

<template>
  <header class="top">
    <RouterLink to="/board" class="word" aria-label="Coatrack, to the board">Coat<span>rack</span></RouterLink>
    <div class="menu">
      <button class="client" :aria-expanded="open === 'client'" @click="open = open === 'client' ? '' : 'client'">
        {{ state?.client.name ?? me?.firm ?? "" }} ▾
      </button>
      <div v-if="open === 'client'" class="drop">
        <button v-for="b in board ?? []" :key="b.client.id" @click="go(`/c/${b.client.id}/openings`)">{{ b.client.name }}</button>
        <button @click="go('/board')">The board of all clients</button>
      </div>
    </div>
    <div class="facts">{{ facts }}</div>
    <button class="find" @click="finding = true"><span>Find anything</span><span>Ctrl K</span></button>
    <button v-if="state" class="books" :class="{ on: inBooks }" :aria-pressed="inBooks" @click="emit('books')">Books <kbd>b</kbd></button>
    <div class="menu">
      <button
        class="who"
        :aria-label="`${me?.initials ?? ''}, ${me?.name ?? 'you'}: account`"
        :aria-expanded="open === 'me'"
        @click="open = open === 'me' ? '' : 'me'"
      >
        {{ me?.initials }}
      </button>
      <div v-if="open === 'me'" class="drop right">
        <p>{{ me?.name }}, {{ me?.role }}</p>
        <button @click="go('/account')">Account and tokens</button>
        <button v-if="state" @click="go(`/c/${state.client.id}/history`)">History of this client</button>
        <button
          @click="
            helping = true;
            open = '';
          "
        >
          Keys of this screen
        </button>
        <button @click="signOut">Sign out</button>
      </div>
    </div>
    <FindBox v-if="finding" :client="state?.client.id ?? 0" @close="finding = false" />
    <KeysHelp v-if="helping" @close="helping = false" />
  </header>
</template>

<style scoped>
.word {
  color: var(--on-walnut);
  text-decoration: none;
}
.client,
.find,
.books,
.who {
  font-family: inherit;
  background: none;
  cursor: pointer;
}
.client {
  border: 0;
  color: var(--on-walnut);
  padding: 4px 0;
  font: 600 14px/20px var(--body);
}
.find {
  border: 1px solid #8d7866;
}
.books.on {
  background: var(--brass-lit);
}
.who {
  border: 0;
  background: #8a5f1c;
}
.menu {
  position: relative;
}
.drop {
  position: absolute;
  z-index: 30;
  top: 34px;
  left: 14px;
  min-width: 230px;
  background: var(--card);
  border: 1px solid #cbbfa9;
  border-radius: 4px;
  box-shadow: 0 6px 18px #2b1f1844;
  padding: 5px 0;
}
.drop.right {
  left: auto;
  right: 0;
}
.drop p {
  padding: 5px 14px 7px;
  color: var(--quiet);
  font-size: 12px;
  border-bottom: 1px solid var(--rule);
  margin-bottom: 4px;
}
.drop button {
  display: block;
  width: 100%;
  border: 0;
  background: none;
  text-align: left;
  padding: 6px 14px;
  font: 400 13px/19px var(--body);
  color: var(--ink);
  cursor: pointer;
}
.drop button:hover {
  background: var(--hand);
}
</style>
