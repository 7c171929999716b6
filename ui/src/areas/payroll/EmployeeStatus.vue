<script setup lang="ts">
import { computed } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import RefusalBox from "../../frame/RefusalBox.vue";

// What the law treats otherwise in one employee: set by a person, undone by one key.
const props = defineProps<{ employee: Schemas["FormPerson"]; statuses: Schemas["PayStatus"][] }>();
const set = computed(() => props.employee.status);
const put = (client: number, employee: number, status: string[]) =>
  unwrap(api.PUT("/api/clients/{client}/payroll/employees/{employee}/status", { params: { path: { client, employee } }, body: { status } }));
const say = useAct((client, status: string[]) => put(client, props.employee.id, status), undefined, {
  undo: (_v, client) => {
    const [who, was] = [props.employee.id, [...set.value]];
    return { words: `the status of ${props.employee.name}`, run: () => put(client, who, was) };
  },
});
const turn = (s: string) => say.mutate(set.value.includes(s) ? set.value.filter((x) => x !== s) : [...set.value, s]);
</script>

<template>
  <h2>Treated otherwise by law</h2>
  <p class="q">None of these is guessed. What you set holds for every year's forms and for the checks of each run.</p>
  <label v-for="s in statuses" :key="s.status" class="one">
    <input type="checkbox" :checked="set.includes(s.status)" :disabled="say.isPending.value" @change="turn(s.status)" />
    <span
      >{{ s.words }}<small class="q"><br />{{ s.effect }} ({{ s.source }}{{ s.mark === "check" ? "; not verified against the form" : "" }})</small></span
    >
  </label>
  <RefusalBox :error="say.error.value" />
</template>

<style scoped>
.one {
  display: flex;
  gap: 8px;
  align-items: flex-start;
  padding: 4px 0;
  line-height: 17px;
}
.one input {
  margin-top: 2px;
}
</style>
