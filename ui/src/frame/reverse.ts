import { computed } from "vue";
import { api, type Schemas, unwrap } from "../api/client";
import { useAct, useClientState, useUnits } from "../api/queries";
import { day, plural } from "../format";
import { plain } from "../money";
import { askFirst } from "./ask";

/** useReverse reverses what was posted together, after asking; `words` name it with its figures. */
export function useReverse() {
  const { data: units } = useUnits();
  const { data: state } = useClientState();
  const act = useAct(
    (client, v: { unit: number; note: string }) =>
      unwrap(api.POST("/api/clients/{client}/units/{unit}/reverse", { params: { path: { client, unit: v.unit } }, body: { note: v.note } })),
    undefined,
    { grave: true },
  );
  const of = (unit: number) => units.value?.find((u) => u.id === unit);
  const figures = (u?: Schemas["UnitLine"]) => (u ? `${plural(u.lines, "line")}, ${plain(u.amount)}` : "");
  const words = (unit: number) => (of(unit) ? `Reverse ${figures(of(unit))}` : "Reverse");
  async function reverse(unit: number, what: string, again: string) {
    const u = of(unit);
    const facts: [string, string][] = [["Client", state.value?.client.name ?? ""]];
    if (u) facts.push(["Posted as", u.title], ["Dated", day(u.day)], ["Lines", String(u.lines)], ["Amount", plain(u.amount)]);
    const a = await askFirst({
      title: `Reverse ${what}?`,
      facts,
      undo: `A reversal of the same day takes all of it out of the books; both stay visible. ${again}`,
      reason: "Reason (optional, kept in the history)",
      act: words(unit),
    });
    if (a) act.mutate({ unit, note: a.reason });
  }
  return { reverse, words, pending: computed(() => act.isPending.value), error: act.error };
}
