<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from "vue";
import { api, Refusal, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import ChooseOne from "../../frame/ChooseOne.vue";
import RefusalBox from "../../frame/RefusalBox.vue";

const props = defineProps<{ chart: Schemas["Chart"]; account?: Schemas["Account"]; start?: Schemas["Account"] }>();
const emit = defineEmits<{ close: []; saved: [a: Schemas["Account"]] }>();
const from = props.account ?? props.start;
const f = ref({
  number: from?.number ?? "",
  name: from?.name ?? "",
  kind: from?.kind ?? "",
  sort: from?.sort ?? "",
  parent_id: from?.parent_id ?? 0,
  active: from?.active ?? true,
  role: from?.role ?? "",
  tax_code: from?.tax_code ?? "",
  note: from?.note ?? "",
});
const reason = ref("");
const first = ref<HTMLInputElement>();
onMounted(() => nextTick(() => first.value?.focus()));
const sorts = computed(() => props.chart.kinds.find((k) => k.kind === f.value.kind)?.sorts ?? []);
watch(
  () => f.value.kind,
  () => !sorts.value.includes(f.value.sort) && (f.value.sort = ""),
);
const parents = computed(() => props.chart.accounts.filter((a) => a.id !== props.account?.id && a.active && (!f.value.kind || a.kind === f.value.kind)));

const save = useAct(
  (client) =>
    props.account
      ? unwrap(
          api.PUT("/api/clients/{client}/accounts/{account}", {
            params: { path: { client, account: props.account.id } },
            body: { version: props.account.version, account: f.value, reason: reason.value || undefined },
          }),
        )
      : unwrap(api.POST("/api/clients/{client}/accounts", { params: { path: { client } }, body: f.value })),
  (a) => emit("saved", a),
  {
    undo: (_v, client, result) => {
      const was = props.account;
      const before = was && {
        number: was.number,
        name: was.name,
        kind: was.kind,
        sort: was.sort,
        parent_id: was.parent_id,
        active: was.active,
        role: was.role,
        tax_code: was.tax_code,
        note: was.note,
      };
      const why = reason.value;
      return {
        words: `${f.value.number} ${f.value.name}`.trim(),
        run: async () => {
          const now = result();
          // An account that was created is made inactive; one that was changed is as it was.
          if (now)
            await unwrap(
              api.PUT("/api/clients/{client}/accounts/{account}", {
                params: { path: { client, account: now.id } },
                body: { version: now.version, account: before ?? { ...f.value, active: false, role: "" }, reason: why || undefined },
              }),
            );
        },
      };
    },
  },
);
const needsReason = computed(() => save.error.value instanceof Refusal && save.error.value.code === "kind-moves-balance");
</script>

<template>
  <form class="acc" :aria-label="account ? `Edit ${account.name}` : 'New account'" @submit.prevent="save.mutate(undefined)" @keydown.esc.stop="emit('close')">
    <RefusalBox :error="save.error.value" />
    <div class="row">
      <div class="field num"><label for="a-num">Number</label><input id="a-num" ref="first" v-model="f.number" class="input" maxlength="30" /></div>
      <div class="field wide"><label for="a-name">Name</label><input id="a-name" v-model="f.name" class="input" required maxlength="200" /></div>
      <ChooseOne id="a-kind" v-model="f.kind" label="Kind" :options="chart.kinds.map((k) => ({ value: k.kind, label: k.kind }))" />
      <ChooseOne id="a-sort" v-model="f.sort" label="Sort" :options="[{ value: '', label: 'by name' }, ...sorts.map((s) => ({ value: s, label: s }))]" />
    </div>
    <div class="row">
      <ChooseOne
        id="a-parent"
        v-model="f.parent_id"
        class="wide"
        label="Stands under"
        :options="[{ value: 0, label: 'nothing, at the top' }, ...parents.map((p) => ({ value: p.id, label: `${p.number} ${p.name}`.trim() }))]"
      />
      <ChooseOne
        id="a-role"
        v-model="f.role"
        class="wide"
        label="Role"
        :options="[{ value: '', label: 'none' }, ...chart.roles.map((r) => ({ value: r, label: r }))]"
      />
      <div class="field num"><label for="a-tax">Tax code</label><input id="a-tax" v-model="f.tax_code" class="input" /></div>
      <label v-if="account" class="check"><input v-model="f.active" type="checkbox" /> active</label>
    </div>
    <div v-if="needsReason" class="field"><label for="a-reason">Why the kind changes</label><input id="a-reason" v-model="reason" class="input" /></div>
    <div class="acts">
      <button class="btn prime small" type="submit" :disabled="save.isPending.value">{{ account ? "Save the account" : "Make the account" }}</button><button
        class="btn plain small"
        type="button"
        @click="emit('close')"
      >
        Cancel
      </button>
    </div>
  </form>
</template>

<style scoped>
.acc {
  padding: 12px 12px 14px;
  background: var(--hand);
  border-bottom: 1px solid var(--rule-firm);
}
.row {
  display: flex;
  gap: 10px;
  align-items: end;
}
.field {
  flex: 1;
  min-width: 0;
}
.wide {
  flex: 2;
}
.num {
  flex: 0 0 92px;
}
.check {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-bottom: 16px;
}
</style>
