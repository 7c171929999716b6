const months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** day writes an ISO date as "1 Jul 2026". */
export function day(iso: string | undefined): string {
  const m = /^(\d{4})-(\d{2})-(\d{2})/.exec(iso ?? "");
  if (!m) return "–";
  return `${Number(m[3])}\u00a0${months[Number(m[2]) - 1]}\u00a0${m[1]}`; // no line breaks within a date
}

/**
 * dayTyped reads a day as a person types it, month first where all are figures: "1 Jul 2026",
 * "July 1, 2026", "7/1/2026", "7/1/26", "2026-07-01". A year is always said. null is no day;
 * nothing is guessed, and 31 Jun is none.
 */
export function dayTyped(text: string): string | null {
  const t = text.trim().replace(/[\s,.]+/g, " ");
  const forms: [RegExp, (m: string[]) => [string?, string?, string?]][] = [
    [/^(\d{4})-(\d{1,2})-(\d{1,2})$/, (m) => [m[1], m[2], m[3]]],
    [/^(\d{1,2})[/-](\d{1,2})[/-](\d{4}|\d{2})$/, (m) => [m[3], m[1], m[2]]],
    [/^(\d{1,2})[ -]([a-z]{3,9})[ -](\d{4}|\d{2})$/i, (m) => [m[3], named(m[2]), m[1]]],
    [/^([a-z]{3,9}) (\d{1,2}) (\d{4})$/i, (m) => [m[3], named(m[1]), m[2]]],
  ];
  for (const [form, parts] of forms) {
    const m = form.exec(t);
    if (!m) continue;
    const [y, mo, d] = parts(m).map(Number) as [number, number, number];
    const year = y < 100 ? 2000 + y : y;
    const at = new Date(Date.UTC(year, mo - 1, d));
    return at.getUTCFullYear() === year && at.getUTCMonth() === mo - 1 && at.getUTCDate() === d ? at.toISOString().slice(0, 10) : null;
  }
  return null;
}

/** monthNames are the months of the year in full. */
export const monthNames = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"];
// The number of a month by its name or the beginning of it; "0" is none.
function named(word = ""): string {
  const w = word.toLowerCase() === "sept" ? "sep" : word.toLowerCase();
  return String(monthNames.findIndex((m) => m.toLowerCase().startsWith(w)) + 1);
}

/** dayBefore is the day before an ISO date; what is none stays so. */
export function dayBefore(iso: string): string {
  const t = Date.parse(`${iso}T00:00:00Z`);
  return Number.isNaN(t) ? "" : new Date(t - 86_400_000).toISOString().slice(0, 10);
}

/** moment writes when something happened: "09:04" today, else "3 Jul 09:21". */
export function moment(iso: string, now = new Date()): string {
  const t = new Date(iso);
  if (Number.isNaN(t.getTime())) return "–";
  const time = `${String(t.getHours()).padStart(2, "0")}:${String(t.getMinutes()).padStart(2, "0")}`;
  if (t.toDateString() === now.toDateString()) return time;
  const year = t.getFullYear() === now.getFullYear() ? "" : ` ${t.getFullYear()}`;
  return `${t.getDate()} ${months[t.getMonth()]}${year} ${time}`;
}

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${n.toLocaleString("en-US")} ${n === 1 ? one : many}`;
}

/** few lists names, the first five of many. */
export const few = (names: string[]) => (names.length > 6 ? `${names.slice(0, 5).join("; ")}; and ${names.length - 5} more` : names.join("; "));
