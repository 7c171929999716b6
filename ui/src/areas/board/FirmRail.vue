<script setup lang="ts">
defineProps<{ on: "board" | "account" }>();
</script>

<template>
  <nav class="rail plain" aria-label="The firm">
    <RouterLink class="peg-link" :class="{ on: on === 'board' }" to="/board" :aria-current="on === 'board' ? 'page' : undefined">The board</RouterLink>
    <RouterLink class="peg-link" :class="{ on: on === 'account' }" to="/account" :aria-current="on === 'account' ? 'page' : undefined">Account</RouterLink>
  </nav>
</template>

<style scoped>
.rail.plain {
  display: flex;
  gap: 34px;
}
.peg-link {
  padding-top: 22px;
  text-decoration: none;
}
.peg-link::before {
  display: none;
}
.on::after {
  width: 100%;
}
</style>
