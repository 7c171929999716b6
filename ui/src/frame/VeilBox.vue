<script setup lang="ts">
import Modal from "ant-design-vue/es/modal";

// A box over the screen; Escape or a click beside it closes.
defineProps<{ words: string; width?: number }>();
const emit = defineEmits<{ close: [] }>();
</script>

<template>
  <Modal
    :open="true"
    :width="width ?? 460"
    :footer="null"
    :closable="false"
    :title="words"
    wrap-class-name="veil"
    transition-name=""
    mask-transition-name=""
    @cancel="emit('close')"
  >
    <slot />
  </Modal>
</template>
