/** Money crosses the wire as a decimal string, debit positive: "-1234.50". */
export type Money = string;

/**
 * typed reads an amount as a person types it: "7,500", "7500.5", "$12.00", with a minus before or
 * after it or in parentheses for what takes off. null is no amount; nothing is guessed.
 */
export function typed(text: string): Money | null {
  let s = text.replace(/[\s$]/g, "").replace("−", "-");
  let neg = false;
  if (/^\(.*\)$/.test(s)) [s, neg] = [s.slice(1, -1), true];
  else if (/^-|-$/.test(s)) [s, neg] = [s.replace(/^-|-$/, ""), true];
  if (!/^(\d+|\d{1,3}(,\d{3})+)(\.\d{1,2})?$/.test(s)) return null;
  const [whole = "0", frac = ""] = s.replace(/,/g, "").split(".");
  return `${neg ? "-" : ""}${whole}.${frac.padEnd(2, "0")}`;
}

/** cents turns an exchanged amount into minor units, for adding up on screen. */
export function cents(m: Money): bigint {
  const neg = m.startsWith("-");
  const n = BigInt(m.replace("-", "").replace(".", ""));
  return neg ? -n : n;
}

/** fromCents is the inverse of cents. */
export function fromCents(c: bigint): Money {
  const neg = c < 0n;
  const s = (neg ? -c : c).toString().padStart(3, "0");
  return `${neg ? "-" : ""}${s.slice(0, -2)}.${s.slice(-2)}`;
}

/** plain writes the size of an amount for a person: "1,234.50", never a minus. */
export function plain(m: Money): string {
  const s = m.replace("-", "");
  const [whole = "0", frac = "00"] = s.split(".");
  return `${whole.replace(/\B(?=(\d{3})+$)/g, ",")}.${frac}`;
}

export function isZero(m: Money): boolean {
  return /^-?0*\.?0*$/.test(m);
}

export function isCredit(m: Money): boolean {
  return m.startsWith("-") && !isZero(m);
}

/** words writes an amount with its side where that is not said by a column. */
export function words(m: Money): string {
  if (isZero(m)) return "0.00";
  return `${isCredit(m) ? "credit" : "debit"} ${plain(m)}`;
}

/** figure writes an amount where its usual side is understood; one on the other side says so. */
export function figure(m: Money, other = "less"): string {
  return isCredit(m) ? `${other} ${plain(m)}` : plain(m);
}

/** upDown writes a change of an amount. */
export function upDown(m: Money): string {
  return isZero(m) ? "unchanged" : `${isCredit(m) ? "down" : "up"} ${plain(m)}`;
}

/** sum adds amounts for display. */
export function sum(list: Money[]): Money {
  return fromCents(list.reduce((a, m) => a + cents(m), 0n));
}

/** size compares amounts by how large they are, without their side. */
export function size(m: Money): number {
  return Number(cents(m) < 0n ? -cents(m) : cents(m));
}
