import { onBeforeUnmount, ref } from "vue";

/** A key of the current screen; `?` lists them. */
export interface Key {
  key: string;
  words: string;
  run: (e: KeyboardEvent) => void;
}

const layers: Key[][] = [];

/** Single-letter keys can be switched off (WCAG 2.1.4); the choice is kept. */
export const lettersOn = ref(localStorage.getItem("letters") !== "off");

export function setLetters(on: boolean) {
  lettersOn.value = on;
  localStorage.setItem("letters", on ? "on" : "off");
}

export function currentKeys(): Key[] {
  const seen = new Set<string>();
  return [...layers]
    .reverse()
    .flat()
    .filter((k) => !seen.has(k.key) && seen.add(k.key));
}

function typing(e: KeyboardEvent): boolean {
  const t = e.target as HTMLElement;
  return /^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName) || t.isContentEditable || !!t.closest('[role="combobox"],[role="dialog"]');
}

let prefix = "";

/** matchKey says which key an event is, with the two-stroke `g` keys. */
export function keyOf(e: { key: string; ctrlKey: boolean; metaKey: boolean; altKey: boolean }, before: string): string {
  if (e.altKey) return "";
  if (e.ctrlKey || e.metaKey) return e.key.toLowerCase() === "k" ? "Ctrl K" : "";
  return before ? `${before} ${e.key}` : e.key;
}

function onKey(e: KeyboardEvent) {
  const name = keyOf(e, prefix);
  prefix = "";
  if (!name) return;
  const control = name === "Ctrl K";
  if (typing(e) && !control) return;
  if (document.querySelector(".ant-modal-wrap")) return; // nothing acts behind a box that is open
  if (name === "g" && lettersOn.value) {
    prefix = "g";
    return;
  }
  const letter = name.length === 1 || name.startsWith("g ");
  if (letter && name !== "?" && !lettersOn.value) return;
  // Enter and Space belong to the focused button or link.
  if (name === "Enter" && (e.target as HTMLElement).closest("button,a,summary")) return;
  for (const layer of [...layers].reverse()) {
    const hit = layer.find((k) => k.key === name || (k.key === "g 1–9" && /^g [1-9]$/.test(name)));
    if (hit) {
      e.preventDefault();
      hit.run(e);
      return;
    }
  }
}

/** useKeys adds keys while the component is shown; inner screens win. */
export function useKeys(keys: Key[]) {
  // At set-up, not when mounted: children are mounted first, and theirs must win.
  if (layers.length === 0) addEventListener("keydown", onKey);
  layers.push(keys);
  onBeforeUnmount(() => {
    layers.splice(layers.indexOf(keys), 1);
    if (layers.length === 0) removeEventListener("keydown", onKey);
  });
}
