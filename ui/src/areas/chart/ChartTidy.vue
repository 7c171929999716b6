<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId } from "../../api/queries";
import ChooseOne from "../../frame/ChooseOne.vue";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import { words } from "../../money";

// Tidying the account in hand: what still uses it, pin it, move it under another
// parent, merge it into another.
const props = defineProps<{ account: Schemas["Account"]; accounts: Schemas["Account"][] }>();
const id = useClientId();
const doing = ref<"" | "merge" | "move">("");
const to = ref(0);
watch(
  () => props.account.id,
  () => ((doing.value = ""), (to.value = 0)),
);
const { data: uses } = useQuery({
  queryKey: ["client", id, "uses", computed(() => props.account.id)],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/accounts/{account}/uses", { params: { path: { client: id.value, account: props.account.id } } })),
});
const path = (client: number) => ({ path: { client, account: props.account.id } });
const merge = useAct(
  (client, into: number) => unwrap(api.POST("/api/clients/{client}/accounts/{account}/merge", { params: path(client), body: { into } })),
  () => (doing.value = ""),
  { grave: true },
);
async function mergeIt() {
  const into = props.accounts.find((a) => a.id === to.value);
  if (!into) return;
  const ok = await askFirst({
    title: `Merge ${name(props.account)} into ${name(into)}?`,
    facts: [
      ["Becomes inactive", `${name(props.account)}, balance ${words(props.account.balance)}`],
      ["Takes its mappings", `${name(into)}, balance ${words(into.balance)}`],
      ["Mappings", String(uses.value?.labels.length ?? 0)],
    ],
    undo: "This cannot be undone as one: the account can be made active again, but each mapping would have to be set back. Posted entries stay where they are.",
    act: `Merge into ${name(into)}`,
  });
  if (ok) merge.mutate(into.id);
}
const move = useAct(
  (client, parent: number) => unwrap(api.POST("/api/clients/{client}/accounts/{account}/move", { params: path(client), body: { parent } })),
  () => (doing.value = ""),
  {
    undo: (_v, client) => {
      const [where, was] = [path(client), props.account];
      return {
        words: `${was.name} moved`,
        run: () => unwrap(api.POST("/api/clients/{client}/accounts/{account}/move", { params: where, body: { parent: was.parent_id } })),
      };
    },
  },
);
const pin = useAct(
  (client, pinned: boolean) => unwrap(api.POST("/api/clients/{client}/accounts/{account}/pin", { params: path(client), body: { pinned } })),
  undefined,
  {
    undo: (pinned, client) => {
      const where = path(client);
      return {
        words: `${props.account.name} ${pinned ? "pinned" : "unpinned"}`,
        run: () => unwrap(api.POST("/api/clients/{client}/accounts/{account}/pin", { params: where, body: { pinned: !pinned } })),
      };
    },
  },
);
const name = (a: Schemas["Account"]) => `${a.number} ${a.name}`.trim();
const others = computed(() => props.accounts.filter((a) => a.id !== props.account.id && a.active && (!props.account.kind || a.kind === props.account.kind)));
</script>

<template>
  <h2>Tidy</h2>
  <p v-if="uses" class="q">{{ uses.words }}</p>
  <RefusalBox :error="merge.error.value ?? move.error.value ?? pin.error.value" />
  <div class="tools">
    <button class="btn small" @click="pin.mutate(!account.pinned)">{{ account.pinned ? "Unpin" : "Pin on top of pickers" }}</button>
    <button class="btn small" :aria-expanded="doing === 'move'" @click="doing = doing === 'move' ? '' : 'move'">Move under…</button>
    <button v-if="account.active" class="btn small" :aria-expanded="doing === 'merge'" @click="doing = doing === 'merge' ? '' : 'merge'">Merge into…</button>
  </div>
  <form v-if="doing" style="margin-top: 8px" @submit.prevent="doing === 'move' ? move.mutate(to) : mergeIt()">
    <ChooseOne
      id="tidy-to"
      v-model="to"
      :label="doing === 'move' ? 'It stands under' : 'Merge it into'"
      :options="[{ value: 0, label: doing === 'move' ? 'nothing, at the top' : 'choose an account' }, ...others.map((a) => ({ value: a.id, label: name(a) }))]"
    />
    <p v-if="doing === 'merge' && uses" class="q s" style="margin-bottom: 6px">
      Mappings follow<template v-if="uses.labels.length"> ({{ uses.labels.join(", ") }})</template>, posted entries stay; it becomes inactive.
    </p>
    <button class="btn prime small" type="submit" :disabled="doing === 'merge' && !to">{{ doing === "move" ? "Move it" : "Merge it" }}</button>
  </form>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-top: 6px;
}
</style>
