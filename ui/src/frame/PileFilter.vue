<script setup lang="ts">
import { ref } from "vue";
import { useKeys } from "../keys";

defineProps<{ words: string }>();
const text = defineModel<string>({ default: "" });
const box = ref<HTMLInputElement>();
useKeys([{ key: "/", words: "filter the pile", run: () => box.value?.focus() }]);
</script>

<template>
  <div class="filter">
    <i aria-hidden="true">/</i
    ><input ref="box" v-model="text" :aria-label="words" :placeholder="words" @keydown.esc="($event.target as HTMLInputElement).blur()" />
  </div>
</template>
