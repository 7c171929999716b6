<script setup lang="ts">
import { useQuery } from "@tanstack/vue-query";
import { computed, watch } from "vue";
import { api, type Schemas, unwrap } from "../api/client";
import { useChart, useClientId } from "../api/queries";
import ChooseOne from "../frame/ChooseOne.vue";
import { day, few, plural } from "../format";
import { figure } from "../money";
import CrosswalkCompare from "./CrosswalkCompare.vue";

// What taking a list in would do, held against what is here: parties new,
// changed and alike; a crosswalk's rows; the bank account that bank items and
// statements belong to.
const props = defineProps<{ file: Schemas["Batch"] }>();
const account = defineModel<number>("account", { required: true });
const same = defineModel<Record<string, number>>("same", { required: true });
const gone = defineModel<"" | "keep" | "drop">("gone", { required: true });
const changes = defineModel<[string, string][]>("changes", { required: true });
const emit = defineEmits<{ fix: [f: Schemas["Fix"]] }>();
const id = useClientId();
const { data: chart } = useChart();
const bank = computed(() => ["bank-uncleared", "statement"].includes(props.file.purpose));
const banks = computed(() =>
  (chart.value?.accounts ?? []).filter((a) => a.sort === "bank" && a.active).map((a) => ({ value: a.id, label: `${a.number} ${a.name}`.trim() })),
);
const at = computed(() => ({ params: { path: { client: id.value, batch: props.file.id } } }));
const key = computed(() => [props.file.id, props.file.version]);
const { data: parties } = useQuery({
  queryKey: ["client", id, "compare-parties", key],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/batches/{batch}/party-comparison", at.value)),
  enabled: computed(() => props.file.purpose === "parties"),
});
const { data: walk } = useQuery({
  queryKey: ["client", id, "compare-crosswalk", key],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/batches/{batch}/crosswalk", at.value)),
  enabled: computed(() => props.file.purpose === "crosswalk"),
});
const { data: paid } = useQuery({
  queryKey: ["client", id, "compare-payments", key],
  queryFn: () => unwrap(api.GET("/api/clients/{client}/batches/{batch}/payments", at.value)),
  enabled: computed(() => ["vendor-payments", "prior-payments"].includes(props.file.purpose) && props.file.state === "sheet"),
});
const alike = computed(() => (parties.value?.lines ?? []).filter((l) => l.what === "looks like"));
const changed = computed(() => (parties.value?.lines ?? []).filter((l) => l.what === "changed"));
watch([changed, walk, same], () => {
  const names = changed.value.map((l) => l.name);
  const alike = Object.keys(same.value).length;
  const set = (walk.value ?? []).filter((l) => l.what === "changes").map((l) => l.old);
  const out: [string, string][] = [];
  if (names.length) out.push(["Names changed", few(names)]);
  if (alike) out.push(["Merged by your tick", plural(alike, "row")]);
  if (set.length) out.push(["Mapped differently", few(set)]);
  changes.value = out;
});
const count = (what: string) => parties.value?.counts[what] ?? 0;
function tell(record: number, party: number, yes: boolean) {
  const next = { ...same.value };
  if (yes) next[String(record)] = party;
  else delete next[String(record)];
  same.value = next;
}
</script>

<template>
  <section v-if="bank || parties || walk || paid" class="cmp" aria-label="What taking it in would do" tabindex="0">
    <div v-if="bank" class="which">
      <ChooseOne
        id="bank-account"
        :model-value="account || file.account_id || (banks.length === 1 ? banks[0]!.value : 0)"
        label="It belongs to the bank account"
        :options="[{ value: 0, label: 'choose the account' }, ...banks]"
        @update:model-value="(v) => (account = Number(v))"
      />
      <p class="q s">
        {{ file.purpose === "statement" ? "The closing balance is kept as what the bank says." : "They are kept with date, number and payee, and post nothing."
        }}<template v-if="file.reading?.columns?.some((c) => c.meaning === 'bank-account')"> An item whose row names an account goes to that account.</template>
      </p>
    </div>
    <template v-else-if="parties">
      <h2>
        Taking it in makes {{ count("new") + alike.length - Object.keys(same).length }}, changes {{ count("changed") }}, leaves {{ count("same") }} as they are
      </h2>
      <ul>
        <li v-for="l in alike" :key="l.record">
          <label
            ><input
              type="checkbox"
              :checked="same[String(l.record)] === l.party_id"
              @change="(e) => tell(l.record, l.party_id ?? 0, (e.target as HTMLInputElement).checked)"
            />
            Row {{ l.record }}, {{ l.name }}, looks like {{ l.party }} ({{ l.evidence }}): it is the same</label
          >
        </li>
        <li v-for="l in changed" :key="`c${l.record}`">
          {{ l.party }}:
          <template v-for="(x, i) in l.changes" :key="x.field"><template v-if="i">, </template>{{ x.field }} {{ x.before || "–" }} → {{ x.after }}</template>
        </li>
      </ul>
    </template>
    <template v-else-if="paid">
      <h2>Taking it in adds {{ plural(paid.new, "payment line") }}, changes {{ paid.changed }}, leaves {{ paid.unchanged }} as they are</h2>
      <div v-if="paid.gone" class="which">
        <ChooseOne
          id="gone-lines"
          v-model="gone"
          :label="`${plural(paid.gone, 'earlier line')} of these days not in this file`"
          :options="[
            { value: '', label: 'say what they are' },
            { value: 'keep', label: 'other payments: they still count' },
            { value: 'drop', label: 'replaced by this file: they no longer count' },
          ]"
        />
        <p class="q s">
          A file of another bank account or card leaves them standing; a corrected export of the same payments replaces them. Nothing is deleted.
        </p>
      </div>
      <p v-if="paid.clash" class="warn">
        {{ plural(paid.clash, "line") }} of the same day, vendor and amount came from another source too; they would be counted twice. Set one aside.
      </p>
      <ul>
        <li v-for="g in paid.gone_lines" :key="g.day + g.reference + g.amount">
          {{ [day(g.day), g.reference, g.memo].filter(Boolean).join(", ") }}: <b>{{ figure(g.amount, "back") }}</b>
        </li>
      </ul>
    </template>
    <CrosswalkCompare v-else-if="walk" :lines="walk" :file="file" @fix="(f) => emit('fix', f)" />
  </section>
</template>

<style scoped>
.cmp {
  flex: none;
  max-height: 26%;
  overflow: auto;
  margin-top: 8px;
  padding-top: 6px;
  border-top: 1px solid var(--rule-firm);
}
.which {
  display: grid;
  grid-template-columns: 300px 1fr;
  gap: 14px;
  align-items: end;
}
.which p {
  padding-bottom: 14px;
}
ul {
  margin: 4px 0;
  padding-left: 18px;
}
li {
  line-height: 21px;
}
</style>
