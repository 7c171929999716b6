<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute } from "vue-router";
import { useClientId, usePayees } from "../../api/queries";
import { plural } from "../../format";
import ChooseOne from "../../frame/ChooseOne.vue";
import PileFilter from "../../frame/PileFilter.vue";
import VeilBox from "../../frame/VeilBox.vue";
import BringFile from "../../sheet/BringFile.vue";
import FileList from "../../sheet/FileList.vue";
import { purposes } from "../../sheet/meanings";
import { groupPile, paidWords } from "./payees";
import { useYear } from "./year";

// What every part of payees shares: who was paid on the left, loose ones first.
const id = useClientId();
const route = useRoute();
const year = useYear();
const { data: p } = usePayees(year);
const text = ref("");
const bringing = ref(false);
const what = ref("vendor-payments");
const all = ref<string[]>([]);
const groups = computed(() => groupPile(p.value?.payees ?? [], text.value));
const most = (words: string) => (all.value.includes(words) || text.value ? 400 : words === "No form" ? 6 : 40);
const notes: Record<string, string> = {
  "vendor-payments": "What vendors were paid: a row a payment line, or a row a payment with its split below, with how and from which account.",
  "prior-payments": "The same for the part of the year before the opening day, from the old system, so that the year is whole.",
  parties: "Vendors with what Form W-9 says: names, numbers, classes, addresses. “1099: no” in a file is read as not said.",
};
</script>

<template>
  <aside class="pile" aria-label="Payees">
    <PileFilter v-model="text" words="filter payees" />
    <template v-for="g in groups" :key="g.words">
      <div class="g">
        {{ g.words }} <span>{{ g.rows.length }}</span>
      </div>
      <RouterLink
        v-for="r in g.rows.slice(0, most(g.words))"
        :key="r.id"
        class="r"
        :class="{ on: String(route.params.payee) === String(r.id) }"
        :to="{ path: `/c/${id}/payees/${r.id}`, query: route.query }"
        ><span
          >{{ r.name }}<small>{{ r.words }}</small></span
        ><span>{{ paidWords(r.leading) }}</span></RouterLink
      >
      <p v-if="g.rows.length > most(g.words) && most(g.words) === 400" class="none q">{{ plural(g.rows.length - 400, "more payee") }}: filter by name</p>
      <button v-else-if="g.rows.length > most(g.words)" class="r more" @click="all.push(g.words)">
        <span>{{ plural(g.rows.length - most(g.words), "more payee") }}</span><span>show</span>
      </button>
    </template>
    <p v-if="p && !groups.length" class="none q">{{ text ? "No payee has that name." : "Nobody was paid in this year yet." }}</p>
    <FileList :purpose="['vendor-payments', 'prior-payments']" :filter="text" />
    <div class="bring">
      <button class="btn small" aria-haspopup="dialog" @click="bringing = true">Bring a file in</button>
    </div>
    <VeilBox v-if="bringing" words="Bring a file in" :width="520" @close="bringing = false">
      <ChooseOne id="what-payees" v-model="what" label="The file is" :options="Object.keys(notes).map((v) => ({ value: v, label: purposes[v]!.name }))" />
      <p class="q" style="margin: 0 0 14px">{{ notes[what] }} It is read on a sheet first.</p>
      <BringFile :key="what" :purpose="what" words="Choose the file"><button class="btn plain" @click="bringing = false">Cancel</button></BringFile>
    </VeilBox>
  </aside>
  <slot />
</template>

<style scoped>
.bring {
  margin: 14px 16px;
}
.none {
  padding: 8px 16px;
}
.more {
  color: var(--slate);
}
</style>
