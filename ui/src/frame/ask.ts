import { shallowRef } from "vue";
import { guardSpot } from "./guard";

/** What is asked before an act that cannot be undone, or that moves much. */
export interface Ask {
  /** A question that names what, such as "Reverse the opening?". */
  title: string;
  /** What it is about: for whom, year, count, total. */
  facts: [name: string, value: string][];
  /** Whether it can be undone, and how. */
  undo: string;
  /** What is wrong or unfinished; needs a tick of its own. */
  doubts?: string[];
  /** The name of a reason that is kept; needed where mustReason. */
  reason?: string;
  mustReason?: boolean;
  /** The words on the button that does it, with figures. */
  act: string;
}

/** What was answered. */
export interface Answer {
  sure: boolean;
  reason: string;
}

interface Open {
  ask: Ask;
  answer: (a: Answer | undefined) => void;
}

/** The box that is open, if one is. */
export const asked = shallowRef<Open>();

/** askFirst opens a box and gives its answer; undefined is Cancel. */
export function askFirst(ask: Ask): Promise<Answer | undefined> {
  asked.value?.answer(undefined);
  return new Promise((resolve) => {
    asked.value = {
      ask,
      answer: (a) => {
        asked.value = undefined;
        guardSpot();
        resolve(a);
      },
    };
  });
}
