import { useVirtualizer } from "@tanstack/vue-virtual";
import { computed, type Ref, ref, watch } from "vue";
import { api, type Schemas, unwrap } from "../api/client";
import { useClientId } from "../api/queries";

const page = 200;

// The rows of a file as it came, fetched a page at a time as they scroll into sight.
export function useGridRows(file: () => Schemas["Batch"], box: Ref<HTMLElement | undefined>) {
  const id = useClientId();
  const pages = ref(new Map<number, Schemas["GridRow"][]>());
  const asked = new Set<number>();
  const rows = useVirtualizer(computed(() => ({ count: file().records, getScrollElement: () => box.value ?? null, estimateSize: () => 24, overscan: 20 })));
  const items = computed(() => rows.value.getVirtualItems());
  const pageOf = (index: number) => Math.floor(index / page);

  async function load(p: number) {
    if (asked.has(p)) return;
    asked.add(p);
    const got = await unwrap(
      api.GET("/api/clients/{client}/batches/{batch}/rows", {
        params: { path: { client: id.value, batch: file().id }, query: { from: p * page + 1, n: page } },
      }),
    );
    pages.value.set(p, got);
    pages.value = new Map(pages.value);
  }
  function reload() {
    asked.clear();
    for (const p of new Set(items.value.map((v) => pageOf(v.index)))) void load(p);
  }
  watch(items, (list) => list.forEach((v) => void load(pageOf(v.index))), { immediate: true });
  watch(
    () => [file().id, file().version],
    (now, was) => {
      if (now[0] !== was[0]) pages.value = new Map();
      reload();
    },
  );
  const at = (index: number) => pages.value.get(pageOf(index))?.[index % page];
  // By column, the letters of the longest figure, date or number among the rows that were fetched.
  const longest = computed(() => {
    const out: number[] = [];
    for (const list of pages.value.values())
      for (const r of list)
        r.cells.forEach((c, i) => {
          if (/\d/.test(c) && !/\s/.test(c.trim()) && c.length <= 26) out[i] = Math.max(out[i] ?? 0, c.trim().length);
        });
    return out;
  });
  return { rows, items, at, reload, longest };
}
