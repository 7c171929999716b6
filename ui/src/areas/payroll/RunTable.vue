<script setup lang="ts">
import type { Schemas } from "../../api/client";
import StatePeg from "../../frame/StatePeg.vue";
import MoneyFigure from "../../frame/MoneyFigure.vue";
import { isZero, plain } from "../../money";
import { accountsOf, less, worst } from "./payroll";

// Report, ledger, difference, item by item, from gross to net and beside it.
defineProps<{ run: Schemas["RunView"] }>();
const at = defineModel<number>({ required: true });
</script>

<template>
  <div class="wide">
    <table class="run">
      <thead>
        <tr>
          <th>Item</th>
          <th class="n">Report</th>
          <th class="n">Ledger</th>
          <th class="n">Difference</th>
          <th style="padding-left: 12px">Peg</th>
          <th>Accounts</th>
        </tr>
      </thead>
      <tbody v-for="s in run.sections" :key="s.name">
        <tr v-if="s.name !== 'Net pay'" class="grp">
          <td>{{ s.name }}</td>
          <td class="n"><MoneyFigure :m="s.report" /></td>
          <td class="n"><MoneyFigure v-if="s.posts" :m="s.ledger" /></td>
          <td class="n">
            <span v-if="s.posts && !isZero(less(s.report, s.ledger))" class="bad">{{ plain(less(s.report, s.ledger)) }} ▲</span>
          </td>
          <td colspan="2" class="q">
            <template v-if="!s.posts">posts nothing</template>
            <template v-else-if="!isZero(less(s.report, s.ledger))">holds the run</template>
          </td>
        </tr>
        <tr
          v-for="r in s.rows"
          :key="r.item_id"
          :class="{ net: s.name === 'Net pay', hand: at === r.item_id }"
          :data-item="r.item_id"
          tabindex="0"
          @click="at = r.item_id"
          @focus="at = r.item_id"
        >
          <td :class="{ it: s.name !== 'Net pay' }">{{ r.name }}</td>
          <td class="n"><span v-if="r.hidden" class="q">hidden</span><MoneyFigure v-else :m="r.report" /></td>
          <td class="n"><MoneyFigure v-if="!r.hidden && s.posts" :m="r.ledger" :none="isZero(r.report) ? '0.00' : '–'" /></td>
          <td class="n">
            <span v-if="s.posts && !isZero(less(r.report, r.ledger))" class="bad">{{ plain(less(r.report, r.ledger)) }} ▲</span>
          </td>
          <td style="padding-left: 12px">
            <StatePeg v-if="!r.sure" state="open" />
            <StatePeg v-else-if="r.needs.length" :state="worst(r.needs)" />
          </td>
          <td class="ac">
            <template v-if="s.name === 'Net pay'"><i>Cr</i> {{ run.rules.shape === "clearing" ? "payroll clearing" : "the bank" }}</template>
            <template v-else-if="!r.sure">say what it is</template>
            <span v-for="a in accountsOf(r.needs)" v-else :key="a.side + a.words + a.state" class="one"
              ><i>{{ a.side }}</i> <span :class="{ q: a.state !== 'set' }">{{ a.words }}</span><small v-if="a.groups.length"
                >, {{ a.groups.join(", ") }}</small
              ></span
            >
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}
.run {
  font-size: 12.5px;
  width: 100%;
}
.run .n {
  white-space: nowrap;
}
.run td {
  height: 24px;
  line-height: 17px;
  border-bottom-color: #efe8db;
}
.run tbody tr[tabindex] {
  cursor: pointer;
}
.run tbody tr:focus-visible {
  outline: 2px solid var(--slate);
  outline-offset: -2px;
}
.it {
  padding-left: 16px !important;
}
.grp td {
  font-weight: 650;
  border-bottom-color: var(--rule-firm);
}
.grp td:first-child {
  color: var(--brass-text);
}
.grp td.q {
  font-weight: 400;
  padding-left: 12px;
}
.net td {
  font-weight: 700;
  border-top: 1px solid var(--ink);
  border-bottom: 3px double var(--ink);
}
.net td.ac {
  font-weight: 400;
}
.run td:first-child {
  white-space: normal;
  min-width: 110px;
}
.run td.ac {
  white-space: normal;
  min-width: 156px;
  width: 26%;
  font-size: 12px;
  color: #463e37;
}
.ac i {
  font-style: normal;
  color: var(--quiet);
}
.one {
  display: block;
  padding: 1px 0 1px 18px;
  text-indent: -18px;
}
.one small {
  color: var(--quiet);
}
</style>
