import { expect, test } from "vitest";
import type { Schemas } from "../../api/client";
import { backTo } from "./matchNames";

const need = (label_id: number, state: string, party_id = 0, evidence = "") => ({ label_id, state, party_id, evidence }) as Schemas["PartyNeed"];

test("names go back to what each was", () => {
  expect(
    backTo([
      need(1, "open"),
      need(2, "suggested", 9, "same name"),
      need(3, "set", 9, "chosen"),
      need(4, "set", 7, "made from the list"),
      need(5, "left out", 0, "closed"),
      need(6, "set", 9, "same name"),
    ]),
  ).toEqual([
    { label_ids: [1, 2], take_back: true },
    { label_ids: [3, 6], party_id: 9 },
    { label_ids: [4], make: true },
    { label_ids: [5], leave_out: "closed" },
  ]);
});
