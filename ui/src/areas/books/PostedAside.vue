<script setup lang="ts">
import WholeText from "../../frame/WholeText.vue";
import { useClientId, useUnits } from "../../api/queries";
import { day, moment } from "../../format";
import { plain } from "../../money";

defineProps<{ differ: string[] }>();
const id = useClientId();
const { data: units } = useUnits();
</script>

<template>
  <aside class="why" aria-label="Just posted">
    <h1>Just posted</h1>
    <div class="sub">newest first</div>
    <RouterLink v-for="u in (units ?? []).slice(0, 4)" :key="u.id" class="post" :to="`/c/${id}/books/posted`">
      <span class="l"
        ><span><WholeText :text="u.title" /></span><b>{{ plain(u.amount) }}</b></span
      >
      <span class="l s q"
        ><span>{{ moment(u.at) }}, {{ u.by.initials }}</span
        ><span>{{ u.taken_back ? "taken back" : u.reverses ? "reversal" : day(u.day) }}</span></span
      >
    </RouterLink>
    <p v-if="!units?.length" class="q">Nothing is posted yet.</p>
    <template v-if="differ.length">
      <h2>Why lines differ</h2>
      <div v-for="d in differ.slice(0, 14)" :key="d" class="kv">
        <span>{{ d }}</span>
      </div>
      <p v-if="differ.length > 14" class="q s">and {{ differ.length - 14 }} more</p>
    </template>
    <div class="src">Every figure opens its register; every line there says which row of which file it came from.</div>
    <div class="keys">
      <span><kbd>b</kbd>back to the work</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
.post {
  display: block;
  padding: 8px 0 9px;
  border-bottom: 1px solid var(--rule);
  text-decoration: none;
  color: inherit;
}
.l {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
</style>
