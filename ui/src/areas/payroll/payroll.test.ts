import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { accountsOf, find, less, type Need, worst } from "./payroll";

const need = (facet: Need["facet"], group: string, state: Need["state"], target: string): Need => ({
  item_id: 1,
  facet,
  group,
  times: 1,
  state,
  revisit: false,
  target_id: 1,
  target,
  evidence: "",
  binding_id: 0,
});

test("what is loose counts first", () => {
  expect(worst([need("expense", "floor", "set", "6010"), need("expense", "office", "open", "")])).toBe("open");
  expect(worst([need("expense", "", "set", "6010"), need("liability", "", "suggested", "2200")])).toBe("suggested");
  expect(worst([])).toBe("set");
});

test("groups that go to one account stand together, and are named only where they part", () => {
  const one = accountsOf([need("expense", "floor", "set", "6010"), need("expense", "office", "set", "6010"), need("liability", "", "set", "2200")]);
  expect(one.map((a) => [a.side, a.words, a.groups])).toEqual([
    ["Dr", "6010", []],
    ["Cr", "2200", []],
  ]);
  const two = accountsOf([need("expense", "floor", "set", "6010"), need("expense", "officers", "open", "")]);
  expect(two.map((a) => [a.words, a.groups])).toEqual([
    ["6010", ["floor"]],
    ["no home yet", ["officers"]],
  ]);
});

const t = (number: string, name: string, kind: string, sort = ""): Schemas["Target"] => ({
  id: Number(number),
  number,
  name,
  kind,
  sort,
  role: "",
  active: true,
  parent: false,
});

test("accounts that can be right come first, an exact number before all", () => {
  const all = [t("2200", "Payroll taxes owed", "Liability"), t("6030", "Employer payroll tax", "Expense"), t("1010", "Bank", "Asset", "bank")];
  expect(find("tax", "expense", all).map((x) => x.number)).toEqual(["6030", "2200"]);
  expect(find("tax", "liability", all).map((x) => x.number)).toEqual(["2200", "6030"]);
  expect(find("2200", "expense", all)[0]!.number).toBe("2200");
});

test("differences are to the cent", () => {
  expect(less("27362.50", "26950.50")).toBe("412.00");
  expect(less("0.10", "0.30")).toBe("-0.20");
});

test("payroll's own accounts stand before others that fit", () => {
  const t = (number: string, name: string, sort: string) =>
    ({ id: Number(number), number, name, kind: "expense", sort, role: "", active: true, parent: false, pinned: false }) as Schemas["Target"];
  expect(find("", "expense", [t("5110", "Timber", ""), t("6010", "Wages", "payroll expense")]).map((x) => x.number)).toEqual(["6010", "5110"]);
});
