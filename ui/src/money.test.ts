import { describe, expect, it } from "vitest";
import { cents, figure, fromCents, isCredit, isZero, plain, sum, typed, upDown, words } from "./money";
import { day, moment } from "./format";

describe("money", () => {
  it("reads and writes minor units without losing any", () => {
    for (const m of ["0.00", "0.05", "-0.05", "1234567.89", "-90071992547409.93"]) {
      expect(fromCents(cents(m))).toBe(m);
    }
  });
  it("adds exactly where floating point would not", () => {
    expect(sum(["0.10", "0.20", "-0.30"])).toBe("0.00");
    expect(sum(["90071992547409.93", "0.01"])).toBe("90071992547409.94");
  });
  it("never shows a bare minus", () => {
    expect(plain("-1234.50")).toBe("1,234.50");
    expect(words("-250.00")).toBe("credit 250.00");
    expect(words("250.00")).toBe("debit 250.00");
    expect(words("0.00")).toBe("0.00");
    expect(words("-0.00")).toBe("0.00");
    expect(plain("123.00")).toBe("123.00");
    expect(plain("1000000.00")).toBe("1,000,000.00");
  });
  it("says of an amount on the other side that it takes off", () => {
    expect(figure("1234.50")).toBe("1,234.50");
    expect(figure("-1234.50")).toBe("less 1,234.50");
    expect(figure("-1234.50", "back")).toBe("back 1,234.50");
    expect(figure("-0.00")).toBe("0.00");
    expect(upDown("-20.00")).toBe("down 20.00");
    expect(upDown("20.00")).toBe("up 20.00");
    expect(upDown("0.00")).toBe("unchanged");
  });
  it("reads what is typed as people type it, and guesses nothing", () => {
    for (const [text, want] of [
      ["7,500", "7500.00"],
      ["7500.5", "7500.50"],
      [" $1,234.50 ", "1234.50"],
      ["(12.00)", "-12.00"],
      ["12.00-", "-12.00"],
      ["-0.05", "-0.05"],
      ["−3", "-3.00"],
      ["0", "0.00"],
    ] as const)
      expect(typed(text)).toBe(want);
    for (const text of ["", "2,6o0", "1,23.45", "12.345", "1.234,50", "--3", "(3", "12,5"]) expect(typed(text)).toBeNull();
    expect(cents(typed("7500")!)).toBe(750000n);
  });
  it("knows a zero and a credit", () => {
    expect(isZero("0.00")).toBe(true);
    expect(isZero("0.01")).toBe(false);
    expect(isCredit("-0.01")).toBe(true);
    expect(isCredit("-0.00")).toBe(false);
  });
});

describe("days", () => {
  it("writes days the way the screens do", () => {
    expect(day("2026-07-01")).toBe("1\u00a0Jul\u00a02026");
    expect(day("")).toBe("–");
  });
  it("writes a moment of today by its time only", () => {
    const now = new Date(2026, 10, 25, 9, 4);
    expect(moment(now.toISOString(), now)).toBe("09:04");
    expect(moment(new Date(2026, 6, 3, 9, 21).toISOString(), now)).toBe("3 Jul 09:21");
  });
});
