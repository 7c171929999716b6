<script setup lang="ts">
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import Progress from "ant-design-vue/es/progress";
import { computed, watch } from "vue";
import { api, unwrap } from "../api/client";
import { useAct, useClientId } from "../api/queries";

// A long act that runs behind: how far it is, and a way to stop it. It goes on if
// one leaves the screen.
const props = defineProps<{ act: number }>();
const emit = defineEmits<{ over: [done: boolean] }>();
const id = useClientId();
const q = useQueryClient();
const path = computed(() => ({ params: { path: { client: id.value, act: props.act } } }));
const { data: a } = useQuery({
  queryKey: ["act", id, computed(() => props.act)],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/acts/{act}", path.value)),
  refetchInterval: (query) => (["waiting", "running"].includes(query.state.data?.state ?? "waiting") ? 500 : false),
});
const cancel = useAct(() => unwrap(api.DELETE("/api/clients/{client}/acts/{act}", path.value)));
watch(
  () => a.value?.state,
  async (s) => {
    if (s !== "done" && s !== "cancelled") return;
    await q.invalidateQueries({ queryKey: ["client"] });
    emit("over", s === "done");
  },
);
</script>

<template>
  <div v-if="a?.state === 'failed'" class="refusal" role="alert">
    {{ a.problem?.message }} <button class="linkish" @click="emit('over', false)">close</button>
  </div>
  <div v-else class="said" role="status">
    {{ a?.words || "waiting" }}…
    <Progress
      :percent="a?.total ? Math.round((100 * a.done) / a.total) : 0"
      size="small"
      :show-info="false"
      style="width: 160px; display: inline-block; margin: 0 10px"
    />
    <button class="linkish" @click="cancel.mutate(undefined)">cancel</button>
  </div>
</template>
