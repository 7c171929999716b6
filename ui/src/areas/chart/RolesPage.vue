<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useClientState, useRoles } from "../../api/queries";
import { plural } from "../../format";
import RefusalBox from "../../frame/RefusalBox.vue";
import FigureTable from "../../frame/FigureTable.vue";

// What this client's ledger cannot do without, against what the chart has: give a
// role to an account that is there, or make one, all in one act.
const id = useClientId();
const { data: roles, isPending } = useRoles();
const { data: state } = useClientState();
const answer = ref<Record<string, number>>({}); // role → account, 0 makes one, -1 not now
const missing = computed(() => (roles.value ?? []).filter((r) => !r.holder));
const held = computed(() => (roles.value ?? []).filter((r) => r.holder));
watch(
  missing,
  (ms) => {
    for (const m of ms) answer.value[m.role] ??= m.sure ? m.candidates[0]!.id : m.candidates.length ? -1 : 0;
  },
  { immediate: true },
);
const gifts = computed(() =>
  missing.value.filter((m) => (answer.value[m.role] ?? -1) >= 0).map((m) => ({ role: m.role, account_id: answer.value[m.role] || undefined })),
);
const sure = ref(false);
const give = useAct(
  (client, roles: Schemas["RoleGift"][]) => unwrap(api.PUT("/api/clients/{client}/roles", { params: { path: { client } }, body: { roles } })),
  () => (sure.value = false),
  {
    // An account that was created becomes inactive; one that was chosen has the role it had before.
    undo: (gifts, client, result) => {
      const before = missing.value.flatMap((m) => m.candidates);
      return {
        words: plural(gifts.length, "required account"),
        run: async () => {
          for (const g of gifts) {
            const now = result()?.find((r) => r.role === g.role)?.holder;
            if (!now) continue;
            const { number, name, kind, sort, parent_id, tax_code, note } = now;
            const was = g.account_id ? before.find((a) => a.id === g.account_id) : undefined;
            await unwrap(
              api.PUT("/api/clients/{client}/accounts/{account}", {
                params: { path: { client, account: now.id } },
                body: { version: now.version, account: { number, name, kind, sort, parent_id, tax_code, note, role: was?.role ?? "", active: !!g.account_id } },
              }),
            );
          }
        },
      };
    },
  },
);
const makes = computed(() => gifts.value.filter((g) => !g.account_id).length);
</script>

<template>
  <aside class="pile" aria-label="Roles">
    <div class="g">Chart</div>
    <RouterLink class="r" :to="`/c/${id}/chart`"><span>All accounts</span><span /></RouterLink>
    <RouterLink class="r on" :to="`/c/${id}/chart/roles`"
      ><span>Roles</span><span>{{ missing.length ? `${missing.length} missing` : "all held" }}</span></RouterLink
    >
  </aside>
  <main class="bench" tabindex="0">
    <div class="head">
      <h1>Roles</h1>
      <span class="sub">{{ state?.client.entity_class }}</span>
      <div class="acts">
        <button
          v-if="missing.length"
          class="btn prime"
          :disabled="!gifts.length || give.isPending.value"
          @click="give.mutate(gifts.map((g) => ({ ...g, sure })))"
        >
          Give {{ plural(gifts.length, "role") }}<template v-if="makes">, making {{ plural(makes, "account") }}</template>
        </button>
      </div>
    </div>
    <RefusalBox :error="give.error.value" />
    <label v-if="give.error.value && (give.error.value as { code?: string }).code === 'look-first'" class="said" style="display: block"
      ><input v-model="sure" type="checkbox" /> I am sure; give it all the same</label
    >
    <p v-if="isPending" class="busy">comparing…</p>
    <template v-else>
      <FigureTable v-if="missing.length" class="roles" :give="[1, 2, 3]">
        <thead>
          <tr>
            <th style="width: 200px">Missing</th>
            <th>Why</th>
            <th style="width: 290px">Given to</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="m in missing" :key="m.role">
            <td>{{ m.role }}</td>
            <td class="q">{{ m.why }}</td>
            <td>
              <label class="sr" :for="`role-${m.role}`">{{ m.role }} goes to</label>
              <select :id="`role-${m.role}`" v-model.number="answer[m.role]" class="input">
                <option v-for="c in m.candidates" :key="c.id" :value="c.id">{{ c.number }} {{ c.name }}</option>
                <option :value="0">make {{ m.propose?.number }} {{ m.propose?.name }}{{ m.parent ? `, under ${m.parent}` : "" }}</option>
                <option :value="-1">{{ m.candidates.length ? "choose one, or not now" : "not now" }}</option>
              </select>
            </td>
          </tr>
        </tbody>
      </FigureTable>
      <p v-else class="said">Every role this client needs is held.</p>
      <h2 style="margin: 18px 0 4px">Held</h2>
      <FigureTable class="roles">
        <tbody>
          <tr v-for="h in held" :key="h.role">
            <td style="width: 200px">{{ h.role }}</td>
            <td class="q">{{ h.why }}</td>
            <td style="width: 290px">{{ h.holder?.number }} {{ h.holder?.name }}</td>
          </tr>
        </tbody>
      </FigureTable>
    </template>
  </main>
  <aside class="why" aria-label="Why roles">
    <h1>What roles are for</h1>
    <p>
      A role is a duty that the ledger cannot do without: where open items are kept, where a year closes to, what payroll owes. Which ones a client needs
      follows from its entity class, its method and the work it needs.
    </p>
    <p style="margin-top: 8px">An account holds one role. An account that has postings is asked about before it takes one.</p>
  </aside>
</template>

<style scoped>
.roles {
}
.roles td {
  white-space: normal;
  height: 36px;
  line-height: 17px;
}
</style>
