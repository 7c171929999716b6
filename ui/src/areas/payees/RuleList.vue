<script setup lang="ts">
import { ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import ChooseOne from "../../frame/ChooseOne.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import { plain, typed } from "../../money";

// The thresholds of the year with their source; a ledger may have its own, with a reason.
const props = defineProps<{ payees: Schemas["Payees"] }>();
const own = ref(false);
const box = ref("NEC 1");
const amount = ref("");
const why = ref("");
const say = useAct(
  (client, body: Schemas["OwnThreshold"]) => unwrap(api.PUT("/api/clients/{client}/payees/thresholds", { params: { path: { client } }, body })),
  () => ((own.value = false), (amount.value = why.value = "")),
  {
    undo: (v, client) => {
      const was = props.payees.rules.find((r) => r.box === v.box);
      return {
        words: `threshold of ${v.box}`,
        run: () =>
          unwrap(
            api.PUT("/api/clients/{client}/payees/thresholds", {
              params: { path: { client } },
              body: { year: v.year, box: v.box, amount: (was?.override ? was.threshold : null) as never, reason: was?.override || v.reason },
            }),
          ),
      };
    },
  },
);
const send = (a: string | null) => say.mutate({ year: props.payees.year, box: box.value, amount: a as never, reason: why.value });
</script>

<template>
  <h1>The rules of {{ payees.year }}</h1>
  <p class="sub">Per payee and box over the year, met at or above. Backup withholding {{ payees.withholding_rate }}.</p>
  <template v-for="r in payees.rules" :key="r.box">
    <div v-if="!r.by_hand" class="kv">
      <span
        ><b>{{ r.box }}</b> {{ r.caption }}<br /><small class="q"
          >{{ r.override ? `this ledger's own: ${r.override}` : r.source }}{{ r.mark === "check" ? ". Not verified against the form" : "" }}</small
        ></span
      ><span>{{ r.none ? "none" : plain(r.threshold) }}</span>
    </div>
  </template>
  <RefusalBox :error="say.error.value" />
  <button class="btn small plain" style="margin-top: 8px; align-self: start" :aria-expanded="own" @click="own = !own">A threshold of our own</button>
  <form v-if="own" @submit.prevent="send(typed(amount) ?? amount)">
    <ChooseOne id="own-box" v-model="box" label="Box" :options="payees.rules.filter((r) => !r.by_hand).map((r) => ({ value: r.box, label: r.box }))" />
    <div class="field">
      <label for="own-amt">Threshold in {{ payees.year }}</label
      ><input id="own-amt" v-model="amount" class="input n" />
    </div>
    <div class="field"><label for="own-why">because</label><input id="own-why" v-model="why" class="input" /></div>
    <div class="acts">
      <button class="btn small prime" :disabled="!amount || !why.trim()">Keep it</button>
      <button type="button" class="btn small plain" @click="send(null)">Back to the rulebook</button>
    </div>
  </form>
</template>
