<script setup lang="ts">
import { nextTick, onMounted, ref } from "vue";
import VeilBox from "./VeilBox.vue";
import { currentKeys, lettersOn, setLetters } from "../keys";

const emit = defineEmits<{ close: [] }>();
const keys = currentKeys();
const close = ref<HTMLButtonElement>();
onMounted(() => nextTick(() => close.value?.focus()));
</script>

<template>
  <VeilBox words="Keys of this screen" @close="emit('close')">
    <dl>
      <template v-for="k in keys" :key="k.key">
        <dt>
          <kbd>{{ k.key }}</kbd>
        </dt>
        <dd>{{ k.words }}</dd>
      </template>
    </dl>
    <label
      ><input type="checkbox" :checked="lettersOn" @change="setLetters(($event.target as HTMLInputElement).checked)" /> single letters act as keys (never while
      you type)</label
    >
    <p><button ref="close" class="btn" @click="emit('close')">Close</button></p>
  </VeilBox>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 5px 10px;
  margin: 12px 0;
}
dd {
  margin: 0;
}
label {
  display: flex;
  gap: 8px;
  align-items: center;
  color: var(--quiet);
}
p {
  margin-top: 14px;
  text-align: right;
}
</style>
