<script setup lang="ts">
import Slider from "ant-design-vue/es/slider";
import { computed, ref } from "vue";
import type { Schemas } from "../api/client";
import { plural } from "../format";
import type { Row } from "./rows";

const props = defineProps<{ rows: Row[]; targets: Schemas["Target"][]; busy: boolean }>();
const emit = defineEmits<{ accept: [labels: number[], above: number]; close: [] }>();
const above = ref(0.8);
const not = ref(new Set<number>());
const byId = computed(() => new Map(props.targets.map((t) => [t.id, t])));
const list = computed(() =>
  props.rows.filter((r) => (r.suggestion?.confidence ?? 0) >= above.value).sort((a, b) => (a.suggestion?.confidence ?? 0) - (b.suggestion?.confidence ?? 0)),
);
const chosen = computed(() => list.value.filter((r) => !not.value.has(r.label_id)));
function flip(id: number) {
  const s = new Set(not.value);
  if (!s.delete(id)) s.add(id);
  not.value = s;
}
</script>

<template>
  <h1>Suggested</h1>
  <div class="sub">least certain first; untick what is wrong</div>
  <p class="q s">confidence at or above {{ above.toFixed(2) }}</p>
  <Slider v-model:value="above" :min="0.5" :max="1" :step="0.05" :tooltip-open="false" />
  <ul>
    <li v-for="r in list.slice(0, 300)" :key="r.label_id">
      <label
        ><input type="checkbox" :checked="!not.has(r.label_id)" @change="flip(r.label_id)" />
        <span
          >{{ r.number }} {{ r.name }}<br />→ <b>{{ byId.get(r.target_id)?.number }} {{ byId.get(r.target_id)?.name }}</b
          ><br /><span class="q s">{{ r.evidence }}, {{ r.suggestion?.confidence.toFixed(2) }}</span></span
        ></label
      >
    </li>
  </ul>
  <p v-if="!list.length" class="q">No suggestion is that certain; move the slider.</p>
  <div class="acts" style="margin: 10px 0; flex-wrap: wrap">
    <button
      class="btn prime"
      :disabled="!chosen.length || busy"
      @click="
        emit(
          'accept',
          chosen.map((r) => r.label_id),
          above,
        )
      "
    >
      Set {{ plural(chosen.length, "suggestion") }}
    </button>
    <button class="btn plain" @click="emit('close')">Cancel</button>
  </div>
  <p v-if="rows.length > chosen.length" class="q s">{{ rows.length - chosen.length }} stay suggested</p>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
li {
  border-bottom: 1px solid var(--rule);
  padding: 5px 0;
  line-height: 17px;
  font-size: 12.5px;
}
label {
  display: flex;
  gap: 8px;
  align-items: start;
}
</style>
