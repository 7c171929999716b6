<script setup lang="ts">
import { ref } from "vue";
import { api, attach, unwrap } from "../api/client";
import { useAct, useClientId, usePapers } from "../api/queries";
import { moment } from "../format";
import RefusalBox from "./RefusalBox.vue";

// Papers kept as evidence beside a file: the provider's PDF, a scanned bill. They are
// handed out, never read.
const props = defineProps<{ batch: number; canSee: boolean }>();
const id = useClientId();
const { data: papers, error } = usePapers(() => props.batch);
const picker = ref<HTMLInputElement>();
const taking = ref(0);
const remove = (client: number, batch: number, paper: number) =>
  unwrap(api.DELETE("/api/clients/{client}/batches/{batch}/attachments/{attachment}", { params: { path: { client, batch, attachment: paper } } }));
const add = useAct((client, f: File) => attach(client, props.batch, f), undefined, {
  undo: (f, client, result) => {
    const { batch } = props;
    const before = (papers.value ?? []).map((p) => p.id);
    return {
      words: `attachment ${f.name}`,
      run: async () => {
        const made = result()?.find((p) => !before.includes(p.id));
        if (made) await remove(client, batch, made.id);
      },
    };
  },
});
const off = useAct(
  (client, paper: number) => remove(client, props.batch, paper),
  () => (taking.value = 0),
  { grave: true },
);
function picked(e: Event) {
  const input = e.target as HTMLInputElement;
  const f = input.files?.[0];
  if (f) add.mutate(f);
  input.value = "";
}
const size = (n: number) => (n < 1024 * 1024 ? `${Math.max(1, Math.round(n / 1024))} KB` : `${(n / 1024 / 1024).toFixed(1)} MB`);
</script>

<template>
  <section aria-label="Papers" class="papers">
    <h2>Papers</h2>
    <RefusalBox :error="error ?? add.error.value ?? off.error.value" />
    <p v-if="papers && !papers.length" class="q">No paper is kept beside this yet: a PDF or a picture of what it rests on.</p>
    <ul v-if="papers?.length">
      <li v-for="p in papers" :key="p.id">
        <a v-if="canSee" :href="`/api/clients/${id}/batches/${batch}/attachments/${p.id}`">{{ p.name }}</a><span v-else>{{ p.name }}</span>
        <span class="q">{{ size(p.size) }}, {{ p.by }}, {{ moment(p.at) }}</span>
        <template v-if="taking === p.id">
          <button class="btn small" :disabled="off.isPending.value" @click="off.mutate(p.id)">Take it off</button>
          <button class="btn small plain" @click="taking = 0">Keep it</button>
        </template>
        <button v-else class="btn small plain" :aria-label="`take off ${p.name}`" @click="taking = p.id">take off</button>
      </li>
    </ul>
    <p>
      <button class="btn small" :disabled="add.isPending.value" @click="picker?.click()">{{ add.isPending.value ? "keeping it…" : "Attach a paper" }}</button>
      <input ref="picker" class="sr" type="file" tabindex="-1" accept=".pdf,.png,.jpg,.jpeg" aria-label="Paper to attach" @change="picked" />
    </p>
  </section>
</template>

<style scoped>
.papers {
  margin-top: 16px;
  font-size: 12.5px;
}
ul {
  list-style: none;
  margin: 4px 0;
  padding: 0;
}
li {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 28px;
}
p {
  margin: 4px 0;
}
</style>
