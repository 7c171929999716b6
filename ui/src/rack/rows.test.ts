import { describe, expect, it } from "vitest";
import { sum } from "../money";
import { byTarget, groups, headline, isLoose, matches, ordered, type Row } from "./rows";

const row = (over: Partial<Row>): Row => ({
  label_id: 1,
  number: "",
  name: "",
  outside_id: "",
  kind: "",
  group: "Assets",
  seen: "0.00",
  times: 1,
  record: 1,
  batch_id: 1,
  state: "open",
  revisit: false,
  target_id: 0,
  evidence: "",
  binding_id: 0,
  ...over,
});
const rows = [
  row({ label_id: 1, record: 3, state: "set", target_id: 7, seen: "10.00" }),
  row({ label_id: 2, record: 9, state: "open", group: "Costs", seen: "-4.00" }),
  row({ label_id: 3, record: 5, state: "suggested", target_id: 7, seen: "0.10" }),
  row({ label_id: 4, record: 1, state: "left out" }),
  row({ label_id: 5, record: 2, state: "set", target_id: 7, revisit: true, seen: "0.20" }),
];

describe("rack rows", () => {
  it("counts what is loose first and every row once", () => {
    expect(headline(rows).map((h) => h.words)).toEqual(["1 open", "1 suggested", "1 to revisit", "3 done"]);
    const counted = (["open", "suggested", "broken", "done"] as const).map((s) => rows.filter((r) => matches(r, s)).length);
    expect(counted.reduce((a, b) => a + b, 0)).toBe(rows.length);
  });
  it("never counts a suggestion as done", () => {
    expect(matches(rows[2]!, "done")).toBe(false);
    expect(isLoose(rows[2]!)).toBe(true);
    expect(isLoose(rows[4]!)).toBe(true);
  });
  it("puts loose rows first, then the order of the file", () => {
    expect(ordered(rows).map((r) => r.label_id)).toEqual([2, 3, 5, 1, 4]);
  });
  it("groups with the loosest first", () => {
    expect(groups(rows).map((g) => [g.name, g.loose])).toEqual([
      ["Assets", 2],
      ["Costs", 1],
    ]);
  });
  it("adds amounts under a target exactly", () => {
    const t = byTarget(rows, [{ id: 7, number: "6", name: "x", kind: "expense", sort: "", role: "", active: true, parent: false }]);
    expect(t.find((x) => x.id === 7)?.amount).toBe("10.30");
    expect(t.find((x) => x.id === 0)?.amount).toBe("-4.00");
    expect(t.find((x) => x.id === -1)?.rows.length).toBe(1);
  });
  it("puts each part of a split where it goes, and no cent twice", () => {
    const split = [...rows, row({ label_id: 6, state: "set", target_id: 7, seen: "100.00", parts: [{ account_id: 8, amount: "30.05" }] })];
    const t = byTarget(split, []);
    expect(t.find((x) => x.id === 7)?.amount).toBe("80.25"); // 10.30 and 69.95
    expect(t.find((x) => x.id === 8)?.amount).toBe("30.05");
    expect(sum(t.map((x) => x.amount))).toBe(sum(split.map((r) => r.seen)));
    const whole = byTarget([row({ label_id: 7, state: "set", target_id: 7, seen: "5.00", parts: [{ account_id: 8, amount: "5.00" }] })], []);
    expect(whole.map((x) => [x.id, x.amount])).toEqual([[8, "5.00"]]); // nothing remains
  });
});
