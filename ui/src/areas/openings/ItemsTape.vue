<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../../api/client";
import { cents, fromCents, isCredit, isZero, plain } from "../../money";

// What the trial balance brought, what the items take off it, what is left, and
// of that what is held and what is over or missing.
const props = defineProps<{ side: Schemas["Side"]; draft?: Schemas["ItemsDraft"] }>();
const moves = computed(() => (props.draft && props.draft.state === "taken" ? props.draft.moves : "0.00"));
const taken = computed(() => fromCents(-(cents(props.side.items) + cents(moves.value))));
const owed = computed(() => fromCents(-cents(taken.value)));
const left = computed(() => fromCents(cents(props.side.carried) + cents(taken.value)));
const held = computed(() => props.draft?.held ?? props.side.held);
const heldN = computed(() => props.draft?.counts["held"] ?? props.side.held_count);
const rest = computed(() => fromCents(cents(left.value) - cents(held.value)));
const many = computed(() => (props.side.side === "receivable" ? "invoices" : "bills"));
const n = computed(
  () =>
    props.side.count +
    (isZero(moves.value) && !props.draft?.posts
      ? 0
      : (props.draft?.posts ?? 0) - (props.draft?.counts["amount changed"] ?? 0) - (props.draft?.counts["party changed"] ?? 0)),
);
const missing = computed(() => (props.side.side === "receivable" ? !isCredit(rest.value) : isCredit(rest.value)));
// Deferred, the other side of the items is no clearing account: it stands there until they are settled.
const deferred = computed(() => props.side.cash === "deferred");
const off = computed(() => props.side.left);
const say = (m: string) => (isZero(m) ? "" : isCredit(m) ? "credit" : "debit");
</script>

<template>
  <div class="tape-hold">
    <div class="tape">
      <table aria-label="What is left in the clearing account">
        <caption>
          {{
            side.clearing.number
          }}
          {{
            side.clearing.name || (side.side === "receivable" ? "Receivables not yet itemized" : "Payables not yet itemized")
          }}
        </caption>
        <tbody v-if="deferred">
          <tr>
            <td>{{ n }} {{ many }}<template v-if="!isZero(moves)">, ready</template></td>
            <td>{{ say(owed) }}</td>
            <td>{{ plain(owed) }}</td>
          </tr>
          <tr>
            <td>deferred until settled</td>
            <td>{{ say(taken) }}</td>
            <td>{{ plain(taken) }}</td>
          </tr>
          <tr class="sum">
            <td>left</td>
            <td>{{ say(off) }}</td>
            <td class="amt" :class="{ bad: !isZero(off) }">{{ plain(off) }}<span v-if="isZero(off)" class="ok"> ✓</span></td>
          </tr>
          <tr v-if="heldN">
            <td>held besides, {{ heldN }}</td>
            <td>{{ say(held) }}</td>
            <td>{{ plain(held) }}</td>
          </tr>
        </tbody>
        <tbody v-else>
          <tr>
            <td>trial balance</td>
            <td>{{ say(side.carried) }}</td>
            <td>{{ plain(side.carried) }}</td>
          </tr>
          <tr>
            <td>{{ n }} {{ many }}<template v-if="!isZero(moves)">, ready</template></td>
            <td>{{ say(taken) }}</td>
            <td>{{ plain(taken) }}</td>
          </tr>
          <tr class="sum">
            <td>left</td>
            <td>{{ say(left) }}</td>
            <td class="amt" :class="{ bad: !isZero(left) }">{{ plain(left) }}<span v-if="isZero(left)" class="ok"> ✓</span></td>
          </tr>
          <template v-if="heldN">
            <tr>
              <td>of which held, {{ heldN }}</td>
              <td>{{ say(held) }}</td>
              <td>{{ plain(held) }}</td>
            </tr>
            <tr v-if="!isZero(rest)">
              <td>and {{ missing ? "missing" : "over" }}</td>
              <td>{{ say(rest) }}</td>
              <td class="bad">{{ plain(rest) }}</td>
            </tr>
          </template>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.tape {
  width: 292px;
}
caption {
  text-align: right;
  color: var(--quiet);
  font-size: 12px;
  padding-bottom: 6px;
}
.tape td:nth-child(1) {
  text-align: right;
}
.tape td:nth-child(2) {
  width: 46px;
}
.bad {
  color: var(--fails);
}
</style>
