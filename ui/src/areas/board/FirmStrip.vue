<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../../api/client";
import { plural } from "../../format";

const props = defineProps<{ board: Schemas["BoardRow"][] }>();
const loose = computed(() => props.board.reduce((n, b) => n + b.loose, 0));
const proofs = computed(() => props.board.reduce((n, b) => n + b.proofs, 0));
</script>

<template>
  <footer class="strip" aria-label="The firm in sum">
    <span>{{ plural(board.length, "client") }}</span><span class="bar" /><span>{{ plural(loose, "loose end") }}</span
    ><span :class="{ ok: !proofs, bad: proofs }">{{ proofs ? `${plural(proofs, "proof")} not holding` : "every proof holds ✓" }}</span>
  </footer>
</template>
