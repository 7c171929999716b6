<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useFiling } from "../../api/queries";
import { moment, plural } from "../../format";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import { isZero, plain, sum } from "../../money";
import PayeeHead from "./PayeeHead.vue";
import PayeeShell from "./PayeeShell.vue";
import { useYear } from "./year";
import FigureTable from "../../frame/FigureTable.vue";

// Sendings to the filing service, row by row; what stays and why; the ties; what has
// to be corrected.
const id = useClientId();
const route = useRoute();
const year = useYear();
const { data: f, isPending } = useFiling(year);
const send = useAct(
  (client, body: Schemas["SendWhat"]) =>
    unwrap(api.POST("/api/clients/{client}/payees/filing", { params: { path: { client }, query: { year: year.value } }, body })),
  undefined,
  { grave: true },
);
const asking = ref<Error>();
// What goes out, for whom, and what is unfinished is asked first: a sending cannot be undone.
async function sendIt(correct: boolean, payee = 0) {
  asking.value = undefined;
  try {
    const b = await unwrap(
      api.GET("/api/clients/{client}/payees/filing/before", { params: { path: { client: id.value }, query: { year: year.value, correct, payee } } }),
    );
    const what = plural(b.count, correct ? "correction" : "form");
    const facts: [string, string][] = [
      ["Payer", b.payer],
      ["Year", String(b.year)],
      ["To", b.service],
    ];
    for (const k of b.kinds)
      facts.push([`1099-${k.kind}`, `${plural(k.count, "form")}, ${plain(k.total)}${isZero(k.withheld) ? "" : `, withheld ${plain(k.withheld)}`}`]);
    facts.push(["Payees", b.names.length > 6 ? `${b.names.slice(0, 5).join("; ")}; and ${b.names.length - 5} more` : b.names.join("; ")]);
    const a = await askFirst({
      title: `Send ${what} of ${b.year} to the filing service?`,
      facts,
      undo: "This cannot be undone. What the service accepts is filed with the IRS; it can only be corrected by another form.",
      doubts: b.doubts,
      act: `Send ${what} of ${b.year}, ${plain(sum(b.kinds.map((k) => k.total)))}`,
    });
    if (a) send.mutate({ correct, sure: a.sure, ...(payee ? { payees: [payee] } : {}) });
  } catch (e) {
    asking.value = e as Error;
  }
}
const again = useAct((client, filing: number) =>
  unwrap(api.POST("/api/clients/{client}/payees/filing/{filing}/again", { params: { path: { client, filing } } })),
);
const to = (payee: number) => ({ path: `/c/${id.value}/payees/${payee}`, query: route.query });
const state: Record<string, string> = {
  sending: "being sent",
  waiting: "waits for the answer",
  failed: "did not arrive",
  partly: "partly accepted",
  accepted: "accepted",
  rejected: "rejected",
};
const due = computed(() => (f.value?.corrections ?? []).filter((c) => c.what !== "too small to correct"));
const num = (t: Schemas["FilingTie"], m: string) => (t.count ? String(Math.round(Number(m))) : plain(m));
const stays = computed(() => {
  const v = f.value;
  if (!v) return "";
  const parts = [];
  if (v.blocked.length) parts.push(`${plural(v.blocked.length, "form")} with a fault`);
  if (v.undecided) parts.push(`${plural(v.undecided, "undecided payee")}`);
  return parts.length ? `; ${parts.join(" and ")} stay` : "";
});
const same = (t: Schemas["FilingTie"]) => t.computed === t.sent && t.computed === t.accepted;
</script>

<template>
  <PayeeShell>
    <main class="bench" tabindex="0">
      <PayeeHead />
      <p v-if="isPending" class="busy">asking for the sendings…</p>
      <template v-else-if="f">
        <RefusalBox :error="asking ?? send.error.value ?? again.error.value" />
        <div class="do">
          <span v-if="!f.ready && f.sendings.length" class="q">Nothing is left to send{{ stays }}.</span>
          <button v-else class="btn prime" :disabled="!f.services.length || send.isPending.value || !f.ready" @click="sendIt(false)">
            Send {{ plural(f.ready, "form") }}{{ stays }}…
          </button>
          <button v-if="due.length" class="btn" :disabled="send.isPending.value" @click="sendIt(true)">Send {{ plural(due.length, "correction") }}…</button>
          <span v-if="send.isPending.value" class="q">the service is at work…</span>
        </div>
        <p v-if="!f.services.length" class="warn">
          No filing service is set up; the operator names one with --filer. The e-file table can be taken out under Forms.
        </p>
        <section v-if="f.blocked.length">
          <h2>Faults to mend first</h2>
          <FigureTable :give="[2]">
            <tbody>
              <tr v-for="b in f.blocked" :key="b.payee + b.kind">
                <td style="width: 220px">
                  <RouterLink :to="to(b.payee)">{{ b.name }}</RouterLink><span class="q">, {{ b.kind }}</span>
                </td>
                <td>
                  {{
                    b.faults
                      .filter((x) => x.grade !== "worth a look")
                      .map((x) => x.words)
                      .join("; ")
                  }}
                </td>
              </tr>
            </tbody>
          </FigureTable>
        </section>
        <section v-if="f.corrections.length">
          <h2>Corrections</h2>
          <FigureTable :give="[2, 3]">
            <tbody>
              <tr v-for="c in f.corrections" :key="c.payee + c.kind">
                <td style="width: 220px">
                  <RouterLink :to="to(c.payee)">{{ c.name }}</RouterLink><span class="q">, {{ c.kind }}</span>
                </td>
                <td style="width: 128px">{{ c.what }}</td>
                <td class="w">{{ c.words }}</td>
                <td style="width: 118px">
                  <button v-if="c.what === 'too small to correct'" class="linkish" @click="sendIt(true, c.payee)">the payee asks</button>
                </td>
              </tr>
            </tbody>
          </FigureTable>
        </section>
        <section v-for="s in f.sendings" :key="s.id">
          <h2>
            Sending of {{ moment(s.at) }}, {{ state[s.state] }}
            <span class="q s">by {{ s.by }}{{ s.retries ? `, asked again ${s.retries} times` : "" }}{{ s.words ? `: ${s.words}` : "" }}</span>
          </h2>
          <p v-if="s.state === 'failed' || s.state === 'waiting'" class="warn">
            {{ s.state === "failed" ? "Sending it again uses the same key: nothing is filed twice." : "" }}
            <button class="btn small" :disabled="again.isPending.value" @click="again.mutate(s.id)">
              {{ s.state === "failed" ? "Send it again" : "Ask for the answer" }}
            </button>
          </p>
          <FigureTable :give="[2, 6]">
            <thead>
              <tr>
                <th style="width: 30px">No.</th>
                <th>Payee</th>
                <th style="width: 56px">Form</th>
                <th class="n" style="width: 90px">Amount</th>
                <th class="n" style="width: 76px">Withheld</th>
                <th style="width: 250px; padding-left: 14px">Answer</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="r in s.rows" :key="r.no">
                <td class="q">{{ r.no }}</td>
                <td>
                  <RouterLink class="quiet-link" :to="to(r.payee)">{{ r.name }}</RouterLink><span v-if="r.corrected" class="q"
                    >, {{ r.zero ? "set to zero" : "corrected" }}</span
                  >
                </td>
                <td>{{ r.kind }}</td>
                <td class="n">{{ plain(r.amount) }}</td>
                <td class="n">{{ isZero(r.withheld) ? "–" : plain(r.withheld) }}</td>
                <td style="padding-left: 14px" :class="r.state === 'accepted' ? 'ok' : r.state === 'rejected' ? 'bad' : 'q'">
                  {{ r.state === "accepted" ? "accepted ✓" : r.state === "rejected" ? `${r.code} ${r.words}` : "waits" }}
                  <RouterLink v-if="r.state === 'rejected'" :to="to(r.payee)">mend it</RouterLink>
                </td>
              </tr>
            </tbody>
          </FigureTable>
        </section>
        <div v-if="!f.sendings.length && !f.ready && !f.blocked.length" class="empty">
          <b>Nothing to send</b>Forms stand here once a payee meets a threshold.
        </div>
      </template>
    </main>
    <aside class="why" aria-label="Sent and accepted" tabindex="0">
      <h1>Computed, sent, accepted</h1>
      <div class="sub">per form and box; what was computed, and where they differ what was sent and accepted</div>
      <template v-if="f?.ties.length">
        <template v-for="t in f.ties" :key="t.kind + t.box">
          <div class="kv" :class="{ bad: !same(t) }">
            <span>{{ t.box || `${t.kind} forms` }}</span><span>{{ num(t, t.computed) }} {{ same(t) ? "✓" : "▲" }}</span>
          </div>
          <template v-if="!same(t)">
            <div class="kv part">
              <span>sent</span><span>{{ num(t, t.sent) }}</span>
            </div>
            <div class="kv part">
              <span>accepted</span><span>{{ num(t, t.accepted) }}</span>
            </div>
          </template>
        </template>
      </template>
      <p v-if="f?.ties.length" :class="f.ties.every(same) ? 'ok' : 'bad'" style="margin-top: 6px">
        {{ f.ties.every(same) ? "All three are the same ✓" : "They differ ▲" }}
      </p>
      <p v-else class="q">Nothing was sent yet.</p>
      <div class="src">A row that was rejected is mended and goes again by itself; what was accepted is never sent again, only corrected.</div>
    </aside>
  </PayeeShell>
</template>

<style scoped>
.do {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-bottom: 12px;
}
section {
  margin-bottom: 16px;
}
table {
  font-size: 12.5px;
}
td {
  height: 28px;
}
td.w {
  white-space: normal;
  line-height: 17px;
}
.part {
  padding-left: 14px;
}
</style>
