// How wide the columns of the grid are, by what they hold, and which hold figures.
const figures = ["debit", "credit", "amount", "pay", "total", "hours", "year-to-date", "employer-amount", "form-figure"];
const sums = ["original", "settled", "open", "tax", "balance", "withheld"];
const widths: Record<string, number> = {
  ...Object.fromEntries([...figures, ...sums].map((m) => [m, 104])),
  ...{ number: 78, amount: 116, hours: 84, pay: 96, total: 96, kind: 104, sort: 104, side: 60, parent: 96, active: 70 },
  ...{
    date: 96,
    due: 96,
    "check-date": 104,
    "document-number": 96,
    document: 96,
    terms: 76,
    "employee-id": 116,
    "check-number": 96,
    officer: 84,
    zip: 76,
    state: 76,
  },
};

/** says whether a column of this meaning holds figures, which stand to the right. */
export const holdsFigures = (meaning: string) => figures.includes(meaning) || sums.includes(meaning);

/** the least width of a column in pixels. */
const leastWidth = (meaning: string) => widths[meaning] ?? (meaning === "ignore" ? 96 : 120);

/**
 * The columns of the grid after the row's number and what it is: what has no width of its
 * own takes the room that is left; where all have one, all do. longest is, by column, how many
 * letters the longest figure or number in it has, so that none is cut.
 */
export function columnsOf(gutter: number, meanings: string[], longest: number[] = []): { template: string; least: string } {
  const least = (m: string, i: number) => Math.max(leastWidth(m), Math.ceil((longest[i] ?? 0) * 8.4) + 14);
  const all = meanings.every((m) => m in widths);
  const each = meanings.map((m, i) => (all || !(m in widths) ? `minmax(${least(m, i)}px, 1fr)` : `${least(m, i)}px`));
  return { template: [`${gutter}px`, "84px", ...each].join(" "), least: `${84 + gutter + meanings.reduce((n, m, i) => n + least(m, i), 0)}px` };
}
