<script setup lang="ts">
import { useMutation, useQueryClient } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { useClientId } from "../api/queries";
import { moment } from "../format";
import { kept, lastUndo, undos } from "./undo";

// What was changed last, and the key that takes it back.
defineProps<{ saved?: string }>();
const id = useClientId();
const q = useQueryClient();
const last = computed(() => undos.value.find((u) => u.client === id.value));
const said = ref("");
const back = useMutation({
  mutationFn: async () => {
    const u = lastUndo(id.value);
    await u?.run();
    return u?.words ?? "";
  },
  onSuccess: (words) => (said.value = words && `Undone: ${words}`),
  onError: (e) => (said.value = `Could not be undone: ${e.message}`),
  onSettled: () => Promise.all([q.invalidateQueries({ queryKey: ["client"] }), q.invalidateQueries({ queryKey: ["board"] })]),
});
watch(kept, () => (said.value = ""));
// Pressed quickly again and again, one is undone after the other.
let chain: Promise<unknown> = Promise.resolve();
function undo() {
  chain = chain.then(() => last.value && back.mutateAsync()).catch(() => undefined);
}
defineExpose({ undo });
</script>

<template>
  <span class="undo" role="status">
    <span v-if="said" class="what" :title="said">{{ said }}</span>
    <span v-else-if="last" class="what" :title="last.words">Saved: {{ last.words }}</span>
    <template v-else-if="saved">saved {{ moment(saved) }}</template>
    <button v-if="last" class="linkish" @click="undo">Undo <kbd>z</kbd></button>
  </span>
</template>

<style scoped>
.undo {
  display: flex;
  gap: 8px;
  align-items: center;
  min-width: 0;
  white-space: nowrap;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
  flex: 0 1 auto;
  min-width: 0;
}
button {
  flex: none;
}
</style>
