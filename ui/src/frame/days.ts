/**
 * daysRead says whether what is typed in the fields of days, by their ids, was read; the first that
 * was not says what is wrong. Forms ask it by themselves; acts outside a form ask here.
 */
export function daysRead(...ids: string[]): boolean {
  return ids.every((id) => (document.getElementById(id) as HTMLInputElement | null)?.reportValidity() ?? true);
}
