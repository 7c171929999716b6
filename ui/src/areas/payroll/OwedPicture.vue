<script setup lang="ts">
import { labelRoom } from "../../frame/axis";
import { BarChart } from "echarts/charts";
import { GridComponent, LegendComponent, TooltipComponent } from "echarts/components";
import { init, use, type ECharts } from "echarts/core";
import { SVGRenderer } from "echarts/renderers";
import { onBeforeUnmount, onMounted, ref, watch } from "vue";
import type { Schemas } from "../../api/client";
import { cents } from "../../money";

// What each liability holds at each month's end; its table stands beside it.
use([BarChart, GridComponent, LegendComponent, TooltipComponent, SVGRenderer]);
const props = defineProps<{ rows: Schemas["RollAccount"][] }>();
const box = ref<HTMLElement>();
let chart: ECharts | undefined;
const monthWords = (m: string) => new Date(`${m}-15T00:00:00Z`).toLocaleDateString("en-US", { month: "short", year: "numeric", timeZone: "UTC" });
const colors = ["#2F5573", "#A8772A", "#4C6B3C", "#6B6259", "#A5382C", "#3A2B22"];
function draw() {
  if (!box.value) return;
  chart ??= init(box.value, undefined, { renderer: "svg" });
  const months = [...new Set(props.rows.flatMap((r) => r.months.map((m) => m.month)))].sort();
  chart.setOption({
    animation: false,
    color: colors,
    textStyle: { fontFamily: "Public Sans Variable, Public Sans, sans-serif" },
    grid: {
      left: labelRoom(props.rows.flatMap((r) => r.months.map((m) => Number(cents(m.closing)) / 100))),
      right: 8,
      top: 12,
      bottom: 22 + 18 * Math.ceil(props.rows.length),
    },
    legend: { bottom: 0, selectedMode: false, orient: "vertical", left: 0, itemHeight: 10, itemWidth: 14, textStyle: { color: "#26221E", fontSize: 12 } },
    tooltip: { trigger: "axis" },
    xAxis: { type: "category", data: months.map(monthWords), axisLabel: { color: "#6B6259" } },
    yAxis: { type: "value", axisLabel: { color: "#6B6259" }, splitLine: { lineStyle: { color: "#E4DCCD" } } },
    series: props.rows.map((r) => ({
      type: "bar",
      name: r.account,
      data: months.map((m) => {
        const before = r.months.filter((x) => x.month <= m).at(-1);
        return before ? Number(cents(before.closing)) / 100 : 0;
      }),
    })),
  });
}
onMounted(draw);
watch(() => props.rows, draw);
onBeforeUnmount(() => chart?.dispose());
</script>

<template>
  <div ref="box" role="img" aria-label="What each liability holds at each month's end; the figures stand in the tables" class="picture" />
</template>

<style scoped>
.picture {
  height: 320px;
}
</style>
