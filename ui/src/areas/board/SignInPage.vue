<script setup lang="ts">
import { useMutation, useQueryClient } from "@tanstack/vue-query";
import { ref } from "vue";
import { useRoute, useRouter } from "vue-router";
import { api, unwrap } from "../../api/client";
import RefusalBox from "../../frame/RefusalBox.vue";

const email = ref("");
const password = ref("");
const route = useRoute();
const router = useRouter();
const q = useQueryClient();
const signIn = useMutation({
  mutationFn: () => unwrap(api.POST("/api/session", { body: { email: email.value, password: password.value } })),
  onSuccess: () => {
    q.clear();
    const to = String(route.query.to ?? "/board");
    void router.push(to.startsWith("/") && !to.startsWith("//") ? to : "/board");
  },
});
</script>

<template>
  <main class="door">
    <form @submit.prevent="signIn.mutate()">
      <h1>Coat<span>rack</span></h1>
      <p class="q">Hang a client's old books up, peg by peg.</p>
      <RefusalBox :error="signIn.error.value" />
      <div class="field">
        <label for="email">E-mail</label><input id="email" v-model="email" class="input" type="email" autocomplete="username" required autofocus />
      </div>
      <div class="field">
        <label for="password">Password</label><input id="password" v-model="password" class="input" type="password" autocomplete="current-password" required />
      </div>
      <button class="btn prime" type="submit" :disabled="signIn.isPending.value">Sign in</button>
      <p class="q s">Forgot it? Whoever runs this server can set a new one.</p>
    </form>
  </main>
</template>

<style scoped>
.door {
  min-height: 100%;
  display: grid;
  place-items: center;
  background: linear-gradient(var(--walnut) 0 98px, var(--paper) 98px);
}
form {
  width: 320px;
  padding: 28px;
  background: var(--card);
  border-top: 3px solid var(--brass);
  box-shadow: 0 8px 30px #3a2b2230;
}
h1 {
  font-size: 24px;
  margin-bottom: 2px;
}
h1 span {
  color: var(--brass-text);
}
p {
  margin-bottom: 16px;
}
.s {
  margin: 14px 0 0;
}
.btn {
  width: 100%;
  height: 34px;
}
</style>
