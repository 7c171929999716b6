<script setup lang="ts">
import { computed, ref } from "vue";
import { plural } from "../format";
import { choosable, type Offer } from "./offers";

// The suggestions at or above a confidence, before any is set: the least certain first,
// then, unticked, those that the chart's own words speak against.
const props = defineProps<{ offers: Offer[]; busy: boolean; from?: number }>();
const emit = defineEmits<{ accept: [keys: string[], above: number]; close: [] }>();
const above = ref(props.from ?? 0.75);
const flipped = ref(new Set<string>());
const list = computed(() => choosable(props.offers, above.value));
const ticked = (o: Offer) => flipped.value.has(o.key) !== !o.doubt;
const chosen = computed(() => list.value.filter(ticked));
function flip(key: string) {
  const s = new Set(flipped.value);
  if (!s.delete(key)) s.add(key);
  flipped.value = s;
}
</script>

<template>
  <h1>Suggested</h1>
  <div class="sub">least certain first; clear what is wrong</div>
  <p class="q s">confidence of {{ Math.round(above * 100) }} % or more</p>
  <input v-model.number="above" type="range" min="0.5" max="1" step="0.05" aria-label="least confidence" />
  <ul aria-label="Suggestions">
    <li v-for="o in list.slice(0, 300)" :key="o.key">
      <label
        ><input type="checkbox" :checked="ticked(o)" @change="flip(o.key)" />
        <span
          >{{ o.name }}<br />→ <b>{{ o.target }}</b><br /><span class="q s">{{ o.evidence }}, {{ Math.round(o.confidence * 100) }} %</span
          ><template v-if="o.doubt"
            ><br /><span class="bad s">But {{ o.doubt }}</span></template
          ></span
        ></label
      >
    </li>
  </ul>
  <p v-if="list.length > 300" class="q s">and {{ list.length - 300 }} more, all of them surer</p>
  <p v-if="!list.length" class="q">No suggestion is that certain. Move the slider.</p>
  <div class="acts" style="margin: 10px 0; flex-wrap: wrap">
    <button
      class="btn prime"
      :disabled="!chosen.length || busy"
      @click="
        emit(
          'accept',
          chosen.map((o) => o.key),
          above,
        )
      "
    >
      Set {{ plural(chosen.length, "suggestion") }}
    </button>
    <button class="btn plain" @click="emit('close')">Cancel</button>
  </div>
  <p v-if="offers.length > chosen.length" class="q s">{{ offers.length - chosen.length }} stay suggested</p>
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
  overflow-wrap: anywhere;
}
input[type="range"] {
  width: 100%;
  accent-color: var(--brass);
}
label {
  display: flex;
  gap: 8px;
  align-items: start;
}
</style>
