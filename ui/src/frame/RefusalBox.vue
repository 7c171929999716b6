<script setup lang="ts">
defineProps<{ error: Error | null | undefined }>();
</script>

<template>
  <div v-if="error" class="refusal" role="alert">{{ error.message }}</div>
</template>
