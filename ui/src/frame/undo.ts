import { ref, shallowRef } from "vue";

/** How a change is undone: what it was, in words, and the act that undoes it. */
export interface Undo {
  words: string;
  run: () => Promise<unknown>;
}

/** The changes of one client that can still be undone on this page, the last one first. */
export const undos = shallowRef<(Undo & { client: number })[]>([]);
const most = 50;

/** How many changes were kept: it tells a new one from the next one to be undone. */
export const kept = ref(0);

/** keepUndo keeps how a change of a client is undone. */
export function keepUndo(client: number, u: Undo) {
  kept.value++;
  undos.value = [{ ...u, client }, ...undos.value.filter((x) => x.client === client)].slice(0, most);
}

/** lastUndo is the last change of a client, which is taken off the list. */
export function lastUndo(client: number): Undo | undefined {
  const [first, ...rest] = undos.value.filter((x) => x.client === client);
  undos.value = rest;
  return first;
}

/** forgetUndo empties the list, after an act such as posting that the list cannot undo. */
export function forgetUndo() {
  undos.value = [];
}
