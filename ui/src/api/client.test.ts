import { expect, test } from "vitest";
import { noAnswer, Refusal, unwrap } from "./client";

const answer = (status: number, data?: unknown, error?: unknown) => Promise.resolve({ data, error, response: new Response(null, { status }) });

test("an answer gives its data, a refusal the server's words", async () => {
  await expect(unwrap(answer(200, { a: 1 }))).resolves.toEqual({ a: 1 });
  const r = await unwrap(answer(409, undefined, { code: "same-file", detail: "it is here already", now: { batch: 3 } })).catch((e: unknown) => e);
  expect(r).toMatchObject({ status: 409, code: "same-file", message: "it is here already", now: { batch: 3 } });
  expect(noAnswer(r)).toBe(false);
});

test("nobody answering is told from a refusal, and never claims that nothing was saved", async () => {
  const gone = await unwrap(Promise.reject(new TypeError("Failed to fetch"))).catch((e: unknown) => e as Refusal);
  expect(noAnswer(gone)).toBe(true);
  expect((gone as Refusal).message).toContain("may not be saved");
  expect(noAnswer(await unwrap(answer(502)).catch((e: unknown) => e))).toBe(true);
  expect(noAnswer(new Error("a fault of ours"))).toBe(false);
});

test("a fault of the program is not taken for a lost network", async () => {
  await expect(unwrap(Promise.reject(new RangeError("ours")))).rejects.toThrow("ours");
});
