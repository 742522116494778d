"use strict";
// Charts from the data in the page. Lines differ by dash as well as colour so that they read in black and white.

const LOOKS = {
  main: { type: "solid", width: 2.6 },
  other: { type: [6, 4], width: 1.6 },
  limit: { type: [2, 3], width: 1.8 },
  stack: { type: "solid", width: 1.2 },
  off: { type: [1, 3], width: 1.4 },
  each: { type: "solid", width: 1.8 },
  pale: { type: "solid", width: 1 },
};
const DASHES = [[7, 4], [2, 3], [10, 3, 2, 3], [12, 3, 2, 3, 2, 3], [4, 2]];  // of lines of equal standing
const PLOT_PX = 250, NAME_PX = 15;  // height of a plot, about, and of a line of words
const PAPER_PX = 540;  // what a panel on a sheet of A4 holds
// Layers under the main curve are filled, each paler than the one below it; what is off is an outline.
const FILLED = { main: 0.1, stack: 0.16 };

function tone(name) {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}

function axis(spec, name) {
  return {
    type: "value",
    name: `${spec.label}, ${spec.unit}`,
    nameLocation: "middle",
    nameGap: name === "x" ? 28 : 46,
    nameTextStyle: { color: tone("--ink-2"), fontSize: 12 },
    axisLine: { show: true, lineStyle: { color: tone("--rule") } },
    axisTick: { show: true, length: 4 },
    axisLabel: { color: tone("--ink-2"), fontSize: 11, formatter: (value) => String(value).replace(/\B(?=(\d{3})+(?!\d))(?<!\.\d*)/g, "\u202f") },
    max: spec.top ?? null,
    splitLine: { lineStyle: { color: tone("--hair") } },
    scale: false,
  };
}

const layered = (entries) => entries.some((one) => one.kind === "stack" || one.kind === "off");
const isLayer = (entry) => entry.kind === "main" || entry.kind === "stack" || entry.kind === "off";
// Points and layers bear their names where they lie; the legend names the rest.
const inLegend = (entries) => entries.filter((one) => !isPoint(one) && !(layered(entries) && isLayer(one)));
const isPoint = (entry) => entry.kind === "point" || entry.kind === "faint";

// How far the name at a layer's end is moved so that names of layers ending close together, or on the axis, can be read.
function nameShift(entry, total) {
  const highest = Math.max(...total.flatMap((one) => one.data.map((pair) => pair[1])));
  const ends = total.filter(isLayer).map((one) => ({ one, px: (PLOT_PX * (one.data.at(-1)?.[1] ?? 0)) / (highest || 1) }));
  let least = NAME_PX / 2;
  for (const end of ends.sort((a, b) => a.px - b.px)) {
    const at = Math.max(end.px, least);
    if (end.one === entry) return end.px - at;
    least = at + NAME_PX;
  }
  return 0;
}

function series(entry, index, total) {
  const colours = { main: tone("--fuel"), stack: tone("--fuel"), off: tone("--ink-2"), other: tone("--steel-ink"), each: tone("--steel-ink"), pale: tone("--ink-2"), limit: tone("--over"), point: tone("--ink"), faint: tone("--ink-2") };
  const colour = colours[entry.kind];
  if (isPoint(entry)) {
    const strong = entry.kind === "point";
    const [widest, highest] = [0, 1].map((at) => Math.max(...total.flatMap((one) => one.data.map((pair) => pair[at]))));
    const [x, y] = entry.data[0];
    const side = x > 0.7 * widest ? "left" : "right";
    return {
      name: entry.label,
      type: "scatter",
      data: entry.data,
      symbol: strong ? "diamond" : "circle",
      symbolSize: strong ? 13 : 8,
      z: strong ? 9 : 8,
      itemStyle: { color: strong ? colour : tone("--panel"), borderColor: strong ? tone("--panel") : colour, borderWidth: 1.5 },
      label: { show: true, formatter: "{a}", position: y < 0.06 * highest ? "top" : side, color: strong ? tone("--ink") : tone("--ink-2"), fontSize: 12, fontWeight: strong ? 600 : 400, textBorderColor: tone("--panel"), textBorderWidth: 3 },
      labelLayout: { moveOverlap: "shiftY" },
    };
  }
  const seconds = total.filter((one) => one.kind === "other").indexOf(entry);
  const own = DASHES[total.filter((one) => one.kind === "each").indexOf(entry)];
  const look = LOOKS[entry.kind];
  return {
    name: entry.label,
    type: "line",
    data: entry.data,
    symbol: "none",
    lineStyle: { color: colour, width: look.width, type: own ?? (seconds > 0 ? [10, 3, 2, 3] : look.type), opacity: entry.kind === "pale" ? 0.55 : 1 },
    itemStyle: { color: colour },
    endLabel: layered(total) && isLayer(entry) ? { show: true, formatter: "{a}", color: tone("--ink-2"), fontSize: 12, offset: [0, nameShift(entry, total)] } : undefined,
    labelLayout: { moveOverlap: "shiftY" },
    areaStyle: FILLED[entry.kind] && layered(total) ? { color: colour, opacity: FILLED[entry.kind] } : undefined,
    emphasis: { disabled: true },
  };
}

function drawField(element, data) {
  const chosen = document.getElementById("field-layer")?.value || Object.keys(data.layers)[0];
  const layer = data.layers[chosen];
  const cells = layer.rows.flatMap((row, y) => row.map((value, x) => [x, y, value]));
  const values = cells.map((cell) => cell[2]).filter(Number.isFinite);
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const chart = echarts.getInstanceByDom(element) || echarts.init(element, null, { renderer: "svg" });
  const ticks = (spec, name) => ({
    type: "category",
    data: spec.ticks,
    name: `${spec.label}, ${spec.unit}`,
    nameLocation: "middle",
    nameGap: name === "x" ? 28 : 50,
    nameTextStyle: { color: tone("--ink-2"), fontSize: 12 },
    axisTick: { interval: (at) => spec.marks.some((mark) => mark[0] === at), alignWithLabel: true },
    axisLabel: { color: tone("--ink-2"), fontSize: 11, interval: (at) => spec.marks.some((mark) => mark[0] === at), formatter: (value, at) => spec.marks.find((mark) => mark[0] === at)?.[1] ?? "" },
    axisLine: { lineStyle: { color: tone("--rule") } },
  });
  chart.setOption(
    {
      animation: false,
      textStyle: { fontFamily: getComputedStyle(document.body).fontFamily },
      grid: { left: 68, right: 92, top: 12, bottom: 44 },
      tooltip: {
        confine: true,
        backgroundColor: tone("--panel"),
        borderColor: tone("--rule"),
        textStyle: { color: tone("--ink") },
        formatter: (at) => `${data.x.ticks[at.value[0]]} rpm, ${data.y.ticks[at.value[1]]} ${data.y.unit}<br><b>${at.value[2]} ${layer.unit}</b>`,
      },
      xAxis: ticks(data.x, "x"),
      yAxis: ticks(data.y, "y"),
      visualMap: {
        min: low,
        max: high > low ? high : low + 1,
        calculable: false,
        right: 0,
        top: "middle",
        itemHeight: 200,
        precision: high - low < 10 ? 1 : 0,
        text: [`${Number(high.toPrecision(3))} ${layer.unit}`, String(Number(low.toPrecision(3)))],
        textStyle: { color: tone("--ink-2") },
        inRange: { color: [tone("--sunk"), tone("--fuel-soft"), tone("--fuel"), tone("--field-top")] },
      },
      series: [{ type: "heatmap", data: cells, progressive: 0, emphasis: { disabled: true } }],
    },
    true,
  );
}

// Rows a legend takes: texts of about 6.4 px a letter beside their marks.
function legendRows(entries, width) {
  let rows = 1, taken = 0;
  entries.forEach((entry) => {
    const wide = 6.4 * entry.label.length + 46;
    if (taken > 0 && taken + wide > width) { rows += 1; taken = 0; }
    taken += wide;
  });
  return rows;
}

function draw(element) {
  const data = JSON.parse(element.dataset.chart);
  element.dataset.drawn = element.dataset.chart;
  if (data.kind === "field") { drawField(element, data); return; }
  const chart = echarts.getInstanceByDom(element) || echarts.init(element, null, { renderer: "svg" });
  chart.setOption(
    {
      animation: false,
      textStyle: { fontFamily: getComputedStyle(document.body).fontFamily },
      grid: { left: 64, right: layered(data.series) ? 84 : 18, top: 16 + 18 * legendRows(inLegend(data.series), element.clientWidth), bottom: 42 },
      legend: { data: inLegend(data.series).map((one) => one.label), top: 0, left: 0, itemWidth: 30, itemHeight: 10, textStyle: { color: tone("--ink-2"), fontSize: 12 } },
      tooltip: {
        trigger: "axis",
        confine: true,
        valueFormatter: (value) => `${Number(value).toPrecision(4).replace(/\.?0+$/, "")} ${data.y.unit}`,
        backgroundColor: tone("--panel"),
        borderColor: tone("--rule"),
        textStyle: { color: tone("--ink") },
      },
      xAxis: axis(data.x, "x"),
      yAxis: axis(data.y, "y"),
      series: data.series.map(series),
    },
    true,
  );
}

function drawAll(force) {
  document.querySelectorAll(".chart[data-chart]").forEach((element) => {
    if (force || element.dataset.drawn !== element.dataset.chart) draw(element);
  });
}

document.addEventListener("DOMContentLoaded", () => drawAll(false));
document.addEventListener("htmx:afterSettle", () => drawAll(false));
document.addEventListener("bench:chart", () => drawAll(false));
let onPaper = false;
document.addEventListener("bench:paper", (event) => {
  onPaper = event.detail;
  drawAll(true);
  document.querySelectorAll(".chart").forEach((element) => {
    const chart = echarts.getInstanceByDom(element);
    if (chart && !element.closest(".sheets")) chart.resize({ width: event.detail ? Math.min(PAPER_PX, element.clientWidth || PAPER_PX) : "auto" });
  });
  drawAll(true);  // a size alone is drawn with the next frame, too late for paper
});
document.addEventListener("bench:theme", () => drawAll(true));
document.addEventListener("change", (event) => {
  if (event.target.id === "field-layer") drawAll(true);
});
window.addEventListener("resize", () => {
  if (onPaper) return;  // the window takes the paper's size while it prints
  document.querySelectorAll(".chart").forEach((element) => echarts.getInstanceByDom(element)?.resize());
});
