<script setup lang="ts">
import { nextTick, onMounted, ref } from "vue";

const emit = defineEmits<{ take: [reason: string]; close: [] }>();
const text = ref("");
const box = ref<HTMLInputElement>();
onMounted(() => nextTick(() => box.value?.focus()));
</script>

<template>
  <input
    ref="box"
    v-model="text"
    class="input"
    aria-label="Left out, because"
    placeholder="left out, because… (Enter)"
    @click.stop
    @keydown.enter.stop.prevent="text.trim() && emit('take', text.trim())"
    @keydown.esc.stop="emit('close')"
  />
</template>
