<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";
import { ref } from "vue";
import { api, unwrap } from "../../api/client";
import { useBoard, useMe } from "../../api/queries";
import { moment } from "../../format";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import TopBar from "../../frame/TopBar.vue";
import FirmRail from "./FirmRail.vue";
import FirmStrip from "./FirmStrip.vue";

const q = useQueryClient();
const { data: me } = useMe();
const { data: board } = useBoard();
const { data: tokens } = useQuery({ queryKey: ["tokens"], queryFn: () => unwrap(api.GET("/api/tokens")) });
const name = ref("");
const secret = ref("");
const old = ref("");
const next = ref("");
const again = () => q.invalidateQueries({ queryKey: ["tokens"] });
const make = useMutation({
  mutationFn: () => unwrap(api.POST("/api/tokens", { body: { name: name.value } })),
  onSuccess: (t) => {
    secret.value = t.secret ?? "";
    name.value = "";
    void again();
  },
});
const revoke = useMutation({ mutationFn: (token: number) => unwrap(api.DELETE("/api/tokens/{token}", { params: { path: { token } } })), onSuccess: again });
async function revokeIt(t: { id: number; name: string; made: string; last_used?: string }) {
  const ok = await askFirst({
    title: `Revoke the token “${t.name}”?`,
    facts: [
      ["Made", moment(t.made)],
      ["Last used", t.last_used ? moment(t.last_used) : "never"],
    ],
    undo: "This cannot be undone: a program that uses the token is refused at once and needs another.",
    act: `Revoke ${t.name}`,
  });
  if (ok) revoke.mutate(t.id);
}
const everywhere = useMutation({ mutationFn: () => unwrap(api.DELETE("/api/sessions")), onSuccess: () => location.assign("/sign-in") });
const change = useMutation({
  mutationFn: () => unwrap(api.PUT("/api/password", { body: { old: old.value, new: next.value } })),
  onSuccess: () => location.assign("/sign-in"),
});
</script>

<template>
  <div class="shell">
    <TopBar />
    <FirmRail on="account" />
    <aside class="pile" aria-label="You">
      <div class="g">You</div>
      <div class="r" style="cursor: default">
        <span
          >{{ me?.name }}<small>{{ me?.email }}</small></span
        ><span>{{ me?.role }}</span>
      </div>
    </aside>
    <main class="bench" tabindex="0">
      <div class="head">
        <h1>API tokens</h1>
        <span class="sub">a program with a token can do what you can</span>
      </div>
      <RefusalBox :error="make.error.value ?? revoke.error.value" />
      <div v-if="secret" class="said" role="status">
        This is shown once; copy it now: <code>{{ secret }}</code>
      </div>
      <table>
        <thead>
          <tr>
            <th>Name</th>
            <th>Made</th>
            <th>Last used</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="t in tokens ?? []" :key="t.id">
            <td>{{ t.name }}</td>
            <td>{{ moment(t.made) }}</td>
            <td>{{ t.last_used ? moment(t.last_used) : "never" }}</td>
            <td class="n">
              <button class="btn small" @click="revokeIt(t)">Revoke {{ t.name }}…</button>
            </td>
          </tr>
          <tr v-if="!tokens?.length">
            <td colspan="4" class="q">No tokens. Make one to use the API or apply plans.</td>
          </tr>
        </tbody>
      </table>
      <form class="line" @submit.prevent="make.mutate()">
        <label for="tname" class="sr">Name of the new token</label
        ><input id="tname" v-model="name" class="input" placeholder="what will use it" required /><button class="btn" type="submit">Make a token</button>
      </form>
      <div class="head" style="margin-top: 26px"><h1>Password</h1></div>
      <RefusalBox :error="change.error.value" />
      <form class="line" @submit.prevent="change.mutate()">
        <label for="old" class="sr">Present password</label
        ><input id="old" v-model="old" class="input" type="password" placeholder="present password" autocomplete="current-password" required />
        <label for="new" class="sr">New password</label
        ><input
          id="new"
          v-model="next"
          class="input"
          type="password"
          placeholder="new, at least 10 characters"
          autocomplete="new-password"
          minlength="10"
          required
        />
        <button class="btn" type="submit">Change it</button>
      </form>
      <div class="head" style="margin-top: 26px"><h1>Sessions</h1></div>
      <button class="btn" @click="everywhere.mutate()">Sign out everywhere</button>
    </main>
    <aside class="why" aria-label="About the API">
      <h1>The API</h1>
      <p>Everything this screen does goes through the documented API.</p>
      <p style="margin-top: 8px"><a href="/api/docs" target="_blank" rel="noopener">Read its documentation</a></p>
    </aside>
    <FirmStrip :board="board ?? []" />
  </div>
</template>

<style scoped>
.line {
  display: flex;
  gap: 8px;
  margin-top: 12px;
  max-width: 620px;
}
code {
  overflow-wrap: anywhere;
}
</style>
