<script setup lang="ts">
import DatePicker from "ant-design-vue/es/date-picker";

// Days are typed and shown as "1 Jul 2026" everywhere; the value is the ISO date.
defineProps<{ id: string; label?: string; width?: string; min?: string; none?: string }>();
const value = defineModel<string>({ default: "" });
</script>

<template>
  <label v-if="label" class="sr" :for="id">{{ label }}</label>
  <!-- Enter takes the day; it does not send the form. -->
  <span @keydown.enter.prevent
    ><DatePicker
      :id="id"
      :value="value || undefined"
      :style="{ width: width ?? '132px' }"
      format="D MMM YYYY"
      value-format="YYYY-MM-DD"
      :placeholder="none ?? 'any day'"
      :allow-clear="true"
      :disabled-date="(d: { format: (f: string) => string }) => !!min && d.format('YYYY-MM-DD') < min"
      @update:value="(v: unknown) => (value = typeof v === 'string' ? v : '')"
  /></span>
</template>
