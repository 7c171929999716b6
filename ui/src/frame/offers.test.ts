import { expect, test } from "vitest";
import { choosable, type Offer } from "./offers";

const offer = (key: string, confidence: number, doubt?: string): Offer => ({ key, name: key, target: "", evidence: "", confidence, doubt });

test("the least certain come first, what the chart's words speak against last", () => {
  const all = [offer("a", 0.9), offer("b", 0.76, "2110 State says “state”"), offer("c", 0.75), offer("d", 0.74), offer("e", 0.95, "x")];
  expect(choosable(all, 0.75).map((o) => o.key)).toEqual(["c", "a", "b", "e"]);
  expect(choosable(all, 0.92).map((o) => o.key)).toEqual(["e"]);
  expect(choosable(all, 1)).toEqual([]);
});
