import type { Schemas } from "../../api/client";
import { figure, isZero } from "../../money";

/** groupPile sets the payees out by state, loose ones first. */
export function groupPile(rows: Schemas["PayeeLine"][], filter: string): { words: string; rows: Schemas["PayeeLine"][] }[] {
  const hit = (r: Schemas["PayeeLine"]) => `${r.name} ${r.words} ${r.boxes.join(" ")}`.toLowerCase().includes(filter.toLowerCase());
  const heads: [Schemas["PayeeLine"]["state"], string][] = [
    ["undecided", "Undecided"],
    ["on a form with a fault", "On a form, with a fault"],
    ["gets forms and nothing to report", "Gets forms, nothing to report"],
    ["on a form", "On a form"],
    ["no form", "No form"],
  ];
  return heads.map(([state, words]) => ({ words, rows: rows.filter((r) => r.state === state && hit(r)) })).filter((g) => g.rows.length > 0);
}

/** inWords writes an amount without a sign: what came back is said so. */
export function paidWords(m: string): string {
  return figure(m, "back");
}

/** samePayment says whether a line belongs to the payment of the line before it. */
export function samePayment(lines: Schemas["PaidView"][], i: number): boolean {
  return i > 0 && lines[i - 1]!.payment === lines[i]!.payment;
}

/** boxWords names a box as people say it: NEC 1, nonemployee compensation. */
export function boxWords(box: string, rules: Schemas["PayeesRule"][]): string {
  const r = rules.find((x) => x.box === box);
  return r ? `${box}, ${r.caption.charAt(0).toLowerCase()}${r.caption.slice(1)}` : box;
}

/** findBoxes lists the boxes that typed text may mean. */
export function findBoxes(text: string, rules: Schemas["PayeesRule"][]): Schemas["PayeesRule"][] {
  const t = text.trim().toLowerCase();
  const open = rules.filter((r) => !r.by_hand);
  if (!t) return open;
  const starts = open.filter((r) => r.box.toLowerCase().startsWith(t) || r.box.toLowerCase().split(" ")[1] === t);
  return [...starts, ...open.filter((r) => !starts.includes(r) && `${r.box} ${r.caption}`.toLowerCase().includes(t))];
}

/** dueWords says how far a deadline is. */
export function dueWords(d: Schemas["FormDue"]): string {
  const n = Math.abs(d.days_left);
  return `${d.days_left === 0 ? "today" : d.days_left > 0 ? `in ${n} ${n === 1 ? "day" : "days"}` : `${n} ${n === 1 ? "day" : "days"} ago`}`;
}

/** bucketWords names a bucket as the tape prints it. */
export function bucketWords(b: string): string {
  return b === "paid by a method others report" ? "Paid by card or network" : b.charAt(0).toUpperCase() + b.slice(1);
}

/** linesOf are the payment lines that a box of a form is made of; "withheld" those that
 * tax was taken from, "" all of them. */
export function linesOf(lines: Schemas["PaidView"][], box: string): Schemas["PaidView"][] {
  if (!box) return lines;
  return lines.filter((l) => (box === "withheld" ? !isZero(l.withheld) : l.box === box && l.bucket === "on a form"));
}
