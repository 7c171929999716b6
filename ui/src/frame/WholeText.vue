<script setup lang="ts">
import { computed } from "vue";

// Text in which figures, dates and document numbers never break over two lines.
const props = defineProps<{ text: string }>();
const parts = computed(() => props.text.split(/((?=\S*\d)\S*[-/.,]\S+|\d{1,2} [A-Z][a-z]{2} \d{4})/));
</script>

<template>
  <template v-for="(p, i) in parts" :key="i"
    ><span v-if="i % 2" class="nw">{{ p }}</span
    ><template v-else>{{ p }}</template></template
  >
</template>
