<script setup lang="ts">
import { useQueryClient } from "@tanstack/vue-query";
import Progress from "ant-design-vue/es/progress";
import { nextTick, ref } from "vue";
import { useRouter } from "vue-router";
import { bring, Refusal } from "../api/client";
import { useClientId } from "../api/queries";
import { useKeys } from "../keys";

const props = defineProps<{ purpose: string; words: string; plain?: boolean }>();
const id = useClientId();
const router = useRouter();
const q = useQueryClient();
const input = ref<HTMLInputElement>();
const error = ref<Refusal | null>(null);
const share = ref<number | null>(null);
const pasting = ref(false);
const pasted = ref("");
let stop = new AbortController();

async function send(name: string, data: Blob) {
  error.value = null;
  share.value = 0;
  stop = new AbortController();
  try {
    const b = await bring(id.value, props.purpose, name, data, (s) => (share.value = s), stop.signal);
    pasting.value = false;
    await q.invalidateQueries({ queryKey: ["client"] });
    await router.push(`/c/${id.value}/sheet/${b.id}`);
  } catch (e) {
    error.value = e as Refusal;
  } finally {
    share.value = null;
    if (input.value) input.value.value = "";
  }
}

function picked() {
  const f = input.value?.files?.[0];
  if (f) void send(f.name, f);
}

const area = ref<HTMLTextAreaElement>();
async function unfold() {
  pasting.value = !pasting.value;
  await nextTick();
  area.value?.focus();
}
function paste() {
  void send("pasted rows.txt", new Blob([pasted.value]));
}

function same(): number | undefined {
  return error.value?.code === "same-file" ? (error.value.now as { batch: number }).batch : undefined;
}

useKeys([{ key: "f", words: props.words.toLowerCase(), run: () => input.value?.click() }]);
</script>

<template>
  <span class="bringer">
    <input ref="input" type="file" class="sr" accept=".csv,.tsv,.txt,.xlsx,.xml,.ofx,.qfx" :aria-label="words" tabindex="-1" @change="picked" />
    <button class="btn" aria-controls="paste-rows" :aria-expanded="pasting" @click="unfold">Paste rows</button>
    <button class="btn" :class="{ prime: !plain }" :disabled="share !== null" @click="input?.click()">{{ words }}</button>
    <slot />
    <span v-if="share !== null" class="prog" role="status">
      <template v-if="share < 1"
        >sending <Progress :percent="Math.round(share * 100)" size="small" style="width: 110px; display: inline-block" :show-info="false" /></template
      ><template v-else>reading the rows…</template>
      <button class="linkish" @click="stop.abort()">cancel</button>
    </span>
    <div v-if="error" class="pop refusal" role="alert">
      {{ error.message }}
      <RouterLink v-if="same()" :to="`/c/${id}/sheet/${same()}`">Open it</RouterLink>
      <button class="linkish" @click="error = null">close</button>
    </div>
    <form v-if="pasting" id="paste-rows" class="pop paste" @submit.prevent="paste" @keydown.esc.stop="pasting = false">
      <label for="pasted">Rows copied from a spreadsheet, titles first</label>
      <textarea id="pasted" ref="area" v-model="pasted" class="input" rows="9" required />
      <div class="acts">
        <button class="btn prime small" type="submit">Put them on the sheet</button
        ><button class="btn plain small" type="button" @click="pasting = false">Cancel</button>
      </div>
    </form>
  </span>
</template>

<style scoped>
.bringer {
  position: relative;
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
.prog {
  font-size: 12px;
  color: var(--quiet);
  white-space: nowrap;
}
.pop {
  position: absolute;
  right: 0;
  top: 38px;
  z-index: 20;
  width: 420px;
  box-shadow: 0 6px 18px #2b1f1833;
  white-space: normal;
}
/* In a box it unfolds below the buttons and stays inside. */
.veil .bringer {
  display: flex;
  flex-wrap: wrap;
}
.veil .pop {
  position: static;
  order: 1;
  width: 100%;
  box-shadow: none;
}
.paste {
  background: var(--card);
  border: 1px solid #cbbfa9;
  border-radius: 4px;
  padding: 12px;
  display: grid;
  gap: 8px;
}
</style>
