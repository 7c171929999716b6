<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { api, unwrap } from "../../api/client";
import { useClientId, useUnits } from "../../api/queries";
import { day, moment, plural } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import { useReverse } from "../../frame/reverse";
import { plain, words } from "../../money";
import FigureTable from "../../frame/FigureTable.vue";

const id = useClientId();
const { data: units, isPending } = useUnits();
const at = ref(0);
const inHand = computed(() => units.value?.find((u) => u.id === at.value) ?? units.value?.[0]);
const { data: full } = useQuery({
  queryKey: ["client", id, "unit", computed(() => inHand.value?.id ?? 0)],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/units/{unit}", { params: { path: { client: id.value, unit: inHand.value!.id } } })),
  enabled: computed(() => !!inHand.value),
});
const back = useReverse();
</script>

<template>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>Just posted</h1>
      <span class="sub">what was posted together is reversed together</span>
    </div>
    <RefusalBox :error="back.error.value" />
    <p v-if="isPending" class="busy">reading what was posted…</p>
    <div v-else-if="!units?.length" class="empty">
      <b>Nothing is posted yet</b>Posted batches are listed here, the newest first, and can be reversed here.
      <RouterLink :to="`/c/${id}/openings`">Go to the opening</RouterLink>
    </div>
    <FigureTable v-else :give="[3]">
      <thead>
        <tr>
          <th style="width: 100px">When</th>
          <th style="width: 40px">Who</th>
          <th>Batch</th>
          <th style="width: 96px">Dated</th>
          <th class="n" style="width: 60px">Lines</th>
          <th class="n" style="width: 120px">Amount</th>
          <th style="width: 112px; padding-left: 18px">State</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="u in units" :key="u.id" class="can" :class="{ hand: u.id === inHand?.id }" @click="at = u.id">
          <td>{{ moment(u.at) }}</td>
          <td>{{ u.by.initials }}</td>
          <td class="two">
            <button class="quiet-link" @click.stop="at = u.id">{{ u.title }}</button><small>{{ u.batch_name }}{{ u.note ? `; ${u.note}` : "" }}</small>
          </td>
          <td>{{ day(u.day) }}</td>
          <td class="n">{{ u.lines }}</td>
          <td class="n">{{ plain(u.amount) }}</td>
          <td style="padding-left: 18px">
            <span :class="u.taken_back || u.reverses ? 'q' : 'ok'">{{ u.taken_back ? "reversed" : u.reverses ? "a reversal" : "stands ✓" }}</span>
          </td>
        </tr>
      </tbody>
    </FigureTable>
  </main>
  <aside class="why" aria-label="The batch in hand">
    <template v-if="inHand">
      <h1>{{ inHand.title }}</h1>
      <div class="sub">{{ moment(inHand.at) }} by {{ inHand.by.name }}</div>
      <template v-if="!inHand.taken_back && !inHand.reverses">
        <button
          class="btn"
          style="margin: 8px 0; height: auto"
          :disabled="inHand.locked || back.pending.value"
          @click="back.reverse(inHand.id, inHand.title, 'It can be posted again where it was posted from.')"
        >
          {{ inHand.locked ? "In a locked month" : `${back.words(inHand.id)}…` }}
        </button>
      </template>
      <RouterLink v-if="inHand.batch_id" :to="`/c/${id}/sheet/${inHand.batch_id}`">{{ inHand.batch_name }}</RouterLink>
      <h2>{{ plural(full?.legs?.length ?? 0, "account") }} moved</h2>
      <div v-for="l in full?.legs ?? []" :key="l.account_id" class="kv">
        <RouterLink :to="`/c/${id}/books/register/${l.account_id}`">{{ l.account }}</RouterLink><span>{{ words(l.amount) }}</span>
      </div>
    </template>
    <div class="keys">
      <span><kbd>b</kbd>back to the work</span><span><kbd>?</kbd>keys</span>
    </div>
  </aside>
</template>

<style scoped>
/* In a narrow window the right pane alone shows who posted it and how many lines it has. */
@media (max-width: 1199px) {
  :is(th, td):is(:nth-child(2), :nth-child(5)) {
    display: none;
  }
}
td {
  height: 41px;
  line-height: 17px;
}
.two small {
  display: block;
  font-size: 12px;
  color: var(--quiet);
}
</style>
