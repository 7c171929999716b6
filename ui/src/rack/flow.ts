import { plain, size } from "../money";
import type { ByTarget, Row } from "./rows";

export interface Node {
  key: string;
  label: string;
  words: string;
  left: boolean;
  target: number;
  state: string;
}
export interface Edge {
  from: string;
  to: string;
  value: number;
  words: string;
  state: string;
}

const most = 12;

/**
 * links lays out the flow picture: the widest old accounts by themselves, the
 * rest of each target gathered, so that hundreds of rows stay readable. Width is
 * the size of the amount, whatever its side.
 */
export function links(list: ByTarget[]): { nodes: Node[]; edges: Edge[] } {
  const wide = list.flatMap((t) => t.rows).sort((a, b) => size(b.seen) - size(a.seen));
  // What wants a look comes by itself first: loose rows and many-to-one, then the widest.
  const look = list.filter((t) => t.id === 0 || t.rows.length > 1).flatMap((t) => t.rows);
  const alone = new Set([...wide.filter((r) => r.state === "suggested").slice(0, 5), ...look.slice(0, 8)].map((r) => r.label_id));
  for (const r of wide) if (alone.size < most + 6 && size(r.seen) > 0) alone.add(r.label_id);
  const shown = list
    .map((t) => ({ t, w: t.rows.reduce((a, r) => a + size(r.seen), 0) }))
    .filter((x) => x.w > 0)
    .sort((a, b) => b.w - a.w);
  const nodes: Node[] = [];
  const edges: Edge[] = [];
  const state = (r: Row) => (r.state === "set" ? "set" : r.state === "suggested" ? "suggested" : "open");
  const rest: Row[] = [];
  for (const [i, { t }] of shown.entries()) {
    const keep = i < most || t.id <= 0 || t.rows.length > 1;
    const single = t.rows.filter((r) => alone.has(r.label_id) && size(r.seen) > 0);
    if (!keep && !single.length) {
      rest.push(...t.rows);
      continue;
    }
    const amount = t.rows.reduce((a, r) => a + size(r.seen), 0);
    nodes.push({
      key: `t${t.id}`,
      label: short(t.name),
      words: `${t.name}: ${money(amount)} from ${t.rows.length}`,
      left: false,
      target: t.id,
      state: t.id === 0 ? "open" : "set",
    });
    for (const r of single) {
      const split = nodes.some((n) => n.key === `l${r.label_id}`); // its other share is there
      if (!split)
        nodes.push({
          key: `l${r.label_id}`,
          label: short(r.name || r.number),
          words: `${r.number} ${r.name}: ${plain(r.whole ?? r.seen)}`,
          left: true,
          target: 0,
          state: state(r),
        });
      edges.push({
        from: `l${r.label_id}`,
        to: `t${t.id}`,
        value: size(r.seen) / 100,
        words: `${r.name} → ${t.name}: ${plain(r.seen)}, ${r.state}`,
        state: state(r),
      });
    }
    const others = t.rows.filter((r) => !alone.has(r.label_id) && size(r.seen) > 0);
    if (others.length) {
      const w = others.reduce((a, r) => a + size(r.seen), 0);
      const first = others[0]!;
      nodes.push({
        key: `o${t.id}`,
        label: others.length === 1 ? short(first.name) : `${others.length} others`,
        words: `${others.map((r) => r.name).join(", ")}: ${money(w)}`,
        left: true,
        target: 0,
        state: state(first),
      });
      edges.push({ from: `o${t.id}`, to: `t${t.id}`, value: w / 100, words: `${others.length} old accounts → ${t.name}: ${money(w)}`, state: state(first) });
    }
  }
  const small = rest.filter((r) => size(r.seen) > 0);
  if (small.length) {
    const w = small.reduce((a, r) => a + size(r.seen), 0);
    nodes.push({
      key: "small",
      label: `${small.length} small ones`,
      words: `${small.length} small old accounts: ${money(w)}`,
      left: true,
      target: 0,
      state: "set",
    });
    nodes.push({ key: "smallt", label: "their accounts", words: "each to its own account; see the table", left: false, target: 0, state: "set" });
    edges.push({ from: "small", to: "smallt", value: w / 100, words: `${small.length} small old accounts: ${money(w)}`, state: "set" });
  }
  return { nodes, edges };
}

function short(s: string): string {
  return s.length > 28 ? `${s.slice(0, 27)}…` : s;
}

function money(c: number): string {
  return plain((c / 100).toFixed(2));
}
