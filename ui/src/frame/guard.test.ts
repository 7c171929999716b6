import { describe, expect, it } from "vitest";
import { dead, doubled, guardSpot, pressed } from "./guard";

describe("a guarded spot", () => {
  it("is dead for two seconds, and only there", () => {
    pressed(100, 50);
    expect(dead(100, 50, performance.now())).toBe(false);
    guardSpot();
    const now = performance.now();
    expect(dead(104, 47, now + 150)).toBe(true);
    expect(dead(100, 50, now + 1900)).toBe(true);
    expect(dead(100, 50, now + 2100)).toBe(false);
    expect(dead(140, 50, now + 150)).toBe(false);
    pressed(300, 300);
    expect(dead(100, 50, now + 150)).toBe(true);
    expect(dead(300, 300, now + 150)).toBe(false);
  });
  it("knows a double click from two clicks", () => {
    pressed(10, 10, 1000);
    expect(doubled(1001)).toBe(false);
    pressed(12, 9, 1150);
    expect(doubled(1151)).toBe(true);
    expect(doubled(1800)).toBe(false);
    pressed(12, 9, 4000);
    expect(doubled(4001)).toBe(false);
    pressed(200, 9, 4100);
    pressed(12, 9, 4200);
    expect(doubled(4201)).toBe(false);
  });
});
