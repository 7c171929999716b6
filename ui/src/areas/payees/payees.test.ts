import { describe, expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { boxWords, dueWords, findBoxes, groupPile, linesOf, paidWords, samePayment } from "./payees";

const line = (name: string, state: Schemas["PayeeLine"]["state"]) =>
  ({ id: 1, name, state, amount: "1.00", leading: "1.00", words: "", boxes: [], joined: 1, gets: "", class: "" }) as Schemas["PayeeLine"];
const rule = (box: string, caption: string, by_hand = false) => ({ box, caption, by_hand }) as Schemas["PayeesRule"];

describe("payees", () => {
  it("sets loose ones first and drops empty groups", () => {
    const g = groupPile([line("Ness", "no form"), line("Marrow", "undecided"), line("Vell", "on a form with a fault")], "");
    expect(g.map((x) => x.words)).toEqual(["Undecided", "On a form, with a fault", "No form"]);
    expect(groupPile([line("Ness", "no form"), line("Marrow", "undecided")], "mar").map((x) => x.rows.length)).toEqual([1]);
  });
  it("says what came back without a sign", () => {
    expect(paidWords("-700.00")).toBe("back 700.00");
    expect(paidWords("1480.00")).toBe("1,480.00");
  });
  it("knows the lines of one payment", () => {
    const ls = [{ payment: "a" }, { payment: "a" }, { payment: "b" }] as Schemas["PaidView"][];
    expect([0, 1, 2].map((i) => samePayment(ls, i))).toEqual([false, true, false]);
  });
  it("leads from a box to its own lines", () => {
    const l = (box: string, bucket: string, withheld = "0.00") => ({ box, bucket, withheld }) as Schemas["PaidView"];
    const all = [l("NEC 1", "on a form", "24.00"), l("NEC 1", "paid by a method others report"), l("MISC 1", "on a form"), l("", "undecided")];
    expect(linesOf(all, "NEC 1")).toEqual([all[0]]);
    expect(linesOf(all, "withheld")).toEqual([all[0]]);
    expect(linesOf(all, "MISC 3")).toEqual([]);
    expect(linesOf(all, "")).toBe(all);
  });
  it("finds boxes by number and caption, never those filled by hand", () => {
    const rules = [
      rule("NEC 1", "Nonemployee compensation"),
      rule("MISC 1", "Rents"),
      rule("MISC 15", "Deferred", true),
      rule("MISC 10", "Gross proceeds paid to an attorney"),
    ];
    expect(findBoxes("1", rules).map((r) => r.box)).toEqual(["NEC 1", "MISC 1", "MISC 10"]);
    expect(findBoxes("attorney", rules).map((r) => r.box)).toEqual(["MISC 10"]);
    expect(findBoxes("misc 1", rules).map((r) => r.box)).toEqual(["MISC 1", "MISC 10"]);
    expect(findBoxes("15", rules)).toEqual([]);
    expect(boxWords("MISC 1", rules)).toBe("MISC 1, rents");
  });
  it("says how far a deadline is", () => {
    const due = (days_left: number) => dueWords({ on: "2027-02-01", days_left } as Schemas["FormDue"]);
    expect(due(68)).toBe("in 68 days");
    expect(due(1)).toBe("in 1 day");
    expect(due(-1)).toBe("1 day ago");
  });
});
