<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../../api/client";
import { plural } from "../../format";
import { cents, figure, isZero, plain } from "../../money";

// Form W-2 of each employee. Its boxes flow over as many lines as the window needs, so that no
// figure is cut.
const props = defineProps<{ forms: Schemas["PayForms"] }>();
const at = defineModel<{ form: string; box: string; who?: number } | undefined>({ required: true });

type Person = Schemas["FormPerson"];
const boxes = computed(() =>
  props.forms.w2.map((b) => b.box).filter((b) => props.forms.employees.some((e) => !isZero(e.boxes[b] ?? "0") || e.theirs[b] !== undefined)),
);
const differs = (e: Person, b: string) => e.theirs[b] !== undefined && cents(e.theirs[b]!) !== cents(e.boxes[b] ?? "0.00");
const off = computed(() => props.forms.employees.reduce((n, e) => n + boxes.value.filter((b) => differs(e, b)).length, 0));
const compared = computed(() => props.forms.employees.some((e) => Object.keys(e.theirs).length));
const words = (s: string) => props.forms.statuses.find((x) => x.status === s)?.words ?? s;
const under = (e: Person) => [...(e.ticks.length ? [`Box 13: ${e.ticks.join(", ")}`] : []), ...e.status.map(words)].join(" · ");
</script>

<template>
  <section>
    <h2>Form W-2, by employee</h2>
    <p v-if="compared" class="q">
      {{
        off
          ? `${plural(off, "figure")} ▲ ${off === 1 ? "differs" : "differ"} from the provider's own forms`
          : "every figure that the provider's own forms have is ours"
      }}
    </p>
    <div v-for="e in forms.employees" :key="e.id" class="person">
      <div class="name">
        {{ e.name }}<small v-if="under(e)" class="q"><br />{{ under(e) }}</small>
      </div>
      <div class="boxes">
        <button
          v-for="b in boxes"
          :key="b"
          type="button"
          class="cell"
          :class="{ hand: at?.who === e.id && at.box === b, bad: differs(e, b) }"
          @click="at = { form: 'w2', box: b, who: e.id }"
          @focus="at = { form: 'w2', box: b, who: e.id }"
        >
          <span class="sr">Box </span><small class="q">{{ b }}</small
          ><span class="sr"> of {{ e.name }}</span
          ><span class="fig">{{ e.boxes[b] ? figure(e.boxes[b]!) : "–" }}<i v-if="differs(e, b)" aria-hidden="true"> ▲</i></span
          ><span v-if="differs(e, b)" class="sr">, the provider's form says {{ plain(e.theirs[b]!) }}</span>
        </button>
      </div>
    </div>
  </section>
</template>

<style scoped>
h2 {
  margin: 14px 0 2px;
}
.person {
  display: grid;
  grid-template-columns: 190px 1fr;
  gap: 10px;
  padding: 5px 0;
  border-top: 1px solid var(--rule);
}
.name {
  overflow-wrap: anywhere;
}
.boxes {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(124px, 1fr));
  gap: 2px 8px;
}
.cell {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 3px 6px;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  font-size: 12.5px;
  cursor: pointer;
}
.cell.bad {
  color: var(--bad);
}
.cell.hand {
  background: var(--hand);
}
.fig {
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}
.fig i {
  font-style: normal;
}
</style>
