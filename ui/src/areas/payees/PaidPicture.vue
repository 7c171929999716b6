<script setup lang="ts">
import { labelRoom } from "../../frame/axis";
import { BarChart } from "echarts/charts";
import { GridComponent, LegendComponent, TooltipComponent } from "echarts/components";
import { init, use, type ECharts } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { onBeforeUnmount, onMounted, ref, watch } from "vue";
import { usePaidMonths } from "../../api/queries";
import { cents } from "../../money";
import { useYear } from "./year";

// Payments over the year by bucket; the tape beside it is its table.
use([BarChart, GridComponent, LegendComponent, TooltipComponent, SVGRenderer]);
const { data: months } = usePaidMonths(useYear());
const box = ref<HTMLElement>();
let chart: ECharts | undefined;
const colors: Record<string, string> = {
  "on a form": "#2F5573",
  "under the threshold": "#7A93A8",
  "paid by a method others report": "#6B6259",
  "payee exempt": "#4C6B3C",
  "account not reportable": "#B9AB95",
  "of another year": "#3A2B22",
  undecided: "#A8772A",
};
const short: Record<string, string> = {
  "under the threshold": "under",
  "paid by a method others report": "card, network",
  "payee exempt": "exempt",
  "account not reportable": "not reportable",
  "of another year": "other year",
};
function draw() {
  if (!box.value || !months.value) return;
  chart ??= init(box.value, undefined, { renderer: "svg" });
  const all = [...new Set(months.value.map((m) => m.month))].sort();
  const buckets = Object.keys(colors).filter((b) => months.value!.some((m) => m.bucket === b));
  const amount = (m: string, b: string) => Number(cents(months.value!.find((x) => x.month === m && x.bucket === b)?.amount ?? "0.00")) / 100;
  const tops = all.map((m) => buckets.reduce((sum, b) => sum + amount(m, b), 0));
  chart.setOption(
    {
      animation: false,
      textStyle: { fontFamily: "Public Sans Variable, Public Sans, sans-serif" },
      grid: { left: labelRoom(tops), right: 4, top: 6, bottom: 54 },
      legend: { bottom: 0, selectedMode: false, itemHeight: 9, itemWidth: 12, textStyle: { color: "#26221E", fontSize: 11.5 }, itemGap: 7 },
      tooltip: { trigger: "axis" },
      xAxis: {
        type: "category",
        data: all.map((m) => new Date(`${m}-15T00:00:00Z`).toLocaleDateString("en-US", { month: "short", timeZone: "UTC" })),
        axisLabel: { color: "#6B6259" },
      },
      yAxis: { type: "value", axisLabel: { color: "#6B6259" }, splitLine: { lineStyle: { color: "#E4DCCD" } } },
      series: buckets.map((b) => ({
        type: "bar",
        stack: "paid",
        name: short[b] ?? b,
        color: colors[b],
        data: all.map((m) => amount(m, b)),
      })),
    },
    true,
  );
}
onMounted(draw);
watch(months, draw);
onBeforeUnmount(() => chart?.dispose());
</script>

<template>
  <div ref="box" role="img" aria-label="What was paid by month and bucket; the tape holds the sums" class="picture" />
</template>

<style scoped>
.picture {
  height: 164px;
  margin-bottom: 6px;
}
</style>
