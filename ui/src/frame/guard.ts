// A double click must not fire twice, nor hit what came to stand under the pointer: after a
// grave act, clicks at the same spot count for nothing for two seconds.
const time = 2000;
const near = 14;

let last = { x: -1000, y: -1000 };
let again = -time; // when the pointer last went down where it went down before
let downAt = -time;
let spot = { x: -1000, y: -1000, until: 0 };

/** guardSpot makes the spot that was pressed last dead for two seconds. */
export function guardSpot() {
  spot = { ...last, until: performance.now() + time };
}

/** dead says whether a click at a place, at a time, is one on a guarded spot. */
export function dead(x: number, y: number, at: number): boolean {
  return at < spot.until && Math.abs(x - spot.x) <= near && Math.abs(y - spot.y) <= near;
}

/** pressed notes where the pointer went down, and when. */
export function pressed(x: number, y: number, at = performance.now()) {
  const same = Math.abs(x - last.x) <= near && Math.abs(y - last.y) <= near && at - downAt < time;
  again = same ? at : -time;
  downAt = at;
  last = { x, y };
}

/** doubled says whether what happens now comes from pressing the same spot once more within two seconds. */
export function doubled(at = performance.now()): boolean {
  return at - again < 500;
}

if (typeof window !== "undefined") {
  addEventListener("pointerdown", (e) => pressed(e.clientX, e.clientY), true);
  addEventListener(
    "click",
    (e) => {
      // A click by key, or by a program, has no place of its own.
      if (e.detail === 0 || !dead(e.clientX, e.clientY, performance.now())) return;
      e.preventDefault();
      e.stopImmediatePropagation();
    },
    true,
  );
}
