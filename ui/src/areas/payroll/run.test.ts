// @vitest-environment happy-dom
import { mount } from "@vue/test-utils";
import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import RunChanges from "./RunChanges.vue";
import RunEntries from "./RunEntries.vue";
import RunTies from "./RunTies.vue";

const text = (w: ReturnType<typeof mount>) => w.text().replace(/\s+/g, " ");

test("a corrected register shows item and employee, and says up and down", () => {
  const run = {
    changes: [
      { item_id: 1, item: "Overtime", was: "120.00", now: "100.00" },
      { item_id: 1, item: "Overtime", employee: "Bird, Bo", was: "120.00", now: "100.00" },
      { item_id: 2, item: "Net pay", was: "1099.02", now: "1117.49" },
    ],
  } as unknown as Schemas["RunView"];
  const w = mount(RunChanges, { props: { run } });
  const rows = w.findAll("tbody tr").map((r) => r.findAll("td").map((c) => c.text()));
  expect(rows).toEqual([
    ["Overtime", "120.00", "100.00", "down 20.00"],
    ["Bird, Bo", "120.00", "100.00", "down 20.00"],
    ["Net pay", "1,099.02", "1,117.49", "up 18.47"],
  ]);
});

test("an entry keeps debits and credits apart, without signs", () => {
  const entries = [
    {
      day: "2026-07-15",
      memo: "The Bureau, paid 15 Jul 2026",
      party: "The Bureau",
      lines: [
        { account_id: 1, account: "6010 Wages", amount: "2300.00" },
        { account_id: 2, account: "2200 Payroll taxes", amount: "-500.00", agency: "federal" },
      ],
    },
  ] as Schemas["RunEntry"][];
  const w = mount(RunEntries, { props: { entries } });
  expect(w.find("caption").text().replace(/\s+/g, " ")).toContain("15 Jul 2026, The Bureau: The Bureau, paid 15 Jul 2026");
  const rows = w.findAll("tbody tr").map((r) => r.findAll("td").map((c) => c.text()));
  expect(rows).toEqual([
    ["6010 Wages", "", "2,300.00", ""],
    ["2200 Payroll taxes", "federal", "", "500.00"],
  ]);
});

test("a tie that does not hold says so in words, not by colour alone", () => {
  const tie = {
    key: "net",
    sentence: "Net pay is the draw",
    left: "100.00",
    right: "98.00",
    difference: "2.00",
    within: "0.00",
    causes: [{ words: "the fee is the difference" }],
    rows: [],
  };
  const w = mount(RunTies, {
    props: {
      ties: [
        { ...tie, holds: false },
        { ...tie, key: "b", right: "100.00", holds: true, causes: [] },
      ] as unknown as Schemas["RunTie"][],
    },
  });
  expect(text(w)).toContain("does not hold");
  expect(text(w)).toContain("≠");
  expect(text(w)).toContain("the fee is the difference");
  expect(w.findAll("em").map((e) => e.text().includes("does not hold"))).toEqual([true, false]);
});
