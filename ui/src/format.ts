const months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** day writes an ISO date as "1 Jul 2026". */
export function day(iso: string | undefined): string {
  const m = /^(\d{4})-(\d{2})-(\d{2})/.exec(iso ?? "");
  if (!m) return "–";
  return `${Number(m[3])} ${months[Number(m[2]) - 1]} ${m[1]}`;
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
