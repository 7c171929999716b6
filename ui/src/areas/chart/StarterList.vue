<script setup lang="ts">
import { useRouter } from "vue-router";
import { api, unwrap } from "../../api/client";
import { useAct, useClientId, useStarters } from "../../api/queries";
import RefusalBox from "../../frame/RefusalBox.vue";

const id = useClientId();
const router = useRouter();
const { data: starters } = useStarters();
const bring = useAct(
  (client, key: string) => unwrap(api.POST("/api/clients/{client}/starters/{key}", { params: { path: { client, key } } })),
  (b) => void router.push(`/c/${id.value}/sheet/${b.id}`),
);
</script>

<template>
  <RefusalBox :error="bring.error.value" />
  <table style="max-width: 560px">
    <tbody>
      <tr v-for="s in starters ?? []" :key="s.key">
        <td :class="{ fits: s.fits }">{{ s.name }}</td>
        <td class="q">{{ s.for }}</td>
        <td class="n q">{{ s.accounts }} accounts</td>
        <td class="n"><button class="btn small" :class="{ prime: s.fits }" @click="bring.mutate(s.key)">Look at it</button></td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.fits {
  font-weight: 600;
  color: var(--ink);
}
</style>
