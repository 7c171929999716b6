// @vitest-environment happy-dom
import { mount } from "@vue/test-utils";
import { afterEach, describe, expect, it } from "vitest";
import { type Component, defineComponent, h } from "vue";
import { currentKeys, keyOf, setLetters, useKeys } from "./keys";

const press = (key: string, on: EventTarget = document.body, extra = {}) =>
  on.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...extra }));
const plain = { ctrlKey: false, metaKey: false, altKey: false };

function screen(keys: Parameters<typeof useKeys>[0], inner?: Component) {
  return defineComponent({
    setup() {
      useKeys(keys);
      return () => h("div", [h("input"), h("button", "b"), inner ? h(inner) : null]);
    },
  });
}

afterEach(() => setLetters(true));

describe("keys", () => {
  it("names keys, with Ctrl K and the two strokes of g", () => {
    expect(keyOf({ key: "j", ...plain }, "")).toBe("j");
    expect(keyOf({ key: "2", ...plain }, "g")).toBe("g 2");
    expect(keyOf({ key: "k", ...plain, ctrlKey: true }, "")).toBe("Ctrl K");
    expect(keyOf({ key: "s", ...plain, ctrlKey: true }, "")).toBe("");
    expect(keyOf({ key: "x", ...plain, altKey: true }, "")).toBe("");
  });

  it("runs the key of the innermost screen, and none after it is gone", () => {
    const seen: string[] = [];
    const inner = screen([{ key: "j", words: "inner", run: () => seen.push("inner") }]);
    const w = mount(
      screen(
        [
          { key: "j", words: "outer", run: () => seen.push("outer") },
          { key: "b", words: "books", run: () => seen.push("b") },
        ],
        inner,
      ),
      { attachTo: document.body },
    );
    press("j");
    press("b");
    expect(seen).toEqual(["inner", "b"]);
    expect(currentKeys().filter((k) => k.key === "j")).toHaveLength(1);
    w.unmount();
    press("b");
    expect(seen).toHaveLength(2);
  });

  it("never fires while one types, except Ctrl K", () => {
    const seen: string[] = [];
    const w = mount(
      screen([
        { key: "x", words: "x", run: () => seen.push("x") },
        { key: "Ctrl K", words: "find", run: () => seen.push("find") },
      ]),
      { attachTo: document.body },
    );
    const input = w.find("input").element;
    press("x", input);
    press("k", input, { ctrlKey: true });
    expect(seen).toEqual(["find"]);
    w.unmount();
  });

  it("can be switched off for single letters, not for the help", () => {
    const seen: string[] = [];
    const w = mount(
      screen([
        { key: "x", words: "x", run: () => seen.push("x") },
        { key: "?", words: "keys", run: () => seen.push("?") },
        { key: "g 1–9", words: "peg", run: (e) => seen.push(e.key) },
      ]),
      { attachTo: document.body },
    );
    setLetters(false);
    press("x");
    press("?");
    press("g");
    press("2");
    expect(seen).toEqual(["?"]);
    setLetters(true);
    press("g");
    press("2");
    expect(seen).toEqual(["?", "2"]);
    w.unmount();
  });

  it("leaves Enter to a focused button", () => {
    const seen: string[] = [];
    const w = mount(screen([{ key: "Enter", words: "open", run: () => seen.push("open") }]), { attachTo: document.body });
    press("Enter", w.find("button").element);
    expect(seen).toEqual([]);
    press("Enter");
    expect(seen).toEqual(["open"]);
    w.unmount();
  });
});
