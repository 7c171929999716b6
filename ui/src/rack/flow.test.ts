import { describe, expect, it } from "vitest";
import { links } from "./flow";
import { byTarget, type Row } from "./rows";

const row = (n: number, seen: string, target: number, state = "set"): Row => ({
  label_id: n,
  number: String(n),
  name: `account ${n}`,
  outside_id: "",
  kind: "",
  group: "g",
  seen,
  times: 1,
  record: n,
  batch_id: 1,
  state: state as Row["state"],
  revisit: false,
  target_id: target,
  evidence: "",
  binding_id: 0,
});

describe("flow picture", () => {
  it("keeps the width of every amount, whatever its side, however many rows there are", () => {
    for (const n of [3, 40, 400]) {
      const rows = Array.from({ length: n }, (_, i) => row(i + 1, (i % 2 ? "-" : "") + `${i + 1}.25`, (i % 30) + 1, i % 7 ? "set" : "open"));
      const { nodes, edges } = links(byTarget(rows, []));
      const want = rows.reduce((a, _, i) => a + (i + 1) * 100 + 25, 0) / 100;
      expect(edges.reduce((a, e) => a + e.value, 0)).toBeCloseTo(want, 2);
      const keys = nodes.map((x) => x.key);
      expect(new Set(keys).size).toBe(keys.length);
      for (const e of edges) expect(keys).toEqual(expect.arrayContaining([e.from, e.to]));
    }
  });
  it("draws nothing for 0.00", () => {
    expect(links(byTarget([row(1, "0.00", 1)], []))).toEqual({ nodes: [], edges: [] });
  });
});
