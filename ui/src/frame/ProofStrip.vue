<script setup lang="ts">
import type { Schemas } from "../api/client";
import { moment, plural } from "../format";
import { isCredit, isZero, plain, sum } from "../money";

defineProps<{ state?: Schemas["State"]; base: string }>();
const minus = (m: string) => (m.startsWith("-") ? m.slice(1) : `-${m}`);
const balanced = (s: Schemas["Strip"]) => isZero(sum([s.debit, minus(s.credit)]));
</script>

<template>
  <footer class="strip" aria-label="Proof strip">
    <template v-if="state">
      <RouterLink :to="`${base}/books/trial-balance`"
        >Dr <b>{{ plain(state.strip.debit) }}</b></RouterLink
      >
      <RouterLink :to="`${base}/books/trial-balance`"
        >Cr <b>{{ plain(state.strip.credit) }}</b></RouterLink
      >
      <span v-if="balanced(state.strip)" class="ok">in balance ✓</span>
      <RouterLink v-else class="bad" :to="`${base}/proof`">out of balance ▲</RouterLink>
      <span class="bar" />
      <span v-if="state.strip.clearing.length" class="bad clr">
        <template v-for="(c, i) in state.strip.clearing" :key="c.account_id">
          <template v-if="i"> · </template>
          <RouterLink class="bad" :to="`${base}/books/register/${c.account_id}`" :title="c.name"
            >{{ c.number || c.name }} {{ isCredit(c.balance) ? "credit" : "debit" }} {{ plain(c.balance) }}</RouterLink
          >
        </template>
        ▲
      </span>
      <span v-else class="ok">clearing 0.00 ✓</span>
      <RouterLink :to="`${base}/openings/rack?show=loose`">{{ plural(state.strip.loose_labels, "loose label") }}</RouterLink>
      <RouterLink :to="`${base}/proof`" :class="{ ok: !state.strip.proofs_open }">{{
        state.strip.proofs_open
          ? `${plural(state.strip.proofs_open, "proof")} ${state.strip.proofs_open === 1 ? "does" : "do"} not hold`
          : "every proof holds ✓"
      }}</RouterLink>
      <span class="saved"
        ><slot>saved {{ moment(state.saved) }}</slot></span
      >
    </template>
  </footer>
</template>

<style scoped>
.strip a {
  color: inherit;
  text-decoration: none;
}
.strip a.ok {
  color: var(--holds);
}
.strip a.bad {
  color: var(--fails);
}
.strip a:hover {
  text-decoration: underline;
  text-underline-offset: 3px;
}
</style>
