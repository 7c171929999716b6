<script setup lang="ts">
import { reactive } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId } from "../../api/queries";
import RefusalBox from "../../frame/RefusalBox.vue";
import PartyMerge from "./PartyMerge.vue";

// One that is here, or without it a new one.
const props = defineProps<{ party?: Schemas["Party"] }>();
const emit = defineEmits<{ made: [id: number] }>();
const id = useClientId();
const f = reactive({
  name: props.party?.name ?? "",
  trade_name: props.party?.trade_name ?? "",
  terms: props.party?.terms ?? "",
  address: props.party?.address ?? "",
  email: props.party?.email ?? "",
  telephone: props.party?.telephone ?? "",
  kinds: [...(props.party?.kinds ?? [])],
});
const fields = [
  ["name", "Name"],
  ["trade_name", "Trade name"],
  ["terms", "Terms, as in Net 30"],
  ["address", "Address"],
  ["email", "E-mail"],
  ["telephone", "Telephone"],
] as const;
const save = useAct(
  (client) =>
    unwrap(
      props.party
        ? api.PUT("/api/clients/{client}/parties/{party}", {
            params: { path: { client, party: props.party.id } },
            body: { version: props.party.version, party: { ...f, class: props.party.class, note: props.party.note } },
          })
        : api.POST("/api/clients/{client}/parties", { params: { path: { client } }, body: { ...f } }),
    ),
  (p) => props.party ?? emit("made", p.id),
  {
    undo: (_v, client, result) => {
      const was = props.party;
      if (!was) {
        const body = { ...f, set_active: false };
        return {
          words: f.name,
          // One that was created becomes inactive.
          run: async () => {
            const made = result();
            if (made)
              await unwrap(
                api.PUT("/api/clients/{client}/parties/{party}", {
                  params: { path: { client, party: made.id } },
                  body: { version: made.version, party: body },
                }),
              );
          },
        };
      }
      const { name, trade_name, terms, address, email, telephone, kinds, note } = was;
      return {
        words: was.name,
        run: async () => {
          const now = result();
          if (now)
            await unwrap(
              api.PUT("/api/clients/{client}/parties/{party}", {
                params: { path: { client, party: was.id } },
                body: { version: now.version, party: { name, trade_name, terms, address, email, telephone, kinds, class: was.class, note } },
              }),
            );
        },
      };
    },
  },
);
</script>

<template>
  <form @submit.prevent="save.mutate(undefined)">
    <h1>{{ party ? party.name : "New customer or vendor" }}</h1>
    <div v-if="party" class="sub">
      {{ party.kinds.join(", ") }}<template v-if="party.outside_ids.length">, {{ party.outside_ids.join(", ") }} outside</template>
    </div>
    <RefusalBox :error="save.error.value" />
    <div v-for="[k, words] in fields" :key="k" class="field">
      <label :for="`party-${k}`">{{ words }}</label>
      <input :id="`party-${k}`" v-model="f[k]" class="input" :required="k === 'name'" />
    </div>
    <fieldset class="field" style="border: 0; padding: 0; margin: 0 0 10px">
      <label><input v-model="f.kinds" type="checkbox" value="customer" /> customer</label>
      <label><input v-model="f.kinds" type="checkbox" value="vendor" /> vendor</label>
    </fieldset>
    <p v-if="!f.kinds.length" class="q s" style="margin-bottom: 8px">Say whether it is a customer, a vendor, or both.</p>
    <button class="btn prime small" type="submit" :disabled="save.isPending.value || !f.kinds.length">{{ party ? "Save" : "Make it" }}</button>
    <RouterLink v-if="party" class="s" style="margin-left: 10px" :to="`/c/${id}/books/party/${party.id}`">its open items</RouterLink>
    <p v-if="save.isSuccess.value" class="ok s" role="status" style="margin-top: 6px">Saved.</p>
  </form>
  <PartyMerge v-if="party" :party="party" />
</template>
