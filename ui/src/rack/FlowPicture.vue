<script setup lang="ts">
import { SankeyChart } from "echarts/charts";
import { AriaComponent, TooltipComponent } from "echarts/components";
import { init, use } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import type { ECharts } from "echarts/core";
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from "vue";
import { plain, size } from "../money";
import type { ByTarget } from "./rows";
import { links } from "./flow";

use([SankeyChart, TooltipComponent, AriaComponent, SVGRenderer]);
const props = defineProps<{ list: ByTarget[] }>();
const emit = defineEmits<{ open: [target: number] }>();
const box = ref<HTMLElement>();
let chart: ECharts | undefined;

function draw() {
  if (!chart) return;
  const { nodes, edges } = links(props.list);
  chart.setOption(
    {
      animation: false,
      aria: {
        enabled: true,
        label: { description: "Old accounts on the left flow to new accounts on the right; width is money. The table below says the same." },
      },
      tooltip: { confine: true, formatter: (p: { name: string; data: { words?: string } }) => p.data.words ?? p.name },
      series: [
        {
          type: "sankey",
          left: 190,
          right: 210,
          top: 8,
          bottom: 8,
          nodeWidth: 8,
          nodeGap: 13,
          draggable: false,
          layoutIterations: 0,
          emphasis: { focus: "adjacency" },
          label: { color: "#26221e", fontFamily: "Public Sans Variable, sans-serif", fontSize: 12 },
          data: nodes.map((n) => ({
            name: n.key,
            words: n.words,
            target: n.target,
            itemStyle: {
              color: n.state === "open" ? "#fbf8f2" : "#a8772a",
              borderColor: "#a8772a",
              borderType: n.state === "open" ? "dashed" : "solid",
              borderWidth: 1,
            },
            label: { position: n.left ? "left" : "right", formatter: n.label },
          })),
          links: edges.map((e) => ({
            source: e.from,
            target: e.to,
            value: e.value,
            words: e.words,
            lineStyle: {
              color: e.state === "set" ? "#dcc49a" : e.state === "suggested" ? "#f1e6d0" : "#b9ab95",
              opacity: e.state === "open" ? 0.5 : 0.95,
              curveness: 0.5,
            },
          })),
        },
      ],
    },
    true,
  );
}
function resize() {
  chart?.resize();
}
onMounted(() => {
  if (!box.value) return;
  chart = init(box.value, undefined, { renderer: "svg" });
  chart.on("click", (p) => {
    const t = (p.data as { target?: number }).target;
    if (t && t > 0) emit("open", t);
  });
  draw();
  addEventListener("resize", resize);
});
onBeforeUnmount(() => {
  removeEventListener("resize", resize);
  chart?.dispose();
});
watch(() => props.list, draw);
// Thin nodes still need a line of text each.
const tall = computed(() => Math.max(320, Math.max(...[true, false].map((left) => links(props.list).nodes.filter((n) => n.left === left).length)) * 23));
watch(tall, () => nextTick(resize));
const total = (l: ByTarget[]) => plain(String((l.reduce((a, t) => a + t.rows.reduce((x, r) => x + size(r.seen), 0), 0) / 100).toFixed(2)));
</script>

<template>
  <div class="flowhead">
    <span>{{ list.reduce((a, t) => a + t.rows.length, 0) }} old accounts</span><span>width is money, {{ total(list) }} in all without sides</span
    ><span>new accounts</span>
  </div>
  <div
    ref="box"
    class="flow"
    :style="{ height: `${tall}px` }"
    role="img"
    aria-label="Flow of money from old accounts to new accounts; the table below says the same"
  />
  <p class="q s legend">full tone: set · light: suggested · gray: open · amounts of 0.00 have no width</p>
</template>

<style scoped>
.flowhead {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  color: var(--quiet);
  border-bottom: 1px solid var(--rule-firm);
  padding: 2px 0 5px;
}
.legend {
  margin: 2px 0 8px;
}
</style>
