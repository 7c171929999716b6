<script setup lang="ts">
import { computed } from "vue";
import { useRoute } from "vue-router";
import { useClientId, useFiles } from "../api/queries";
import { moment, plural } from "../format";

const props = defineProps<{ purpose?: string | string[]; filter?: string }>();
const id = useClientId();
const route = useRoute();
const { data: files } = useFiles();
const mine = computed(() =>
  (files.value ?? []).filter(
    (f) => (!props.purpose || [props.purpose].flat().includes(f.purpose)) && f.name.toLowerCase().includes((props.filter ?? "").toLowerCase()),
  ),
);
const groups = computed(() => [
  { name: "On the sheet", rows: mine.value.filter((f) => f.state === "sheet") },
  { name: "Taken in", rows: mine.value.filter((f) => f.state === "taken") },
  { name: "Set aside", rows: mine.value.filter((f) => f.state === "aside" || f.state === "destroyed") },
]);
</script>

<template>
  <template v-for="g in groups" :key="g.name">
    <template v-if="g.rows.length">
      <div class="g">{{ g.name }}</div>
      <RouterLink v-for="f in g.rows" :key="f.id" class="r" :class="{ on: Number(route.params.batch) === f.id }" :to="`/c/${id}/sheet/${f.id}`">
        <span
          >{{ f.name }}<small>{{ f.unit ? "posted" : `${f.purpose.replace("-", " ")}, ${moment(f.at)} by ${f.by.initials}` }}</small></span
        >
        <span>{{ f.state === "sheet" && f.to_settle ? `${f.to_settle} to settle` : plural(f.rows, "row") }}</span>
      </RouterLink>
    </template>
  </template>
</template>
