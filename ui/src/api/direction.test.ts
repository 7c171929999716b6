import { describe, expect, it } from "vitest";
import { bare, isolate } from "./direction";

describe("direction of writing", () => {
  it("isolates a name from what stands beside it", () => {
    expect(isolate("שלום עולם owes 100.00")).toBe("\u2068שלום עולם\u2069 owes 100.00");
    expect(isolate("1200 שלום, מס' 4 ושות 100.00")).toBe("1200 \u2068שלום, מס' 4 ושות\u2069 100.00");
    expect(isolate("Alder & Sons (1) 100.00")).toBe("Alder & Sons (1) 100.00");
  });
  it("shows what turns the direction", () => {
    expect(isolate("invoice\u202Efdp.exe")).toBe("invoice⟨U+202E⟩fdp.exe");
    expect(isolate("a\u2068b\u061C")).toBe("a⟨U+2068⟩b⟨U+061C⟩");
  });
  it("keeps JSON what it is", () => {
    const v = { name: 'שלום "א"', n: [1, "א\\ב"], ab: "x" };
    expect(JSON.parse(isolate(JSON.stringify(v))).n[0]).toBe(1);
    expect(JSON.parse(bare(isolate(JSON.stringify(v))))).toEqual(v);
  });
  it("goes out as it came", () => {
    expect(bare(isolate("שלום 5"))).toBe("שלום 5");
    expect(bare(`/api/find?q=${encodeURIComponent(isolate("שלום"))}`)).toBe(`/api/find?q=${encodeURIComponent("שלום")}`);
  });
});
