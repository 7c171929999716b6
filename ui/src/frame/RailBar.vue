<script setup lang="ts">
import { useRoute } from "vue-router";
import type { Schemas } from "../api/client";

const props = defineProps<{ pegs: Schemas["Peg"][]; base: string; sheetOf?: string }>();
const route = useRoute();
const words: Record<string, string> = { hollow: "not begun", half: "loose ends", solid: "nothing loose" };
// A file on the sheet belongs to the area that it is read for.
const on = (key: string, base: string) =>
  route.path.startsWith(`${base}/${key}`) || (route.path.startsWith(`${base}/sheet`) && key === (props.sheetOf ?? "openings"));
</script>

<template>
  <nav class="rail" aria-label="Areas of this client">
    <RouterLink
      v-for="p in pegs"
      :key="p.key"
      :to="`${base}/${p.key}`"
      class="peg-link"
      :class="{ half: p.state === 'half', full: p.state === 'solid', on: on(p.key, base) }"
      :title="`${p.name}: ${words[p.state]}`"
      :aria-current="on(p.key, base) ? 'page' : undefined"
    >
      {{ p.name }} <b v-if="p.loose">{{ p.loose }}</b>
      <span class="sr">{{ words[p.state] }}</span>
    </RouterLink>
  </nav>
</template>

<style scoped>
.peg-link {
  text-decoration: none;
  display: block;
}
.peg-link:hover {
  color: #fff;
}
</style>
