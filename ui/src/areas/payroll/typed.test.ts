import { expect, test } from "vitest";
import { blankRow, laid } from "./typed";

const last = {
  provider: "Pellan Bureau",
  employees: [
    { id: 1, name: "Ann", group: "yard" },
    { id: 2, name: "Cy", group: "officers" },
  ],
} as unknown as Parameters<typeof laid>[1];

test("a run's sheet has the people of the last run; whose group is officers is ticked so", () => {
  expect(laid("run", last).rows).toEqual([
    { ...blankRow(), name: "Ann", group: "yard" },
    { ...blankRow(), name: "Cy", officer: true },
  ]);
});

test("an invoice is the provider's, a carrier's bill is somebody else's", () => {
  expect(laid("invoice", last).head.provider).toBe("Pellan Bureau");
  expect(laid("bill", last).head.provider).toBe("");
  expect(laid("run", undefined)).toMatchObject({ rows: [blankRow()], touched: false });
});
