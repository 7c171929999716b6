import { describe, expect, it } from "vitest";
import { day, dayBefore, dayTyped } from "./format";

describe("a typed day", () => {
  it("is read in the forms that people type, month first in figures", () => {
    for (const t of ["1 Jul 2026", "1 July 2026", "01-Jul-26", "Jul 1, 2026", "July 1 2026", " 7/1/2026 ", "7/1/26", "07-01-2026", "2026-07-01", "1 jul 26"])
      expect(dayTyped(t), t).toBe("2026-07-01");
    expect(dayTyped("Sept 30, 2026")).toBe("2026-09-30");
    expect(dayTyped("29 Feb 2028")).toBe("2028-02-29");
  });
  it("is refused where it is none, and never guessed", () => {
    for (const t of ["", "31 Jun 2026", "29 Feb 2026", "13/7/2026", "1 Jul", "7/1", "tomorrow", "0/1/2026", "1 Xyz 2026", "2026-13-01", "1 7 2026"])
      expect(dayTyped(t), t).toBeNull();
  });
  it("reads back every day as it is shown", () => {
    for (let t = Date.UTC(2023, 11, 1); t < Date.UTC(2025, 1, 1); t += 86_400_000) {
      const iso = new Date(t).toISOString().slice(0, 10);
      expect(dayTyped(day(iso))).toBe(iso);
      const [y, m, d] = iso.split("-");
      expect(dayTyped(`${m}/${d}/${y}`)).toBe(iso);
    }
  });
  it("has a day before it", () => {
    expect(["2026-07-01", "2026-01-01", "2028-03-01", ""].map(dayBefore)).toEqual(["2026-06-30", "2025-12-31", "2028-02-29", ""]);
  });
});
