import type { Schemas } from "../../api/client";
import type { Offer } from "../../frame/offers";
import { cents, fromCents, type Money } from "../../money";

export type Need = Schemas["PayNeed"];

/** side of an entry that a facet is posted on. */
export const sideOf: Record<string, string> = { expense: "Dr", liability: "Cr", contra: "Cr", bank: "Cr" };

const rank: Record<string, number> = { open: 0, broken: 0, suggested: 1, set: 2, "left out": 3 };

/** worst is the state that counts for a row of several needs: what is loose first. */
export function worst(needs: Need[]): string {
  return needs.reduce((w, n) => ((rank[n.state] ?? 0) < (rank[w] ?? 9) ? n.state : w), needs[0]?.state ?? "set");
}

export interface Account {
  side: string;
  words: string;
  groups: string[];
  state: string;
}

/** accountsOf folds the needs of an item: groups that go to one account stand together. */
export function accountsOf(needs: Need[]): Account[] {
  const out: Account[] = [];
  const groups = new Set(needs.filter((n) => n.facet === "expense").map((n) => n.group));
  for (const n of needs) {
    const words = n.state === "open" ? "no home yet" : n.target;
    const same = out.find((a) => a.side === sideOf[n.facet] && a.words === words && a.state === n.state);
    if (same) {
      if (n.group) same.groups.push(n.group);
    } else out.push({ side: sideOf[n.facet] ?? "", words, groups: n.group ? [n.group] : [], state: n.state });
  }
  // A group is named only where the groups part.
  for (const a of out) if (a.groups.length >= groups.size) a.groups = [];
  return out;
}

/** less is a figure less another, for the column of differences. */
export const less = (a: Money, b: Money): Money => fromCents(cents(a) - cents(b));

/** fits says whether an account can be right for a facet at all. */
export function fits(facet: string, t: Schemas["Target"]): boolean {
  if (!t.active || t.parent || t.role.startsWith("opening clearing")) return false;
  if (facet === "expense") return ["expense", "cost of sales", "other expense"].includes(t.kind.toLowerCase());
  if (facet === "liability") return (t.kind.toLowerCase() === "liability" && t.sort !== "payable") || t.sort === "other current asset";
  if (facet === "bank") return t.sort === "bank";
  return true;
}

/** find lists the accounts that typed text means, those that fit the facet first. */
export function find(text: string, facet: string, targets: Schemas["Target"][], most = 9): Schemas["Target"][] {
  const low = text.trim().toLowerCase();
  const hits = targets.filter((t) => t.active && !t.parent && (!low || `${t.number} ${t.name} ${t.kind} ${t.role}`.toLowerCase().includes(low)));
  // Payroll's own accounts first.
  const score = (t: Schemas["Target"]) =>
    (fits(facet, t) ? 0 : 4) +
    (t.sort.startsWith("payroll") ? -2 : 0) +
    (low && (t.number === low || t.name.toLowerCase() === low) ? -8 : 0) +
    (t.number.startsWith(low) ? 0 : 1);
  return hits.sort((a, b) => score(a) - score(b) || a.number.localeCompare(b.number)).slice(0, most);
}

/** offersOf lists what is suggested for the needs of items, each with the need that it answers. */
export function offersOf(items: Schemas["PayItem"][]): (Offer & { need: Schemas["PayNeedKey"] })[] {
  return items.flatMap((i) =>
    i.needs.flatMap((n) =>
      n.state === "suggested" && n.suggestion
        ? [
            {
              key: `${i.id} ${n.facet} ${n.group}`,
              name: [i.name, n.group ? `${n.facet} of ${n.group}` : n.facet].join(", "),
              target: n.target,
              evidence: n.evidence,
              confidence: n.suggestion.confidence,
              doubt: n.suggestion.doubt,
              need: { item_id: i.id, facet: n.facet, group: n.group },
            },
          ]
        : [],
    ),
  );
}
