<script setup lang="ts">
import { api, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";

// A cash-method client with open items: which of the two cases applies is said
// before anything posts.
defineProps<{ words: string }>();
const choose = useAct(
  (client, value: string) => unwrap(api.POST("/api/clients/{client}/openings/choice", { params: { path: { client } }, body: { key: "cash-items", value } })),
  undefined,
  {
    undo: (_v, client) => ({
      words: "open items on the cash method",
      run: () => unwrap(api.POST("/api/clients/{client}/openings/choice", { params: { path: { client } }, body: { key: "cash-items", value: "" } })),
    }),
  },
);
</script>

<template>
  <div class="refusal" role="alert">
    <p>{{ words.charAt(0).toUpperCase() + words.slice(1) }}.</p>
    <button class="btn small" style="margin-top: 8px" @click="choose.mutate('deferred')">Let them stand against a deferred account</button>
  </div>
</template>
