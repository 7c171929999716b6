<script setup lang="ts">
import { computed, ref, watch } from "vue";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct } from "../../api/queries";
import RefusalBox from "../../frame/RefusalBox.vue";

// The boxes of forms that an item feeds, each with a fraction: a facet beside its
// accounts, suggested by its kind and settled by a person where that is wrong.
type Feed = Schemas["PayItem"]["feeds"][number];
const props = defineProps<{ item: Schemas["PayItem"] }>();
const rows = ref<Feed[]>([]);
const editing = ref(false);
watch(
  () => props.item,
  (i) => ((rows.value = i.feeds.map((f) => ({ ...f }))), (editing.value = false)),
  { immediate: true },
);
type Said = Schemas["PayItemFacts"];
const put = (client: number, item: number, body: Said) =>
  unwrap(api.PUT("/api/clients/{client}/payroll/items/{item}", { params: { path: { client, item } }, body }));
// What is undone is what a person set: boxes or a place that followed from the kind follow from it again.
const undo = (client: number, body: (was: Schemas["PayItem"]) => Said) => {
  const was = props.item;
  return { words: was.name, run: () => put(client, was.id, body(was)) };
};
const save = useAct(
  (client, feeds: Feed[]) => put(client, props.item.id, { kind: props.item.kind, feeds, version: props.item.version }),
  () => (editing.value = false),
  {
    undo: (_v, client) => undo(client, (was) => ({ kind: was.kind, feeds: was.feeds_said ? was.feeds : undefined, feeds_by_kind: !was.feeds_said })),
  },
);
const place = ref("");
watch(
  () => props.item,
  (i) => (place.value = i.place_said ? i.place || "none" : ""),
  { immediate: true },
);
const placed = computed(() => props.item.feeds.some((f) => f.form === "w2" && ["16", "17", "18", "19"].includes(f.box)));
const local = computed(() => props.item.feeds.some((f) => f.form === "w2" && ["18", "19"].includes(f.box)));
const sayPlace = useAct((client, v: string) => put(client, props.item.id, { kind: props.item.kind, place: v, version: props.item.version }), undefined, {
  undo: (_v, client) => undo(client, (was) => ({ kind: was.kind, place: was.place_said ? was.place || "none" : "" })),
});
const words = (f: Feed) =>
  `${f.form === "w2" ? "W-2 box" : `Form ${f.form} line`} ${f.box}${f.num === f.den ? "" : f.num === -f.den ? ", less" : `, ${f.num}/${f.den}`}`;
const list = computed(() => props.item.feeds.map(words));
</script>

<template>
  <h2>Boxes it feeds</h2>
  <RefusalBox :error="save.error.value" />
  <template v-if="!editing">
    <p v-if="!list.length" class="q">none</p>
    <p v-else>{{ list.join(" · ") }}</p>
    <p class="q">
      {{ item.feeds_said ? "said by a person" : "as its kind does" }}
      <button class="linkish" @click="editing = true">say it otherwise</button>
    </p>
  </template>
  <form v-else @submit.prevent="save.mutate(rows)">
    <div v-for="(f, i) in rows" :key="i" class="feed">
      <label class="sr" :for="`feed-form-${i}`">Form</label>
      <select :id="`feed-form-${i}`" v-model="f.form" class="input">
        <option value="w2">W-2</option>
        <option value="941">941</option>
        <option value="940">940</option>
      </select>
      <label class="sr" :for="`feed-box-${i}`">Box or line</label>
      <input :id="`feed-box-${i}`" v-model="f.box" class="input" placeholder="box" required />
      <label class="sr" :for="`feed-num-${i}`">Parts of the amount</label>
      <input :id="`feed-num-${i}`" v-model.number="f.num" class="input n" type="number" />
      <span>of</span>
      <label class="sr" :for="`feed-den-${i}`">of so many</label>
      <input :id="`feed-den-${i}`" v-model.number="f.den" class="input n" type="number" min="1" />
      <button type="button" class="btn small plain" :aria-label="`take box ${f.box} away`" @click="rows.splice(i, 1)">×</button>
    </div>
    <p class="acts">
      <button type="button" class="btn small" @click="rows.push({ form: 'w2', box: '', num: 1, den: 1 } as Feed)">Add a box</button>
      <button class="btn small prime" :disabled="save.isPending.value">Keep these</button>
      <button type="button" class="btn small plain" @click="editing = false">Cancel</button>
    </p>
  </form>
  <template v-if="placed && !editing">
    <h2>{{ local ? "Its locality" : "Its state" }}</h2>
    <p>
      {{ item.place || "none" }}
      <span class="q">{{ item.place_said ? "said by a person" : item.place ? "as its name says" : "its name says none" }}</span>
    </p>
    <form class="place" @submit.prevent="sayPlace.mutate(place)">
      <label class="sr" for="item-place">{{ local ? "Locality" : "State" }} that it is of; empty is as its name says, none is none</label>
      <input id="item-place" v-model="place" class="input" :placeholder="local ? 'name' : 'code or name'" maxlength="30" />
      <button class="btn small">Say it</button>
    </form>
    <RefusalBox :error="sayPlace.error.value" />
  </template>
</template>

<style scoped>
.place {
  display: flex;
  gap: 6px;
  margin-top: 6px;
}
.feed {
  display: grid;
  grid-template-columns: 62px 1fr 46px auto 46px 28px;
  gap: 5px;
  align-items: center;
  margin-bottom: 5px;
}
.acts {
  display: flex;
  gap: 6px;
}
</style>
