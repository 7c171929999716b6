<script setup lang="ts">
import { computed } from "vue";

const props = defineProps<{ state: string; revisit?: boolean }>();
const shape = computed(() => {
  if (props.revisit && props.state === "set") return "set rev";
  return ({ open: "open", suggested: "sug", set: "set", "left out": "left", broken: "broken" } as Record<string, string>)[props.state] ?? "open";
});
</script>

<template>
  <span class="state"><i class="peg" :class="shape" aria-hidden="true" />{{ state }}{{ revisit ? ", revisit" : "" }}</span>
</template>
