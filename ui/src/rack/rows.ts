import type { Schemas } from "../api/client";
import { cents, fromCents, isZero, type Money } from "../money";

export type Row = Schemas["RackRow"];
export type Show = "all" | "loose" | "open" | "suggested" | "done" | "broken" | "revisit";

const rank: Record<string, number> = { broken: 0, open: 1, suggested: 2, set: 4, "left out": 5 };

/** isLoose: not done, or set with a revisit mark. */
export function isLoose(r: Row): boolean {
  return r.state === "open" || r.state === "suggested" || r.state === "broken" || r.revisit;
}

export function matches(r: Row, show: Show): boolean {
  switch (show) {
    case "all":
      return true;
    case "loose":
      return isLoose(r);
    case "done":
      return r.state === "set" || r.state === "left out";
    case "revisit":
      return r.revisit;
    default:
      return r.state === show;
  }
}

/** ordered puts what is loose first, then keeps the order of the file. */
export function ordered(rows: Row[]): Row[] {
  const of = (r: Row) => (r.revisit ? 3 : (rank[r.state] ?? 9));
  return [...rows].sort((a, b) => of(a) - of(b) || a.record - b.record);
}

export interface Headline {
  show: Show;
  words: string;
}

/** headline counts what is loose first: "2 open, 5 suggested, 31 done". */
export function headline(rows: Row[]): Headline[] {
  const n = (s: Show) => rows.filter((r) => matches(r, s)).length;
  const out: Headline[] = [];
  if (n("broken")) out.push({ show: "broken", words: `${n("broken")} broken` });
  out.push({ show: "open", words: `${n("open")} open` }, { show: "suggested", words: `${n("suggested")} suggested` });
  if (n("revisit")) out.push({ show: "revisit", words: `${n("revisit")} to revisit` });
  out.push({ show: "done", words: `${n("done")} done` });
  return out;
}

export interface Group {
  name: string;
  rows: Row[];
  loose: number;
}

export function groups(rows: Row[]): Group[] {
  const by = new Map<string, Row[]>();
  for (const r of rows) by.set(r.group, [...(by.get(r.group) ?? []), r]);
  return [...by]
    .map(([name, list]) => ({ name, rows: list, loose: list.filter(isLoose).length }))
    .sort((a, b) => Number(b.loose > 0) - Number(a.loose > 0) || b.loose - a.loose);
}

/** Share is a row, or what of a split one goes to one account; whole is what the row has in all. */
export type Share = Row & { whole?: Money };

/** shares divides the rows that are split: each stated amount to its account, what remains to the row's own. */
export function shares(rows: Row[]): Share[] {
  return rows.flatMap((r): Share[] => {
    if (!r.parts?.length || r.state === "open" || r.state === "broken" || r.state === "left out") return [r];
    const rest = fromCents(r.parts.reduce((a, p) => a - cents(p.amount), cents(r.seen)));
    const own = isZero(rest) ? [] : [{ ...r, seen: rest, whole: r.seen }];
    return [...own, ...r.parts.map((p) => ({ ...r, target_id: p.account_id, seen: p.amount, whole: r.seen }))];
  });
}

export interface ByTarget {
  id: number;
  name: string;
  kind: string;
  rows: Share[];
  amount: Money;
  set: number;
  suggested: number;
}

/** byTarget gathers rows, or their shares, under where they go; 0 is no target yet, -1 left out. */
export function byTarget(rows: Row[], targets: Schemas["Target"][]): ByTarget[] {
  const at = new Map(targets.map((t) => [t.id, t]));
  const out = new Map<number, ByTarget>();
  for (const r of shares(rows)) {
    const id = r.state === "left out" ? -1 : r.state === "open" || r.state === "broken" ? 0 : r.target_id;
    const t = at.get(id);
    let b = out.get(id);
    if (!b) {
      const name = id === 0 ? "no target yet" : id === -1 ? "left out" : t ? `${t.number} ${t.name}`.trim() : "–";
      b = { id, name, kind: t?.kind ?? "–", rows: [], amount: "0.00", set: 0, suggested: 0 };
      out.set(id, b);
    }
    b.rows.push(r);
    b.amount = fromCents(cents(b.amount) + cents(r.seen));
    if (r.state === "set") b.set++;
    if (r.state === "suggested") b.suggested++;
  }
  return [...out.values()];
}
