<script setup lang="ts">
import { isCredit, isZero, plain } from "../money";

// An amount where its usual side is understood. One on the other side says so in a word: no
// figure ever stands as if it added where it takes off.
const props = withDefaults(defineProps<{ m: string; other?: string; none?: string; credit?: boolean }>(), { other: "less", none: "0.00" });
const against = () => !isZero(props.m) && isCredit(props.m) !== (props.credit ?? false);
</script>

<template>
  <span v-if="against()" class="dc">{{ `${other} ` }}</span>{{ isZero(m) ? none : plain(m) }}
</template>
