<script setup lang="ts">
import { ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId } from "../../api/queries";
import { day } from "../../format";
import ChooseOne from "../../frame/ChooseOne.vue";
import DayInput from "../../frame/DayInput.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useReverse } from "../../frame/reverse";
import { plain } from "../../money";

// A bill in accounts payable waits for its payment: a line of a statement, or a day that is typed.
const props = defineProps<{ bill: Schemas["PayBill"]; banks: { value: number; label: string }[] }>();
const id = useClientId();
const bank = ref(props.banks[0]?.value ?? 0);
const when = ref("");
const pay = useAct(
  (client, body: Schemas["BillPayment"]) =>
    unwrap(api.POST("/api/clients/{client}/payroll/bills/{bill}/payment", { params: { path: { client, bill: props.bill.id } }, body })),
  undefined,
  { grave: true },
);
const back = useReverse();
</script>

<template>
  <section class="payment">
    <RefusalBox :error="pay.error.value ?? back.error.value" />
    <p v-if="bill.paid_unit" class="q">
      Its payment is posted: nothing is open in accounts payable.
      <button
        class="linkish"
        :disabled="back.pending.value"
        @click="back.reverse(bill.paid_unit, `the payment of ${bill.party}`, 'The bill is open again. You can undo this: record the payment again.')"
      >
        {{ back.words(bill.paid_unit) }}…
      </button>
    </p>
    <template v-else>
      <p>
        <b>{{ plain(bill.total) }} is open in accounts payable.</b> Record the payment to clear it.
      </p>
      <ChooseOne id="payment-bank" v-model="bank" label="Paid from" :options="banks" />
      <p v-for="o in bill.offers" :key="`${o.batch_id} ${o.record}`" class="offer">
        <span>
          {{ plain(o.amount) }} left the bank on {{ day(o.day) }}, “{{ o.words }}” (<RouterLink :to="`/c/${id}/sheet/${o.batch_id}?row=${o.record}`"
            >{{ o.file }}, row {{ o.record }}</RouterLink
          >)
        </span>
        <button
          class="btn prime small"
          :disabled="pay.isPending.value || !bank"
          @click="pay.mutate({ from_account: bank, batch_id: o.batch_id, record: o.record })"
        >
          Record this payment
        </button>
      </p>
      <form class="typed" @submit.prevent="pay.mutate({ from_account: bank, day: when })">
        <label for="payment-day">{{ bill.offers.length ? "Or paid on" : "Paid on" }}</label>
        <DayInput id="payment-day" v-model="when" label="Day of the payment" />
        <button class="btn small" :disabled="pay.isPending.value || !bank || !when">Record the payment</button>
      </form>
    </template>
  </section>
</template>

<style scoped>
.payment {
  margin: 0 0 10px;
  padding: 6px 10px;
  border-left: 3px solid var(--rule-firm);
}
.offer,
.typed {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
  margin: 6px 0 0;
}
</style>
