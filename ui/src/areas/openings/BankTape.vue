<script setup lang="ts">
import type { Schemas } from "../../api/client";
import { isCredit, isZero, plain } from "../../money";

defineProps<{ bank: Schemas["Bank"] }>();
const over = (m: string) => (isCredit(m) ? "overdrawn" : "");
</script>

<template>
  <div class="tape-hold">
    <div class="tape">
      <table aria-label="Statement, in transit, uncleared, book">
        <tbody>
          <tr>
            <td>the bank's statement</td>
            <td>{{ over(bank.tie.statement) }}</td>
            <td>{{ bank.said ? plain(bank.tie.statement) : "–" }}</td>
          </tr>
          <tr>
            <td>deposits in transit</td>
            <td>plus</td>
            <td>{{ plain(bank.tie.transit) }}</td>
          </tr>
          <tr>
            <td>uncleared checks</td>
            <td>less</td>
            <td>{{ plain(bank.tie.checks) }}</td>
          </tr>
          <tr class="sum">
            <td>should be the book</td>
            <td>{{ bank.said ? over(bank.tie.expected) : "" }}</td>
            <td class="amt">{{ bank.said ? plain(bank.tie.expected) : "–" }}</td>
          </tr>
          <tr>
            <td>the book</td>
            <td>{{ over(bank.tie.book) }}</td>
            <td>{{ plain(bank.tie.book) }}<span v-if="bank.said && isZero(bank.tie.difference)" class="ok"> ✓</span></td>
          </tr>
          <tr v-if="bank.said && !isZero(bank.tie.difference)">
            <td>off by</td>
            <td></td>
            <td class="off">{{ plain(bank.tie.difference) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.tape {
  width: 292px;
}
.off {
  color: var(--fails);
  font-weight: 650;
}
</style>
