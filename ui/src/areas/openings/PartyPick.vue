<script setup lang="ts">
import { computed, ref } from "vue";
import type { Schemas } from "../../api/client";
import { useParties } from "../../api/queries";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useMatchNames } from "./matchNames";

// Who an outside customer or vendor is here: the names near it, any known one by
// typing, or a new one of that name. Nothing is made unasked.
const props = defineProps<{ need: Schemas["PartyNeed"] }>();
const { data: parties } = useParties();
const text = ref("");
const settle = useMatchNames();
const names = computed(() => new Map((parties.value ?? []).map((p) => [p.id, p.name])));
const found = computed(() =>
  text.value.trim().length < 2
    ? []
    : (parties.value ?? []).filter((p) => p.active && p.name.toLowerCase().includes(text.value.trim().toLowerCase())).slice(0, 6),
);
const exact = computed(() => (parties.value ?? []).find((p) => p.name.toLowerCase() === text.value.trim().toLowerCase()));
const is = (party: number) => settle.mutate({ label_ids: [props.need.label_id], party_id: party });
function take() {
  const p = exact.value ?? (found.value.length === 1 ? found.value[0] : undefined);
  if (p) is(p.id);
}
</script>

<template>
  <div class="whois">
    <RefusalBox :error="settle.error.value" />
    <template v-if="need.state === 'set'">
      <p>
        It is <b>{{ need.party }}</b>, {{ need.evidence }}.
      </p>
      <button class="btn small" @click="settle.mutate({ label_ids: [need.label_id], take_back: true })">Take that back</button>
    </template>
    <template v-else>
      <p v-if="!need.matches.length" class="q">No {{ need.kind }} here has a name near it.</p>
      <div v-for="m in need.matches" :key="m.party_id" class="kv">
        <span
          >{{ names.get(m.party_id) }}<br /><small class="q">{{ m.evidence }}</small></span
        ><span><button class="btn small" @click="is(m.party_id)">It is this one</button></span>
      </div>
      <button class="btn small prime" style="margin: 10px 0" @click="settle.mutate({ label_ids: [need.label_id], make: true })">
        Make “{{ need.name }}” a new {{ need.kind }}
      </button>
      <form @submit.prevent="take">
        <label class="q s" for="who-text">or somebody else here</label>
        <input id="who-text" v-model="text" class="input" placeholder="type a name" autocomplete="off" />
      </form>
      <button v-for="p in found" :key="p.id" class="r" style="padding: 4px 0" @click="is(p.id)">
        <span>{{ p.name }}</span><span>{{ p.kinds.join(", ") }}</span>
      </button>
      <p v-if="text.trim().length > 1 && !found.length" class="warn s">Nobody here is called that.</p>
    </template>
    <p v-if="need.looks_like.length" class="q s" style="margin-top: 8px">
      Looks like {{ need.looks_like.join(", ") }} in the same lists; kept apart until you say they are one.
    </p>
  </div>
</template>
