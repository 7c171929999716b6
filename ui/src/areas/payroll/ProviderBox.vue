<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId } from "../../api/queries";
import { day, moment, plural } from "../../format";
import DayInput from "../../frame/DayInput.vue";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import VeilBox from "../../frame/VeilBox.vue";

// A provider's company stands beside the client before anything is read, and runs
// come only from the day on that was said.
const emit = defineEmits<{ close: [] }>();
const id = useClientId();
const at = (client: number) => ({ params: { path: { client } } });
const { data: addresses } = useQuery({ queryKey: ["outside-providers"], queryFn: () => unwrap(api.GET("/api/outside-providers")) });
const { data: list } = useQuery({ queryKey: ["client", id, "providers"], queryFn: () => unwrap(api.GET("/api/clients/{client}/providers", at(id.value))) });
const live = computed(() => (list.value ?? []).filter((c) => !c.ended));
const look = ref<Schemas["ProviderLook"]>();
const where = ref("");
const until = ref("");
const from = ref("");
const sure = ref(false);
const one = ref("");
const got = ref<Schemas["Pulled"]>();
const see = useAct(
  (client, address: string) => unwrap(api.GET("/api/clients/{client}/providers/look", { params: { path: { client }, query: { address } } })),
  (l, address) => ((look.value = l), (where.value = address), (from.value = l.from), (sure.value = false)),
);
const connect = useAct(
  (client) =>
    unwrap(
      api.POST("/api/clients/{client}/providers", {
        ...at(client),
        body: { address: where.value, company_id: look.value!.company.id, until: until.value, from: from.value, sure: sure.value },
      }),
    ),
  () => (look.value = undefined),
);
const end = useAct((client, connection: number) =>
  unwrap(api.DELETE("/api/clients/{client}/connections/{connection}", { params: { path: { client, connection } } })),
);
async function endIt(c: { id: number; company: { legal_name: string }; from: string }) {
  const ok = await askFirst({
    title: `Withdraw consent for ${c.company.legal_name}?`,
    facts: [["Runs", `read from ${day(c.from)} on; those that are here stay`]],
    undo: "No run is read any more. It can be connected again with a new consent.",
    act: "Withdraw consent",
  });
  if (ok) end.mutate(c.id);
}
const pull = useAct(
  (client, v: { connection: number; run?: string }) =>
    unwrap(
      api.POST("/api/clients/{client}/providers/{connection}/runs", {
        params: { path: { client, connection: v.connection } },
        body: { run: v.run || undefined },
      }),
    ),
  (r) => (got.value = r),
);
</script>

<template>
  <VeilBox words="Connected payroll provider" :width="620" @close="emit('close')">
    <RefusalBox :error="see.error.value ?? connect.error.value ?? end.error.value ?? pull.error.value" />
    <div v-for="c in live" :key="c.id">
      <div class="kv">
        <span
          >{{ c.company.legal_name }}<br /><small class="q"
            >runs from {{ day(c.from) }} on; consent by {{ c.consent_by.name }} until {{ day(c.until)
            }}<template v-if="c.pulled_at">; last read {{ moment(c.pulled_at) }}</template></small
          ></span
        >
        <span class="acts"
          ><button class="btn prime small" :disabled="pull.isPending.value" @click="pull.mutate({ connection: c.id })">
            {{ pull.isPending.value ? "reading…" : "Read new runs" }}</button
          ><button class="btn small" @click="endIt(c)">Withdraw consent…</button></span
        >
      </div>
      <form class="acts" style="margin: 10px 0" @submit.prevent="pull.mutate({ connection: c.id, run: one })">
        <label for="one-run">One run by its id, also an earlier one</label><input id="one-run" v-model="one" class="input" style="width: 150px" />
        <button class="btn small" :disabled="!one || pull.isPending.value">Bring it</button>
      </form>
    </div>
    <div v-if="got" class="said" role="status">
      <p>
        {{ plural(got.taken.length, "run") }} taken in<template v-if="got.same">, {{ got.same }} here already</template
        ><template v-if="got.before">; {{ plural(got.before, "run") }} before that day left there</template>.
      </p>
      <p v-for="s in got.on_sheet" :key="s">On the sheet: {{ s }}</p>
    </div>
    <template v-if="!live.length">
      <p v-if="!addresses?.length" class="q">No payroll provider is set up on this server. Whoever runs it names them when it is started.</p>
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
              <td class="q">finished runs</td>
              <td>{{ look.runs }}</td>
              <td>opens {{ day(look.client.opening_day) }}</td>
            </tr>
          </tbody>
        </table>
        <label v-if="look.differs.length" class="refusal" style="display: block"
          ><input v-model="sure" type="checkbox" /> {{ look.differs.join("; ") }}. It is this client's company all the same</label
        >
        <div class="acts" style="align-items: center">
          <span>Runs from</span><DayInput id="runs-from" v-model="from" label="Runs from" /> <span>Consent until</span
          ><DayInput id="pay-until" v-model="until" label="Consent until" none="its last day" />
          <button class="btn prime" type="submit" :disabled="!until || !from || (look.differs.length > 0 && !sure)">Connect it</button>
        </div>
      </form>
    </template>
  </VeilBox>
</template>
