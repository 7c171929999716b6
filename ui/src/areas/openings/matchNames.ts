import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, usePartyNeeds } from "../../api/queries";

const post = (client: number, body: Schemas["PartyChoice"]) => unwrap(api.POST("/api/clients/{client}/party-needs", { params: { path: { client } }, body }));

/** backTo is what makes names be matched as they are now; names matched alike go together. */
export function backTo(needs: Schemas["PartyNeed"][]): Schemas["PartyChoice"][] {
  const by = new Map<string, Schemas["PartyChoice"]>();
  for (const n of needs) {
    const body: Omit<Schemas["PartyChoice"], "label_ids"> =
      n.state === "left out"
        ? { leave_out: n.evidence }
        : n.state === "set"
          ? n.evidence === "made from the list"
            ? { make: true }
            : { party_id: n.party_id }
          : { take_back: true };
    const key = JSON.stringify(body);
    const has = by.get(key);
    if (has) has.label_ids!.push(n.label_id);
    else by.set(key, { label_ids: [n.label_id], ...body });
  }
  return [...by.values()];
}

/** useMatchNames matches outside names to customers and vendors; one key undoes it. */
export function useMatchNames(after?: () => void) {
  const { data: needs } = usePartyNeeds();
  return useAct(post, after, {
    undo: (v, client) => {
      const was = (needs.value ?? []).filter((n) => v.label_ids?.includes(n.label_id));
      const back = backTo(was);
      return {
        words: was.length === 1 ? was[0]!.name : `${was.length} names`,
        run: async () => {
          for (const b of back) await post(client, b);
        },
      };
    },
  });
}
