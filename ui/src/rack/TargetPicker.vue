<script setup lang="ts">
import { keepPreviousData, useQuery } from "@tanstack/vue-query";
import { computed, nextTick, onMounted, ref, watch } from "vue";
import { api, type Schemas, unwrap } from "../api/client";
import { useAct, useChart, useClientId } from "../api/queries";
import AccountForm from "../areas/chart/AccountForm.vue";
import type { Row } from "./rows";

const props = defineProps<{ row: Row; targets: Schemas["Target"][] }>();
const emit = defineEmits<{ take: [account: number]; close: [] }>();
const id = useClientId();
const { data: chart } = useChart();
const text = ref("");
const at = ref(0);
const creating = ref(false);
const refused = ref("");
const waiting = ref(false);
const box = ref<HTMLInputElement>();
onMounted(() => nextTick(() => box.value?.focus()));

const { data: pick, isPlaceholderData: stale } = useQuery({
  queryKey: ["client", id, "pick", computed(() => props.row.label_id), text],
  queryFn: () =>
    unwrap(
      api.GET("/api/clients/{client}/rack/{label}/targets", { params: { path: { client: id.value, label: props.row.label_id }, query: { text: text.value } } }),
    ),
  placeholderData: keepPreviousData,
});
const byId = computed(() => new Map(props.targets.map((t) => [t.id, t])));
const options = computed(() => (pick.value?.targets ?? []).map((p) => ({ ...p, t: byId.value.get(p.target_id) })).filter((o) => o.t));
const parent = computed(() => byId.value.get(pick.value?.create.parent_id ?? 0));
// While nothing is typed and nothing speaks for a target, the list only shows what could be
// right: a bare Enter takes none of it, one has to step there.
const stepped = ref(false);
const bare = computed(() => !text.value.trim() && !stepped.value && options.value[0]?.confidence === 0);
watch(text, () => ((at.value = 0), (stepped.value = false), (refused.value = ""), (waiting.value = false)));

// Typing the exact name or number of one active account counts as choosing it;
// text that names nothing is refused on the spot.
// Enter waits for the answer to what was typed: an older list is never taken from.
watch(stale, (is) => {
  if (!is && waiting.value) {
    waiting.value = false;
    enter();
  }
});
function enter() {
  if (stale.value || !pick.value) {
    waiting.value = true;
    return;
  }
  if (bare.value) {
    refused.value = "Nothing speaks for one of these. Type a number or a name, or step to one.";
    return;
  }
  if (at.value === options.value.length) {
    creating.value = true;
    return;
  }
  const exact = pick.value?.exact;
  const o = options.value[at.value];
  if (at.value === 0 && exact) emit("take", exact);
  else if (o) emit("take", o.target_id);
  else refused.value = `No account is called “${text.value}”. Create it below, or type another name.`;
}
function onKey(e: KeyboardEvent) {
  const n = options.value.length;
  if (e.key === "ArrowDown") [at.value, stepped.value] = [bare.value ? 0 : Math.min(at.value + 1, n), true];
  else if (e.key === "ArrowUp") at.value = Math.max(at.value - 1, 0);
  else if (e.key === "Enter") enter();
  else if (e.key === "Escape") emit("close");
  else return;
  e.preventDefault();
  e.stopPropagation();
}
const parts = (name: string) => {
  const i = text.value.trim() ? name.toLowerCase().indexOf(text.value.trim().toLowerCase()) : -1;
  return i < 0 ? [name, "", ""] : [name.slice(0, i), name.slice(i, i + text.value.trim().length), name.slice(i + text.value.trim().length)];
};
const made = useAct(
  async (_c, a: Schemas["Account"]) => a,
  (a) => emit("take", a.id),
);
</script>

<template>
  <input
    ref="box"
    v-model="text"
    class="input typing"
    role="combobox"
    aria-expanded="true"
    :aria-controls="`opts-${row.label_id}`"
    :aria-activedescendant="`opt-${row.label_id}-${at}`"
    :aria-label="`Target of ${row.name}: number, name, kind or role`"
    @click.stop
    @keydown="onKey"
  />
  <Teleport defer to="#picker-slot">
    <div class="list" @mousedown.prevent @click.stop>
      <div :id="`opts-${row.label_id}`" role="listbox" :aria-label="`Accounts for ${row.name}`">
        <button
          v-for="(o, i) in options"
          :id="`opt-${row.label_id}-${i}`"
          :key="o.target_id"
          role="option"
          :aria-selected="i === at && !bare"
          class="opt"
          :class="{ first: i === at && !bare }"
          tabindex="-1"
          @click="emit('take', o.target_id)"
        >
          <b>{{ o.t!.number }}</b>
          <span class="nm"
            >{{ parts(o.t!.name)[0] }}<mark v-if="parts(o.t!.name)[1]">{{ parts(o.t!.name)[1] }}</mark
            >{{ parts(o.t!.name)[2] }}</span
          >
          <span class="kd">{{ o.t!.kind }}</span><span class="ev"
            >{{ o.evidence }}{{ o.confidence ? `, ${o.confidence.toFixed(2)}` : "" }} <kbd v-if="i === at && !bare">Enter</kbd></span
          >
        </button>
        <button
          :id="`opt-${row.label_id}-${options.length}`"
          role="option"
          :aria-selected="at === options.length"
          class="opt new"
          :class="{ first: at === options.length }"
          tabindex="-1"
          @click="creating = true"
        >
          <b>+</b><span class="nm">create {{ pick?.create.number }} {{ pick?.create.name }} here</span><span class="kd">{{ pick?.create.kind }}</span
          ><span class="ev">{{ parent ? `under ${parent.number} ${parent.name}` : "at the top" }}</span>
        </button>
      </div>
      <p v-if="refused" class="bad" role="alert">{{ refused }}</p>
      <div v-if="creating && chart && pick" @mousedown.stop>
        <AccountForm
          :chart="chart"
          :start="pick.create"
          @close="
            creating = false;
            box?.focus();
          "
          @saved="(a) => made.mutate(a)"
        />
      </div>
    </div>
  </Teleport>
</template>

<style scoped>
.typing {
  border: 2px solid var(--slate);
  padding: 3px 8px;
}
.list {
  background: var(--card);
  border: 1px solid #cbbfa9;
  border-radius: 4px;
  box-shadow: 0 3px 10px #3a2b2224;
  overflow: hidden;
}
.opt {
  display: grid;
  grid-template-columns: 46px minmax(0, 1.6fr) 92px minmax(0, 1.3fr);
  width: 100%;
  height: 29px;
  align-items: center;
  border: 0;
  border-bottom: 1px solid #efe8db;
  background: none;
  font: 400 13px/20px var(--body);
  color: var(--ink);
  text-align: left;
  padding: 0 10px;
  cursor: pointer;
}
.opt b {
  font-weight: 600;
}
.opt.first {
  background: #e9eef2;
}
.kd,
.ev {
  font-size: 12px;
  color: var(--quiet);
}
.ev {
  text-align: right;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.nm {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.opt.new {
  color: var(--slate);
  border-bottom: 0;
}
.opt.new .nm {
  font-weight: 600;
}
mark {
  background: none;
  color: inherit;
  font-weight: 700;
  box-shadow: 0 1px 0 var(--brass);
}
p {
  padding: 6px 10px;
}
kbd {
  margin: 0 0 0 4px;
}
</style>
