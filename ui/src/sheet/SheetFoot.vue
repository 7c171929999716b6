<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../api/client";
import { day } from "../format";
import { figure, isCredit, isZero, plain } from "../money";

const props = defineProps<{ file: Schemas["Batch"]; open: boolean; busy: boolean }>();
const emit = defineEmits<{ take: [] }>();
const t = computed(() => props.file.reading?.totals);
const run = computed(() => (["payroll-register", "payroll-to-date", "pay-bill"].includes(props.file.purpose) ? props.file.reading?.run : undefined));
const paid = computed(() => ["vendor-payments", "prior-payments"].includes(props.file.purpose));
const st = computed(() => props.file.reading?.statement);
const refused = computed(() => (props.file.reading?.findings ?? []).some((f) => f.severity === "refuse-file"));
const unanswered = computed(() => (props.file.reading?.questions ?? []).some((q) => q.needed));
const why = computed(() => {
  if (refused.value) return "the file is refused";
  if (props.open) return unanswered.value ? "Answer the question on the right first" : "";
  return props.file.unit ? "posted" : "imported";
});
const words = computed(() =>
  t.value?.refused ? `Take in ${t.value.rows.toLocaleString("en-US")}; ${t.value.refused} held` : `Take in ${(t.value?.rows ?? 0).toLocaleString("en-US")}`,
);
</script>

<template>
  <div v-if="t" class="foot">
    <div>
      <small>rows</small><b>{{ t.rows.toLocaleString("en-US") }}</b>
    </div>
    <template v-if="t.open !== undefined && t.open !== null">
      <div class="n">
        <small>{{ paid ? "paid" : "still open" }}</small><b>{{ plain(t.open) }}</b
        ><span v-if="isCredit(t.open)" class="dc">{{ paid ? " came back" : " in their favor" }}</span>
      </div>
      <div v-if="t.printed_debit" class="n"><small>printed total</small>{{ plain(t.printed_debit) }}</div>
    </template>
    <template v-else-if="file.purpose === 'statement'">
      <div class="n">
        <small>opening</small><b>{{ st?.opening ? figure(st.opening, "overdrawn") : "–" }}</b>
      </div>
      <div class="n">
        <small>movements</small><b><span v-if="isCredit(t.difference)" class="dc">out</span>{{ plain(t.difference) }}</b>
      </div>
      <div class="n">
        <small>closing</small><b>{{ st?.closing ? figure(st.closing, "overdrawn") : "–" }}</b>
      </div>
    </template>
    <template v-else-if="file.purpose === 'bank-uncleared'">
      <div class="n">
        <small>deposits in transit</small><b>{{ plain(t.debit) }}</b>
      </div>
      <div class="n">
        <small>uncleared checks</small><b>{{ plain(t.credit) }}</b>
      </div>
    </template>
    <template v-else-if="file.purpose === 'trial-balance'">
      <div class="n">
        <small>debit</small><b>{{ plain(t.column_debit) }}</b>
      </div>
      <div class="n">
        <small>credit</small><b>{{ plain(t.column_credit) }}</b>
      </div>
      <div class="n">
        <small>difference</small><span v-if="isZero(t.difference)" class="ok">0.00 ✓</span
        ><span v-else class="bad">{{ isCredit(t.difference) ? "debit" : "credit" }} short {{ plain(t.difference) }}</span>
      </div>
      <div v-if="t.printed_debit" class="n"><small>printed total</small>{{ plain(t.printed_debit) }}</div>
    </template>
    <template v-else-if="run">
      <div>
        <small>employees</small><b>{{ run.people || "totals only" }}</b>
      </div>
      <div>
        <small>{{ file.purpose === "pay-bill" ? "bill of" : "check date" }}</small>{{ run.check_date ? day(run.check_date) : "not said" }}
      </div>
      <div v-if="file.purpose === 'pay-bill'" class="n">
        <small>total</small><b>{{ figure(run.sum) }}</b>
      </div>
      <div v-else><small>period</small>{{ run.from ? `${day(run.from)} to ${day(run.to ?? "")}` : "not said" }}</div>
    </template>
    <div v-if="file.reading?.forms?.length"><small>what they are</small>{{ file.reading.forms.join("; ") }}</div>
    <div v-if="t.refused" class="n">
      <small>held</small><span class="bad">{{ t.refused }}</span>
    </div>
    <span class="first q s">{{ why }}</span>
    <button v-if="open" class="btn prime" :disabled="refused || unanswered || busy" @click="emit('take')">{{ busy ? "taking it in…" : words }}</button>
  </div>
</template>

<style scoped>
.foot {
  position: absolute;
  left: 0;
  right: 0;
  bottom: 0;
  height: 60px;
  background: #f7f1e6;
  border-top: 1px solid var(--rule-firm);
  display: flex;
  align-items: center;
  padding: 0 17px;
  gap: 16px;
  white-space: nowrap;
  z-index: 5;
}
.foot div {
  line-height: 19px;
}
.foot small {
  display: block;
  font-size: 12px;
  line-height: 16px;
  color: var(--quiet);
}
.foot .first {
  margin-left: auto;
}
.foot .btn {
  height: 34px;
  padding: 7px 14px;
  font-size: 13.5px;
}
</style>
