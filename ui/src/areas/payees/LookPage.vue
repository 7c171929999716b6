<script setup lang="ts">
import { computed, ref } from "vue";
import { useRoute } from "vue-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { useAct, useClientId, useSecondLook } from "../../api/queries";
import { few, moment, plural } from "../../format";
import { askFirst } from "../../frame/ask";
import RefusalBox from "../../frame/RefusalBox.vue";
import { isZero } from "../../money";
import { paidWords } from "./payees";
import PayeeHead from "./PayeeHead.vue";
import PayeeShell from "./PayeeShell.vue";
import { useYear } from "./year";

// What to look at before forms go out, and what changed since.
const id = useClientId();
const route = useRoute();
const year = useYear();
const { data: look, isPending } = useSecondLook(year);
const picked = ref<number[]>([]);
const looked = useAct((client) => unwrap(api.POST("/api/clients/{client}/payees/look", { params: { path: { client }, query: { year: year.value } } })));
const ask = useAct(
  (client, ids: number[]) => unwrap(api.POST("/api/clients/{client}/payees/w9", { params: { path: { client } }, body: { payees: ids } })),
  () => (picked.value = []),
  { grave: true },
);
async function askW9(ids: number[]) {
  const who = [...new Set((look.value?.groups ?? []).flatMap((g) => g.items.filter((i) => ids.includes(i.payee)).map((i) => i.name)))];
  const what = `${plural(ids.length, "payee")} for a W-9`;
  const ok = await askFirst({
    title: `Ask ${what}?`,
    facts: [["Payees", few(who)]],
    undo: "Those with an e-mail address get mail at once, which cannot be called back; for the others a letter is made to print.",
    act: `Ask ${what}`,
  });
  if (ok) ask.mutate(ids);
}
const asking = new Set(["not-said", "identity", "withholding"]);
const matching = useAct((client, ids: number[]) =>
  unwrap(api.POST("/api/clients/{client}/payees/match", { params: { path: { client } }, body: { payees: ids } })),
);
const people = computed(() => [...new Set((look.value?.groups ?? []).filter((g) => g.key === "identity").flatMap((g) => g.items.map((i) => i.payee)))]);
// A long group is shown a page at a time, and says how much is not shown.
const page = 50;
const more = ref<Record<string, number>>({});
const shown = (key: string) => more.value[key] ?? page;
const to = (i: Schemas["LookItem"]) => ({ path: `/c/${id.value}/payees/${i.payee}`, query: route.query });
</script>

<template>
  <PayeeShell>
    <main class="bench" tabindex="0">
      <PayeeHead />
      <p v-if="isPending" class="busy">looking…</p>
      <template v-else-if="look">
        <RefusalBox :error="ask.error.value ?? looked.error.value ?? matching.error.value" />
        <p v-if="ask.data.value" class="said" role="status">
          Asked for {{ plural(ask.data.value.mailed + ask.data.value.printed, "W-9") }}: {{ ask.data.value.mailed }} by mail, {{ ask.data.value.printed }} by
          letter.
        </p>
        <div v-if="!look.groups.length" class="empty">
          <b>Nothing to look at</b>Nobody is over the threshold unsaid, every method is known, every number looks right.
        </div>
        <section v-for="g in look.groups" :key="g.key">
          <h2>
            {{ g.words }} <span class="q">{{ g.items.length }}</span>
          </h2>
          <p class="q s">{{ g.why }}</p>
          <table>
            <tbody>
              <tr v-for="(i, n) in g.items.slice(0, shown(g.key))" :key="`${i.payee}-${n}`">
                <td style="width: 26px">
                  <input v-if="asking.has(g.key) && i.payee > 0" v-model="picked" type="checkbox" :value="i.payee" :aria-label="`choose ${i.name}`" />
                </td>
                <td style="width: 190px">
                  <RouterLink class="quiet-link" :to="to(i)"
                    ><b>{{ i.name }}</b></RouterLink
                  >
                </td>
                <td class="w">
                  <span :class="i.grade === 'wrong' ? 'bad' : i.grade ? 'warn' : ''">{{ i.words }}</span>
                </td>
                <td class="n" style="width: 128px">{{ isZero(i.amount) ? "–" : paidWords(i.amount) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-if="g.items.length > shown(g.key)" class="more">
            {{ (g.items.length - shown(g.key)).toLocaleString("en-US") }} more of {{ g.items.length.toLocaleString("en-US") }} not shown.
            <button class="btn small" @click="more[g.key] = shown(g.key) + page">
              Show {{ Math.min(page, g.items.length - shown(g.key)) }} more<span class="sr"> of {{ g.words }}</span>
            </button>
          </p>
        </section>
      </template>
    </main>
    <aside class="why" aria-label="Since you last looked" tabindex="0">
      <h1>Since you last looked</h1>
      <template v-if="look">
        <div class="sub">{{ look.looked ? moment(look.looked) : "you have not marked a look yet" }}</div>
        <div v-for="i in look.changed" :key="i.payee" class="kv">
          <span
            ><RouterLink class="quiet-link" :to="to(i)"
              ><b>{{ i.name }}</b></RouterLink
            ><br /><span class="q s">{{ i.words }}</span></span
          >
        </div>
        <p v-if="look.looked && !look.changed.length" class="q">Nothing changed.</p>
        <button class="btn small" style="margin-top: 10px; align-self: start" :disabled="looked.isPending.value" @click="looked.mutate(undefined)">
          I have looked
        </button>
        <h2>Together</h2>
        <div class="btns">
          <button class="btn small" :disabled="!picked.length" @click="askW9([...new Set(picked)])">
            Ask {{ plural(new Set(picked).size, "payee") }} for a W-9…
          </button>
          <button v-if="people.length" class="btn small" @click="matching.mutate(people)">
            Match {{ plural(people.length, "name") }} and {{ people.length === 1 ? "number" : "numbers" }}
          </button>
        </div>
        <div v-for="m in matching.data.value ?? []" :key="m.payee" class="kv">
          <span
            >{{ m.name }}<br /><span class="q s">{{ m.words }}; {{ m.do }}</span></span
          ><span :class="m.good ? 'ok' : 'bad'">{{ m.code }}</span>
        </div>
      </template>
    </aside>
  </PayeeShell>
</template>

<style scoped>
section {
  margin-bottom: 16px;
}
table {
  table-layout: fixed;
}
td {
  height: 28px;
}
.more {
  margin: 6px 0 0;
  display: flex;
  gap: 10px;
  align-items: center;
}
td.w {
  white-space: normal;
  line-height: 17px;
  padding: 4px 5px;
}
.btns {
  display: grid;
  gap: 6px;
  justify-items: start;
  margin-top: 4px;
}
</style>
