import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";
import { useRoute } from "vue-router";
import { doubled, guardSpot } from "../frame/guard";
import { forgetUndo, keepUndo, type Undo } from "../frame/undo";
import { api, noAnswer, type Schemas, unwrap } from "./client";

/** useClientId is the client in the address. */
export function useClientId() {
  const route = useRoute();
  return computed(() => Number(route.params.client ?? 0));
}

export function useMe() {
  return useQuery({ queryKey: ["me"], queryFn: () => unwrap(api.GET("/api/me")), staleTime: 60_000 });
}

export function useBoard() {
  return useQuery({ queryKey: ["board"], queryFn: () => unwrap(api.GET("/api/clients")) });
}

function of<T>(key: string, get: (client: number) => Promise<T>, extra: MaybeRefOrGetter<unknown> = "", wanted: () => boolean = () => true) {
  const id = useClientId();
  return useQuery({
    queryKey: ["client", id, key, computed(() => toValue(extra))],
    queryFn: () => get(id.value),
    enabled: computed(() => id.value > 0 && wanted()),
  });
}

const at = (client: number) => ({ params: { path: { client } } });

export const useClientState = () => of("state", (c) => unwrap(api.GET("/api/clients/{client}/state", at(c))));
export const usePapers = (batch: MaybeRefOrGetter<number>) =>
  of(
    "papers",
    (client) => unwrap(api.GET("/api/clients/{client}/batches/{batch}/attachments", { params: { path: { client, batch: toValue(batch) } } })),
    batch,
  );
export const useFiles = () => of("files", (c) => unwrap(api.GET("/api/clients/{client}/batches", at(c))));
export const useChart = () => of("chart", (c) => unwrap(api.GET("/api/clients/{client}/chart", at(c))));
export const useRack = () => of("rack", (c) => unwrap(api.GET("/api/clients/{client}/rack", at(c))));
export const useOpening = () => of("opening", (c) => unwrap(api.GET("/api/clients/{client}/opening", at(c))));
export const useProofs = () => of("proofs", (c) => unwrap(api.GET("/api/clients/{client}/proofs", at(c))));
export const useUnits = () => of("units", (c) => unwrap(api.GET("/api/clients/{client}/units", at(c))));
export const useHistory = () => of("history", (c) => unwrap(api.GET("/api/clients/{client}/history", at(c))));

export const useOpenings = () => of("openings", (c) => unwrap(api.GET("/api/clients/{client}/openings", at(c))));
export const usePartyNeeds = () => of("party-needs", (c) => unwrap(api.GET("/api/clients/{client}/party-needs", at(c))));
export const useParties = () => of("parties", (c) => unwrap(api.GET("/api/clients/{client}/parties", at(c))));
export const useSignOff = () => of("sign-off", (c) => unwrap(api.GET("/api/clients/{client}/sign-off", at(c))));
export const useRoles = () => of("roles", (c) => unwrap(api.GET("/api/clients/{client}/roles", at(c))));
export const useKits = () => of("kits", (c) => unwrap(api.GET("/api/clients/{client}/kits", at(c))));
export const useStarters = () => of("starters", (c) => unwrap(api.GET("/api/clients/{client}/starters", at(c))));

export const usePayroll = () => of("payroll", (c) => unwrap(api.GET("/api/clients/{client}/payroll", at(c))));
export const useRollForward = () => of("roll-forward", (c) => unwrap(api.GET("/api/clients/{client}/payroll/roll-forward", at(c))));
export const useRun = (run: MaybeRefOrGetter<number>) =>
  of(
    "run",
    (client) => unwrap(api.GET("/api/clients/{client}/payroll/runs/{run}", { params: { path: { client, run: toValue(run) } } })),
    run,
    () => toValue(run) > 0, // 0 while it is not known which
  );
export const useBills = () => of("bills", (c) => unwrap(api.GET("/api/clients/{client}/payroll/bills", at(c))));
export const useBill = (bill: MaybeRefOrGetter<number>) =>
  of("bill", (client) => unwrap(api.GET("/api/clients/{client}/payroll/bills/{bill}", { params: { path: { client, bill: toValue(bill) } } })), bill);
export const usePayForms = (ask: MaybeRefOrGetter<{ year: number; quarter: number }>) =>
  of("pay-forms", (client) => unwrap(api.GET("/api/clients/{client}/payroll/forms", { params: { path: { client }, query: toValue(ask) } })), ask);

/** An employee's Form W-2 of a year; asked only where somebody is selected. */
export const usePersonW2 = (ask: MaybeRefOrGetter<{ employee: number; year: number }>) =>
  of(
    "person-w2",
    (client) => {
      const { employee, year } = toValue(ask);
      return employee
        ? unwrap(api.GET("/api/clients/{client}/payroll/forms/w2/{employee}", { params: { path: { client, employee }, query: { year } } }))
        : Promise.resolve(null);
    },
    ask,
  );

export const usePartyMerge = (ask: MaybeRefOrGetter<{ party: number; into: number }>) =>
  of(
    "party-merge",
    (client) => {
      const { party, into } = toValue(ask);
      return into
        ? unwrap(api.GET("/api/clients/{client}/parties/{party}/merge", { params: { path: { client, party }, query: { into } } }))
        : Promise.resolve(null);
    },
    ask,
  );

type Year = MaybeRefOrGetter<number>;
const inYear = (client: number, year: Year) => ({ params: { path: { client }, query: { year: toValue(year) } } });
export const usePayees = (year: Year) => of("payees", (c) => unwrap(api.GET("/api/clients/{client}/payees", inYear(c, year))), year);
export const usePaidMonths = (year: Year) => of("paid-months", (c) => unwrap(api.GET("/api/clients/{client}/payees/months", inYear(c, year))), year);
export const useSecondLook = (year: Year) => of("second-look", (c) => unwrap(api.GET("/api/clients/{client}/payees/look", inYear(c, year))), year);
export const usePayeeForms = (year: Year) => of("payee-forms", (c) => unwrap(api.GET("/api/clients/{client}/payees/forms", inYear(c, year))), year);
export const useOutbox = () => of("outbox", (c) => unwrap(api.GET("/api/clients/{client}/payees/outbox", at(c))));
export const useFiling = (year: Year) => of("filing", (c) => unwrap(api.GET("/api/clients/{client}/payees/filing", inYear(c, year))), year);

/** usePayeeRest lists the accounts of the chart that nothing was charged to, on demand. */
export function usePayeeRest(year: Year, wanted: MaybeRefOrGetter<boolean>) {
  const id = useClientId();
  return useQuery({
    queryKey: ["client", id, "payee-rest", computed(() => toValue(year))],
    queryFn: () => unwrap(api.GET("/api/clients/{client}/payees/rest", inYear(id.value, year))),
    enabled: computed(() => id.value > 0 && toValue(wanted)),
  });
}

/** usePayee is one payee of a year with every line. */
export function usePayee(what: MaybeRefOrGetter<{ id: number; year: number }>, wanted: MaybeRefOrGetter<boolean>) {
  const id = useClientId();
  return useQuery({
    queryKey: ["client", id, "payee", computed(() => toValue(what))],
    queryFn: () =>
      unwrap(
        api.GET("/api/clients/{client}/payees/payee/{payee}", {
          params: { path: { client: id.value, payee: toValue(what).id }, query: { year: toValue(what).year } },
        }),
      ),
    enabled: computed(() => id.value > 0 && toValue(wanted)),
    placeholderData: (before) => before,
  });
}

/** useItems is what posting a list of open items would do; gone are identities to reverse. */
export function useItems(batch: MaybeRefOrGetter<number>, gone: MaybeRefOrGetter<string[]>) {
  const id = useClientId();
  return useQuery({
    queryKey: ["client", id, "items", computed(() => toValue(batch)), computed(() => [...toValue(gone)])],
    queryFn: () =>
      unwrap(
        api.GET("/api/clients/{client}/batches/{batch}/items", {
          params: { path: { client: id.value, batch: toValue(batch) }, query: { gone: [...toValue(gone)] } },
        }),
      ),
    enabled: computed(() => toValue(batch) > 0),
    placeholderData: (before) => before,
  });
}

export const useAging = (side: MaybeRefOrGetter<string>) =>
  of(
    "aging",
    (client) =>
      unwrap(api.GET("/api/clients/{client}/books/aging/{side}", { params: { path: { client, side: toValue(side) as "receivable" }, query: { as_of: "" } } })),
    side,
  );

export function useFile(batch: MaybeRefOrGetter<number>) {
  return of("file", (client) => unwrap(api.GET("/api/clients/{client}/batches/{batch}", { params: { path: { client, batch: toValue(batch) } } })), batch);
}

export interface WhyOf {
  fact?: number;
  label?: number;
  entry?: number;
  no?: number;
  account?: number;
  from?: number;
}

export function useWhy(what: MaybeRefOrGetter<WhyOf | null>) {
  const id = useClientId();
  return useQuery({
    queryKey: ["client", id, "why", computed(() => toValue(what))],
    queryFn: () => unwrap(api.GET("/api/clients/{client}/why", { params: { path: { client: id.value }, query: toValue(what) ?? {} } })),
    enabled: computed(() => toValue(what) !== null),
  });
}

/** How an act is carried out, beside what it calls. */
interface ActWays<V, R> {
  /** Said before the act, while the state before can still be read: how the act is undone. */
  undo?: (v: V, client: number, result: () => R | undefined) => Undo | undefined;
  /** It posts, reverses, files or deletes: what could be undone before cannot be any more. */
  grave?: boolean;
}

const twice = 2000;

/**
 * useAct wraps a write: while it runs the button is busy, afterwards every
 * figure of the client is asked for anew, so that proofs and strip follow. The
 * same act once more from the same spot within two seconds is a double click, and is not done.
 */
export function useAct<V, R>(act: (client: number, v: V) => Promise<R>, after?: (r: R, v: V) => void, ways: ActWays<V, R> = {}) {
  const id = useClientId();
  const q = useQueryClient();
  let result: R | undefined;
  let way: Undo | undefined;
  let last = { what: "", at: 0 };
  const m = useMutation({
    mutationFn: (v: V) => {
      result = undefined;
      way = ways.undo?.(v, id.value, () => result);
      return act(id.value, v);
    },
    onError: (e) => {
      last = { what: "", at: 0 };
      if (noAnswer(e)) void q.invalidateQueries({ queryKey: ["client", id.value, "state"] }); // the frame says so too, and asks again
    },
    onSuccess: async (r: R, v: V) => {
      result = r;
      last.at = Date.now();
      if (ways.grave) {
        forgetUndo();
        guardSpot();
      } else if (way) keepUndo(id.value, way);
      after?.(r, v);
      await Promise.all([q.invalidateQueries({ queryKey: ["client"] }), q.invalidateQueries({ queryKey: ["board"] })]);
    },
  });
  const mutate = (v: V) => {
    const what = v instanceof Blob ? "" : (JSON.stringify(v) ?? "nothing");
    if (what && what === last.what && (m.isPending.value || (doubled() && Date.now() - last.at < twice))) return;
    last = { what, at: 0 };
    m.mutate(v as never);
  };
  return { ...m, mutate };
}

/** choose binds labels; the answer is the rack as it stands, put in place at once. */
export function useChoose(after?: () => void) {
  const id = useClientId();
  const q = useQueryClient();
  return useAct(
    (client, body: Schemas["Choice"]) => unwrap(api.POST("/api/clients/{client}/rack/choices", { ...at(client), body })),
    (r) => {
      q.setQueryData(["client", id.value, "rack", ""], r);
      after?.();
    },
  );
}
