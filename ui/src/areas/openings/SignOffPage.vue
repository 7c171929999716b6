<script setup lang="ts">
import { computed, ref } from "vue";
import { api, unwrap } from "../../api/client";
import { useAct, useClientId, useClientState, useSignOff, useUnits } from "../../api/queries";
import { day, moment, plural } from "../../format";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import { plain, sum } from "../../money";
import OpeningShell from "./OpeningShell.vue";

const id = useClientId();
const { data: s, isPending } = useSignOff();
const { data: state } = useClientState();
const note = ref("");
const reason = ref("");
const { data: units } = useUnits();
const sign = useAct(
  (client) => unwrap(api.POST("/api/clients/{client}/sign-off", { params: { path: { client } }, body: { note: note.value } })),
  () => (note.value = ""),
  { grave: true },
);
const unlock = useAct(
  (client) => unwrap(api.POST("/api/clients/{client}/sign-off/unlock", { params: { path: { client } }, body: { reason: reason.value } })),
  () => (reason.value = ""),
  { grave: true },
);
const takeBack = useAct(
  (client, why: string) => unwrap(api.POST("/api/clients/{client}/openings/reverse", { params: { path: { client } }, body: { note: why } })),
  undefined,
  { grave: true },
);
const name = computed(() => state.value?.client.name ?? "");
async function signIt() {
  const ok = await askFirst({
    title: `Sign off the opening of ${name.value}?`,
    facts: [
      ["Client", name.value],
      ["Locked through", day(s.value!.through)],
      ["Differences accepted", String(s.value!.accepted.length)],
      ["Posted", `debit ${plain(state.value?.strip.debit ?? "0.00")}, credit ${plain(state.value?.strip.credit ?? "0.00")}`],
    ],
    undo: "Nothing can be posted or reversed there until a reviewer or the owner unlocks it, with a reason that is kept. The signature stays in the history.",
    act: `Sign off and lock through ${day(s.value!.through)}`,
  });
  if (ok) sign.mutate(undefined);
}
// What the whole opening is: its posted batches that stand.
const standing = computed(() => (units.value ?? []).filter((u) => !u.taken_back && !u.reverses && u.area === "openings"));
async function reverseAll() {
  const a = await askFirst({
    title: `Reverse the whole opening of ${name.value}?`,
    facts: [
      ["Client", name.value],
      ["Batches", plural(standing.value.length, "batch", "batches")],
      ["Lines", String(standing.value.reduce((n, u) => n + u.lines, 0))],
      ["Amount", plain(sum(standing.value.map((u) => u.amount)))],
    ],
    undo: "Each batch is reversed, the latest first. It cannot be undone as one: each file would have to be posted again. Files, names and mappings stay.",
    reason: "Reason (kept in the history)",
    mustReason: true,
    act: `Reverse ${plural(standing.value.length, "batch", "batches")}, ${plain(sum(standing.value.map((u) => u.amount)))}`,
  });
  if (a) takeBack.mutate(a.reason);
}
const may = computed(() => ["owner", "reviewer"].includes(state.value?.client.role ?? ""));
</script>

<template>
  <OpeningShell>
    <template #tape>
      <div class="tape-hold">
        <div class="tape">
          <table aria-label="What stands in the way">
            <tbody>
              <tr>
                <td>stand in the way</td>
                <td>{{ s?.blocks.length ?? "–" }}</td>
              </tr>
              <tr>
                <td>differences accepted</td>
                <td>{{ s?.accepted.length ?? "–" }}</td>
              </tr>
              <tr class="sum">
                <td>{{ s?.signed ? "signed off" : s?.blocks.length ? "not yet" : "ready to sign" }}</td>
                <td class="amt">{{ s?.signed ? "✓" : "" }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </div>
    </template>
    <RefusalBox :error="sign.error.value ?? unlock.error.value ?? takeBack.error.value" />
    <p v-if="isPending" class="busy">looking at the proofs…</p>
    <template v-else-if="s">
      <template v-if="s.signed">
        <p class="said">
          <b>Signed off</b> by {{ s.by.name }} {{ moment(s.at ?? "") }}; everything through {{ day(s.through) }} is locked.<template v-if="s.note">
            “{{ s.note }}”</template
          >
        </p>
        <form v-if="may" class="act" @submit.prevent="unlock.mutate(undefined)">
          <div class="field">
            <label for="unlock-why">Why it is unlocked; the reason is kept</label>
            <input id="unlock-why" v-model="reason" class="input" required />
          </div>
          <button class="btn" type="submit" :disabled="!reason || unlock.isPending.value">Unlock the opening</button>
        </form>
        <p v-else class="q">A reviewer or the owner can unlock it, with a reason.</p>
      </template>
      <template v-else>
        <h2>
          {{
            s.blocks.length
              ? `${plural(s.blocks.length, "thing")} ${s.blocks.length === 1 ? "stands" : "stand"} in the way`
              : "Every proof holds or was accepted"
          }}
        </h2>
        <ul class="ways">
          <li v-for="b in s.blocks" :key="b.words">
            <RouterLink v-if="b.link" :to="`/c/${id}/${b.link}`">{{ b.words }}</RouterLink><template v-else>{{ b.words }}</template>
          </li>
        </ul>
        <form class="act" @submit.prevent="signIt">
          <div class="field">
            <label for="sign-note">A remark, if there is one</label>
            <input id="sign-note" v-model="note" class="input" />
          </div>
          <button class="btn prime" type="submit" :disabled="s.blocks.length > 0 || sign.isPending.value">
            Sign the opening off and lock through {{ day(s.through) }}
          </button>
        </form>
      </template>
      <template v-if="s.accepted.length">
        <h2 style="margin-top: 16px">Differences accepted</h2>
        <div v-for="p in s.accepted" :key="p.key" class="kv">
          <span
            >{{ p.sentence }}<br /><small class="q">{{ p.accepted?.reason }}, {{ p.accepted?.by }}</small></span
          ><span>{{ p.unit === "count" ? plain(p.difference).slice(0, -3) : plain(p.difference) }}</span>
        </div>
      </template>
      <template v-if="!s.signed && standing.length">
        <h2 style="margin-top: 22px">Reverse the whole opening</h2>
        <p class="q">Everything posted for the opening is reversed, the latest first. Files, names and mappings stay as they are.</p>
        <button class="btn" style="margin-top: 8px" :disabled="takeBack.isPending.value" @click="reverseAll">Reverse the whole opening…</button>
      </template>
    </template>
    <template #why>
      <h1>What a signature does</h1>
      <p>
        It needs every proof to hold, or to be accepted with a reason; no mark for another look; nothing held. It locks everything through the day before the
        opening day: nothing is posted there or taken back until a reviewer or the owner unlocks it with a reason.
      </p>
      <template v-if="s?.before.length">
        <h2>Signed before</h2>
        <div v-for="b in s.before" :key="b.at" class="src">
          signed {{ moment(b.at) }} by {{ b.by.name }}<br />unlocked {{ moment(b.unlocked_at) }} by {{ b.unlocked_by.name }}: {{ b.reason }}
        </div>
      </template>
      <p style="margin-top: 10px"><RouterLink :to="`/c/${id}/proof`">All proofs</RouterLink></p>
      <div class="keys">
        <span><kbd>b</kbd>books</span><span><kbd>?</kbd>keys</span>
      </div>
    </template>
  </OpeningShell>
</template>

<style scoped>
.ways {
  margin: 6px 0 14px;
  padding-left: 18px;
  line-height: 23px;
}
.act {
  max-width: 480px;
  margin-top: 8px;
}
</style>
