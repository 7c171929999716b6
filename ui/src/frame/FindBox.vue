<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { nextTick, onMounted, ref, watch } from "vue";
import { useRouter } from "vue-router";
import { api, unwrap } from "../api/client";
import VeilBox from "./VeilBox.vue";

const props = defineProps<{ client: number }>();
const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const text = ref("");
const at = ref(0);
const box = ref<HTMLInputElement>();

const { data: hits } = useQuery({
  queryKey: ["find", text, props.client],
  queryFn: () => unwrap(api.GET("/api/find", { params: { query: { q: text.value, client: props.client } } })),
});

watch(text, () => (at.value = 0));
onMounted(() => nextTick(() => box.value?.focus()));

function go(link: string) {
  emit("close");
  void router.push(link);
}

function onKey(e: KeyboardEvent) {
  const n = hits.value?.length ?? 0;
  if (e.key === "ArrowDown") at.value = Math.min(at.value + 1, n - 1);
  else if (e.key === "ArrowUp") at.value = Math.max(at.value - 1, 0);
  else if (e.key === "Enter" && hits.value?.[at.value]) go(hits.value[at.value]!.link);
  else if (e.key === "Escape") emit("close");
  else return;
  e.preventDefault();
}
</script>

<template>
  <VeilBox words="Find anything" :width="560" @close="emit('close')">
    <input
      ref="box"
      v-model="text"
      class="input"
      aria-label="Find what bears a name, a number or an amount"
      placeholder="client, account, customer, vendor, invoice number, pay item, file, or an amount"
      @keydown="onKey"
    />
    <ul v-if="hits?.length">
      <li v-for="(h, i) in hits" :key="h.link + h.words">
        <button :class="{ on: i === at }" @click="go(h.link)">
          <span>{{ h.words }}</span><small>{{ h.kind }}</small>
        </button>
      </li>
    </ul>
    <p v-else-if="text.trim()">Nothing bears that name, number or amount{{ client ? " in this client" : "; open a client to look inside it" }}.</p>
    <p v-else>Type a name, a number, or an amount such as 64.80.</p>
  </VeilBox>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  max-height: 420px;
  overflow: auto;
}
li button {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  width: 100%;
  border: 0;
  background: none;
  padding: 6px 8px;
  font: 400 13.5px/20px var(--body);
  text-align: left;
  cursor: pointer;
  color: var(--ink);
  border-radius: 3px;
}
li button.on,
li button:hover {
  background: var(--hand-pile);
}
small {
  color: var(--quiet);
  font-size: 12px;
  white-space: nowrap;
}
p {
  color: var(--quiet);
  padding: 10px 8px 4px;
}
</style>
