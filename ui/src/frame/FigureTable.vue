<script setup lang="ts">
import { computed } from "vue";

// A table in which figures stand whole: money, numbers, dates and document numbers are never cut or
// broken, and the columns listed in give are text, which gives way with an ellipsis. What was cut is
// shown whole on hover and focus. See style/tables.css for the rules.
const props = defineProps<{ give?: number[] }>();
const columns = computed(() => [`gives${props.give?.length ?? 0}`, ...(props.give ?? []).map((n) => `give${n}`)]);
function whole(e: Event) {
  const cell = (e.target as HTMLElement).closest?.("td, th");
  if (!(cell instanceof HTMLElement)) return;
  const cut = [cell, ...cell.querySelectorAll("*")].some((x) => x.scrollWidth > x.clientWidth + 1 && getComputedStyle(x).textOverflow === "ellipsis");
  if (cut && !cell.title) cell.title = cell.innerText.trim();
  else if (!cut) cell.removeAttribute("title");
}
</script>

<template>
  <table class="figures" :class="columns" @mouseover="whole" @focusin="whole">
    <slot />
  </table>
</template>
