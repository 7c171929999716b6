<script setup lang="ts">
import Modal from "ant-design-vue/es/modal";
import { nextTick, onBeforeUnmount, onMounted, ref } from "vue";

// A box over the screen; Escape or a click beside it closes. It takes the focus when it opens,
// so that keys do not act behind it, and gives it back to what opened it.
defineProps<{ words: string; width?: number }>();
const emit = defineEmits<{ close: [] }>();
const inside = ref<HTMLElement>();
const opener = document.activeElement;

onMounted(async () => {
  await nextTick();
  if (inside.value?.contains(document.activeElement)) return;
  const field = inside.value?.querySelector<HTMLElement>("input:not([type=checkbox]):not([role=combobox]):not(:disabled), textarea:not(:disabled)");
  (field ?? inside.value)?.focus();
});
// What had the focus may be gone from the box: Escape closes it all the same.
function outside(e: KeyboardEvent) {
  if (e.key === "Escape" && !(e.target as HTMLElement).closest?.('[role="dialog"]')) emit("close");
}
addEventListener("keydown", outside);
onBeforeUnmount(() => {
  removeEventListener("keydown", outside);
  if (opener instanceof HTMLElement && opener.isConnected) opener.focus();
});
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
    <div ref="inside" class="inside" tabindex="-1"><slot /></div>
  </Modal>
</template>

<style scoped>
.inside:focus {
  outline: none;
}
</style>
