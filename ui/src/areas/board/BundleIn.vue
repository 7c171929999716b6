<script setup lang="ts">
import { useQueryClient } from "@tanstack/vue-query";
import { onUnmounted, ref } from "vue";
import { useRouter } from "vue-router";
import { bringBundle } from "../../api/client";
import RefusalBox from "../../frame/RefusalBox.vue";

// A bundle that a handoff gave out becomes a client here: all of it, or nothing.
const emit = defineEmits<{ close: [] }>();
const router = useRouter();
const q = useQueryClient();
const name = ref("");
const file = ref<File>();
const share = ref<number>();
const error = ref<Error | null>(null);
let stop = new AbortController();
onUnmounted(() => stop.abort());

async function take() {
  if (!file.value) return;
  stop = new AbortController();
  error.value = null;
  share.value = 0;
  try {
    const c = await bringBundle(name.value.trim(), file.value, (s) => (share.value = s), stop.signal);
    void q.invalidateQueries({ queryKey: ["board"] });
    void router.push(`/c/${c.id}/proof`);
  } catch (e) {
    error.value = e as Error;
  } finally {
    share.value = undefined;
  }
}
function close() {
  stop.abort();
  emit("close");
}
</script>

<template>
  <form class="unfolded" aria-label="Take a bundle in" @submit.prevent="take" @keydown.esc="close">
    <RefusalBox :error="error" />
    <p class="q" style="margin-bottom: 10px">
      A bundle is the one JSON document that a client's handoff gives out. It becomes a new client with the same ledger, to the cent; none that is here is
      touched.
    </p>
    <div class="two">
      <div class="field">
        <label for="bundle-file">Bundle</label>
        <input id="bundle-file" class="input" type="file" accept=".json,application/json" @change="(e) => (file = (e.target as HTMLInputElement).files?.[0])" />
      </div>
      <div class="field">
        <label for="bundle-name">Name on the board, if another</label><input id="bundle-name" v-model="name" class="input" maxlength="120" />
      </div>
    </div>
    <p v-if="share !== undefined" class="busy" role="status">
      {{ share < 1 ? `sending, ${Math.round(share * 100)} %` : "it is there; its entries are checked and written…" }}
    </p>
    <div class="acts">
      <button class="btn prime" type="submit" :disabled="!file || share !== undefined">Take it in</button
      ><button class="btn plain" type="button" @click="close">Cancel</button>
    </div>
  </form>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
  gap: 2px 22px;
}
</style>
