<script setup lang="ts">
import { computed } from "vue";
import type { Schemas } from "../../api/client";
import { useClientId } from "../../api/queries";
import { plural } from "../../format";
import { isZero, plain } from "../../money";
import FigureTable from "../../frame/FigureTable.vue";

// Where each batch of the opening stands, each with the way to its part.
const props = defineProps<{ draft: Schemas["Draft"]; over: Schemas["Overview"] }>();
const id = useClientId();
const base = computed(() => `/c/${id.value}/openings`);
const items = (side: string, many: string) => {
  const s = props.over.sides.find((x) => x.side === side)!;
  const waiting = s.batches.filter((b) => b.state === "sheet").length;
  const held = s.held_count ? `${s.count ? `${s.count} posted, ` : ""}${s.held_count} held: party open` : "";
  const ready = s.batches.filter((b) => b.state === "taken").reduce((n, b) => n + b.rows, 0);
  const note =
    held ||
    (waiting
      ? `${plural(waiting, "file")} on the sheet`
      : s.count
        ? plural(s.count, many.slice(0, -1), many)
        : ready
          ? `${plural(ready, "row")} taken in`
          : "not brought yet");
  return {
    name: `Open ${many}`,
    note,
    amount: isZero(s.items) ? "–" : plain(s.items),
    to: `${base.value}/${many}`,
    state:
      s.count && !s.held_count && isZero(s.left)
        ? "posted ✓"
        : s.count
          ? s.held_count
            ? `${s.held_count} held`
            : `left ${plain(s.left)}`
          : s.batches.length
            ? "to post"
            : "–",
    ok: s.count > 0 && !s.held_count && isZero(s.left),
  };
};
const rows = computed(() => {
  const d = props.draft;
  const posted = !!d.unit && d.unit_batch === d.batch_id;
  const unc = props.over.banks.reduce((n, b) => n + b.items.length, 0);
  const said = props.over.banks.filter((b) => b.said);
  const ties = said.length > 0 && said.every((b) => isZero(b.tie.difference));
  return [
    {
      name: "Trial balance",
      note: d.batch_id ? `${plural(d.lines.length, "row")}${d.unplaced ? `, ${d.unplaced} not yet placed` : ""}` : "not brought yet",
      amount: d.batch_id ? plain(d.debit) : "–",
      to: base.value,
      state: posted ? "posted ✓" : d.unit ? "a corrected file waits" : d.batch_id ? "to post" : "–",
      ok: posted,
    },
    items("receivable", "invoices"),
    items("payable", "bills"),
    {
      name: "Bank items",
      note: unc ? `${unc}, kept with their dates` : said.length ? "nothing uncleared" : "no statement balance yet",
      amount: "–",
      to: `${base.value}/bank`,
      state: ties ? "ties ✓" : said.length ? "does not tie" : "posts nothing",
      ok: ties,
    },
  ];
});
</script>

<template>
  <FigureTable class="batches" :give="[1]">
    <thead>
      <tr>
        <th>Batch</th>
        <th class="n" style="width: 92px">Amount</th>
        <th class="n" style="width: 122px">State</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in rows" :key="r.name">
        <td>
          <RouterLink class="quiet-link" :to="r.to">{{ r.name }}</RouterLink><small>{{ r.note }}</small>
        </td>
        <td class="n">{{ r.amount }}</td>
        <td class="n">
          <RouterLink class="quiet-link" :class="{ ok: r.ok, warn: !r.ok && r.state !== '–' && r.state !== 'posts nothing' }" :to="r.to">{{
            r.state
          }}</RouterLink>
        </td>
      </tr>
    </tbody>
  </FigureTable>
</template>

<style scoped>
.batches {
}
td {
  height: 39px;
  line-height: 17px;
}
small {
  white-space: normal;
  display: block;
  color: var(--quiet);
  font-size: 12px;
  line-height: 15px;
}
</style>
