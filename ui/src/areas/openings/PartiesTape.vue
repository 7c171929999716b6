<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../../api/client";

const props = defineProps<{ needs: Schemas["PartyNeed"][] }>();
const n = (...states: string[]) => props.needs.filter((x) => states.includes(x.state)).length;
const rows = computed(() => [
  { words: "new to this ledger", n: n("open", "broken") },
  { words: "suggested", n: n("suggested") },
  { words: "settled", n: n("set", "left out") },
]);
</script>

<template>
  <div class="tape-hold">
    <div class="tape">
      <table aria-label="Names in the lists">
        <tbody>
          <tr v-for="r in rows" :key="r.words">
            <td>{{ r.words }}</td>
            <td>{{ r.n }}</td>
          </tr>
          <tr class="sum">
            <td>names in the lists</td>
            <td class="amt">{{ needs.length }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.tape {
  width: 250px;
}
</style>
