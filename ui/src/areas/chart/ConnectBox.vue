<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";
import { api, Refusal, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId } from "../../api/queries";
import DayInput from "../../frame/DayInput.vue";
import RefusalBox from "../../frame/RefusalBox.vue";
import VeilBox from "../../frame/VeilBox.vue";
import { day, moment } from "../../format";

// The outside company stands beside the client before anything is read: choosing
// the wrong one is the costliest slip.
const emit = defineEmits<{ close: [] }>();
const id = useClientId();
const router = useRouter();
const at = (client: number) => ({ params: { path: { client } } });
const { data: addresses } = useQuery({ queryKey: ["outside-ledgers"], queryFn: () => unwrap(api.GET("/api/outside-ledgers")) });
const { data: list } = useQuery({ queryKey: ["client", id, "connections"], queryFn: () => unwrap(api.GET("/api/clients/{client}/connections", at(id.value))) });
const live = computed(() => (list.value ?? []).filter((c) => !c.ended));
const look = ref<Schemas["Look"]>();
const where = ref("");
const until = ref("");
const sure = ref(false);
const see = useAct(
  (client, address: string) => unwrap(api.GET("/api/clients/{client}/connections/look", { params: { path: { client }, query: { address } } })),
  (l, address) => ((look.value = l), (where.value = address), (sure.value = false)),
);
const connect = useAct(
  (client) =>
    unwrap(
      api.POST("/api/clients/{client}/connections", {
        ...at(client),
        body: { address: where.value, company_id: look.value!.company.id, until: until.value, sure: sure.value },
      }),
    ),
  () => (look.value = undefined),
);
const end = useAct((client, connection: number) =>
  unwrap(api.DELETE("/api/clients/{client}/connections/{connection}", { params: { path: { client, connection } } })),
);
const pull = useAct(
  (client, connection: number) => unwrap(api.POST("/api/clients/{client}/connections/{connection}/chart", { params: { path: { client, connection } } })),
  (b) => void router.push(`/c/${id.value}/sheet/${b.id}`),
);
const same = computed(() =>
  pull.error.value instanceof Refusal && pull.error.value.code === "same-file" ? "Nothing changed there since the last time it was read." : "",
);
</script>

<template>
  <VeilBox words="Connected ledger" :width="620" @close="emit('close')">
    <RefusalBox v-if="!same" :error="see.error.value ?? connect.error.value ?? end.error.value ?? pull.error.value" />
    <p v-if="same" class="said" role="status">{{ same }}</p>
    <div v-for="c in live" :key="c.id" class="kv">
      <span
        >{{ c.company.legal_name }}<br /><small class="q"
          >consent by {{ c.consent_by.name }} {{ moment(c.consent_at) }}, until {{ day(c.until)
          }}<template v-if="c.pulled_at">; last read {{ moment(c.pulled_at) }}</template></small
        ></span
      >
      <span class="acts"
        ><button class="btn prime small" :disabled="pull.isPending.value" @click="pull.mutate(c.id)">
          {{ pull.isPending.value ? "reading…" : "Read its accounts" }}</button
        ><button class="btn small" @click="end.mutate(c.id)">Withdraw consent</button></span
      >
    </div>
    <template v-if="!live.length">
      <p v-if="!addresses?.length" class="q">No outside ledger is set up on this server. Whoever runs it names them when it is started.</p>
      <div v-for="a in addresses ?? []" :key="a" class="kv">
        <span>{{ a }}</span><span><button class="btn small" @click="see.mutate(a)">Look at its company</button></span>
      </div>
      <form v-if="look" @submit.prevent="connect.mutate(undefined)">
        <table style="margin: 12px 0">
          <thead>
            <tr>
              <th></th>
              <th>There</th>
              <th>This client</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <td class="q">legal name</td>
              <td>{{ look.company.legal_name }}</td>
              <td>{{ look.client.legal_name || look.client.name }}</td>
            </tr>
            <tr>
              <td class="q">tax id, masked</td>
              <td>{{ look.company.tax_id_masked || "–" }}</td>
              <td>{{ look.client_tax_id || "not said" }}</td>
            </tr>
            <tr>
              <td class="q">currency</td>
              <td>{{ look.company.currency }}</td>
              <td>{{ look.client.currency }}</td>
            </tr>
            <tr>
              <td class="q">last entry</td>
              <td>{{ day(look.company.last_entry) }}</td>
              <td>opens {{ day(look.client.opening_day) }}</td>
            </tr>
            <tr>
              <td class="q">accounts</td>
              <td>{{ look.accounts }}</td>
              <td></td>
            </tr>
          </tbody>
        </table>
        <label v-if="look.differs.length" class="refusal" style="display: block"
          ><input v-model="sure" type="checkbox" /> {{ look.differs.join("; ") }}. It is this client's company all the same</label
        >
        <div class="acts" style="align-items: center">
          <span>Consent until</span><DayInput id="until" v-model="until" label="Consent until" none="its last day" />
          <button class="btn prime" type="submit" :disabled="!until || (look.differs.length > 0 && !sure)">Connect it</button>
        </div>
      </form>
    </template>
  </VeilBox>
</template>
