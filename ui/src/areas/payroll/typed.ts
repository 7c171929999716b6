import { computed, reactive, type Ref, watch } from "vue";
import type { Schemas } from "../../api/client";
import { useMe } from "../../api/queries";

/** What a paper is that is typed in. */
export type What = "run" | "bill" | "invoice";

export interface Row {
  name: string;
  id: string;
  group: string;
  officer: boolean;
  cells: Record<number, string>;
  a: string;
  b: string;
}
export const blankRow = (): Row => ({ name: "", id: "", group: "", officer: false, cells: {}, a: "", b: "" });

interface Sheet {
  head: { provider: string; check: string; from: string; to: string; number: string; kind: string };
  rows: Row[];
  totals: Record<number, string>;
  printed: string;
  touched: boolean;
}
const blankSheet = (): Sheet => ({
  head: { provider: "", check: "", from: "", to: "", number: "", kind: "regular" },
  rows: [blankRow()],
  totals: {},
  printed: "",
  touched: false,
});

type Last = Pick<Schemas["RunView"], "employees" | "provider">;

/** laid is a run's sheet with the people of the last run, and an invoice's with its provider; a carrier is somebody else. */
export function laid(what: What, last: Last | undefined): Sheet {
  const s = blankSheet();
  if (!last || what === "bill") return s;
  s.head.provider = last.provider;
  if (what === "run" && last.employees.length)
    s.rows = last.employees.map((e) => ({ ...blankRow(), name: e.name, group: e.group === "officers" ? "" : e.group, officer: e.group === "officers" }));
  return s;
}

/**
 * useTypedSheets keeps a sheet for each kind of paper, for this person and client, while the tab is
 * open: another kind, a look elsewhere or a reload loses nothing that was typed. A sheet that
 * nobody typed into follows the last run.
 */
export function useTypedSheets(client: number, what: Ref<What>, last: Ref<Last | undefined>) {
  const { data: me } = useMe();
  const sheets = reactive<Record<What, Sheet>>({ run: blankSheet(), bill: blankSheet(), invoice: blankSheet() });
  const key = () => `typed paper, client ${client}, person ${me.value?.id ?? 0}`;
  watch(
    () => me.value?.id,
    (id) => id && Object.assign(sheets, JSON.parse(sessionStorage.getItem(key()) ?? "{}")),
    { immediate: true },
  );
  const lay = () => {
    for (const w of ["run", "bill", "invoice"] as const) if (!sheets[w].touched) sheets[w] = laid(w, last.value);
  };
  watch(last, lay, { immediate: true });
  const sheet = computed(() => sheets[what.value]);
  const store = () => {
    const touched = Object.entries(sheets).filter(([, s]) => s.touched);
    if (touched.length) sessionStorage.setItem(key(), JSON.stringify(Object.fromEntries(touched)));
    else sessionStorage.removeItem(key());
  };
  return {
    sheet,
    head: computed(() => sheet.value.head),
    rows: computed(() => sheet.value.rows),
    totals: computed(() => sheet.value.totals),
    printed: computed({ get: () => sheet.value.printed, set: (v) => (sheet.value.printed = v) }),
    keep() {
      sheet.value.touched = true;
      store();
    },
    drop(w: What) {
      sheets[w] = laid(w, last.value);
      store();
    },
  };
}
