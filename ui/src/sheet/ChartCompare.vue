<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, watch } from "vue";
import { api, unwrap } from "../api/client";
import { useClientId } from "../api/queries";
import { few, moment, plural } from "../format";

const props = defineProps<{ batch: number; version: number }>();
const chosen = defineModel<number[]>({ required: true });
const changes = defineModel<[string, string][]>("changes", { required: true });
const id = useClientId();
const { data: cmp } = useQuery({
  queryKey: ["client", id, "compare", computed(() => [props.batch, props.version])],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/batches/{batch}/comparison", { params: { path: { client: id.value, batch: props.batch } } })),
});
// What came from this source once and is gone there is ticked to begin with.
watch(
  () => cmp.value?.gone.filter((g) => g.came).map((g) => g.account_id ?? 0),
  (ids) => ids && (chosen.value = ids),
);
watch([() => cmp.value?.changed, chosen], () => {
  const out: [string, string][] = [];
  if (cmp.value?.changed.length) out.push(["Accounts changed", few(cmp.value.changed.map((c) => c.label))]);
  if (chosen.value.length)
    out.push(["Made inactive", few((cmp.value?.gone ?? []).filter((g) => chosen.value.includes(g.account_id ?? 0)).map((g) => g.label))]);
  changes.value = out;
});
</script>

<template>
  <section v-if="cmp" class="cmp" aria-label="What taking it in would do" tabindex="0">
    <h2>
      Taking it in adds {{ cmp.added.length }}, changes {{ cmp.changed.length }}, leaves {{ cmp.same }} as they are<template v-if="cmp.gone.length"
        >; {{ plural(cmp.gone.length, "account") }} in the ledger {{ cmp.gone.length === 1 ? "is" : "are" }} gone from the file</template
      ><template v-if="cmp.merged.length"
        >; {{ plural(cmp.merged.length, "row") }} {{ cmp.merged.length === 1 ? "is of an account" : "are of accounts" }} merged here, which
        {{ cmp.merged.length === 1 ? "stays" : "stay" }} merged</template
      >
    </h2>
    <p class="q s">{{ cmp.last_time ? `last taken in ${moment(cmp.last_time)}` : "no chart was taken in from this source before" }}</p>
    <ul>
      <li v-for="c in cmp.changed" :key="`c${c.account_id}`">
        {{ c.label }}:
        <template v-for="(x, i) in c.changes" :key="x.field"><template v-if="i">, </template>{{ x.field }} {{ x.before || "–" }} → {{ x.after }}</template>
      </li>
      <li v-for="g in cmp.gone" :key="`g${g.account_id}`">
        <label
          ><input v-model="chosen" type="checkbox" :value="g.account_id" /> {{ g.label }} is gone<template v-if="g.labels"
            >, {{ plural(g.labels, "mapping") }} would break</template
          >: make it inactive</label
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.cmp {
  flex: none;
  max-height: 24%;
  overflow: auto;
  margin-top: 8px;
  padding-top: 6px;
  border-top: 1px solid var(--rule-firm);
}
ul {
  margin: 4px 0;
  padding-left: 18px;
}
li {
  line-height: 21px;
}
</style>
