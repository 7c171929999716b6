import { describe, expect, it } from "vitest";
import { meanings } from "./meanings";
import { columnsOf, holdsFigures } from "./widths";

describe("columns of the grid", () => {
  it("gives the room that is left to what has no width of its own", () => {
    // 34 + 84 + 78 + 120 + 104 + 104 = 524
    expect(columnsOf(34, ["number", "name", "debit", "credit"])).toEqual({
      template: "34px 84px 78px minmax(120px, 1fr) 104px 104px",
      least: "524px",
    });
  });
  it("lets all grow where all have a width, so that no room is left over", () => {
    const { template } = columnsOf(34, ["date", "document-number", "open"]);
    expect(template).toBe("34px 84px minmax(96px, 1fr) minmax(96px, 1fr) minmax(104px, 1fr)");
  });
  it("stands every meaning that holds money to the right, and no other", () => {
    const right = (purpose: string) =>
      meanings(purpose)
        .map((m) => m.value)
        .filter(holdsFigures)
        .sort();
    expect(right("trial-balance")).toEqual(["amount", "credit", "debit"]);
    expect(right("open-invoices")).toEqual(["amount", "credit", "debit", "open", "original", "settled", "tax"]);
    expect(right("payroll-register")).toEqual(["amount", "employer-amount", "hours", "pay", "total", "year-to-date"]);
    expect(right("payroll-forms")).toEqual(["amount", "form-figure"]);
    expect(right("crosswalk")).toEqual(["amount"]);
  });
});
