<script setup lang="ts">
import { computed, ref } from "vue";
import { api, unwrap } from "../../api/client";
import { useAct, useClientId, useClientState, useSignOff } from "../../api/queries";
import { day, moment, plural } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import { plain } from "../../money";
import OpeningShell from "./OpeningShell.vue";

const id = useClientId();
const { data: s, isPending } = useSignOff();
const { data: state } = useClientState();
const note = ref("");
const reason = ref("");
const back = ref(false);
const why = ref("");
const sign = useAct(
  (client) => unwrap(api.POST("/api/clients/{client}/sign-off", { params: { path: { client } }, body: { note: note.value } })),
  () => (note.value = ""),
);
const unlock = useAct(
  (client) => unwrap(api.POST("/api/clients/{client}/sign-off/unlock", { params: { path: { client } }, body: { reason: reason.value } })),
  () => (reason.value = ""),
);
const takeBack = useAct(
  (client) => unwrap(api.POST("/api/clients/{client}/openings/take-back", { params: { path: { client } }, body: { note: why.value } })),
  () => ((back.value = false), (why.value = "")),
);
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
        <form class="act" @submit.prevent="sign.mutate(undefined)">
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
      <template v-if="!s.signed">
        <h2 style="margin-top: 22px">Take all of it back</h2>
        <p class="q">Everything posted for the opening is reversed, the latest first. Files, names and mappings stay as they are.</p>
        <button v-if="!back" class="btn" style="margin-top: 8px" @click="back = true">Take the whole opening back…</button>
        <form v-else class="act" @submit.prevent="takeBack.mutate(undefined)">
          <div class="field"><label for="back-why">Why; the reason is kept</label><input id="back-why" v-model="why" class="input" required /></div>
          <span class="acts"
            ><button class="btn" type="submit" :disabled="!why || takeBack.isPending.value">Take all of it back</button
            ><button class="btn plain" type="button" @click="back = false">Keep it</button></span
          >
        </form>
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
