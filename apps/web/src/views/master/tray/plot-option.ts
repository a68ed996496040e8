import type { Plot } from '@pebble/core';
import { short } from './step-pictures';

/** Dashes tell curves apart without colour. */
const DASHES: readonly (readonly number[] | 'solid')[] = ['solid', [6, 4], [2, 3], [10, 4, 2, 4]];

/** The chart of a plot: curves, the box from 0 to 1, what leaves it, how often numbers occur. */
export function plotOption({ plot, names }: { plot: Plot; names: string[] }, now: number | null) {
  const css = getComputedStyle(document.documentElement);
  const token = (name: string) => css.getPropertyValue(name).trim();
  const [ink, quiet, line, glaze, warn, raise] = ['--ink', '--quiet', '--line', '--glaze', '--warn', '--raise'].map(token);
  const [from, to] = [plot.x[0], plot.x[plot.x.length - 1]];
  const all = plot.curves.flatMap((c) => c?.planes.flatMap((p) => [...p]) ?? []);
  const [lo, hi] = [Math.min(0, ...all), Math.max(1, ...all)];
  const pad = (hi - lo) * 0.06;
  const inks = [glaze, warn, ink, quiet];
  const font = { color: quiet, fontFamily: token('--mono'), fontSize: 11 };
  const curves = plot.curves.flatMap((curve, i) =>
    (curve?.planes ?? []).map((plane, c, planes) => ({
      type: 'line' as const,
      name: planes.length > 1 ? `${names[i]} ${'xyzw'[c]}` : names[i],
      showSymbol: false,
      z: 10 - i,
      data: [...plane].map((y, k) => [plot.x[k], y]),
      lineStyle: { color: inks[i % 4], width: i ? 1.5 : 2.6, type: DASHES[planes.length > 1 ? c : i % 4] as 'solid' },
      itemStyle: { color: inks[i % 4] },
      ...(i === 0 && c === 0
        ? {
            markArea: {
              silent: true,
              itemStyle: { color: raise, borderColor: line, borderWidth: 1 },
              data: [
                [
                  { xAxis: Math.max(from, 0), yAxis: 0 },
                  { xAxis: Math.min(to, 1), yAxis: 1 },
                ],
              ],
            },
            ...(now !== null && now >= from && now <= to
              ? {
                  markLine: {
                    silent: true,
                    symbol: 'none',
                    label: { show: false },
                    lineStyle: { color: ink, width: 1, type: 'solid' as const },
                    data: [{ xAxis: now }],
                  },
                }
              : {}),
          }
        : {}),
    })),
  );
  const { occurs } = plot;
  // One number that is the same everywhere has no distribution.
  const spread = occurs && occurs.hi - occurs.lo > 1e-6 ? occurs : null;
  const most = spread ? Math.max(...spread.bins) : 1;
  const bars = spread
    ? [
        {
          type: 'bar' as const,
          name: 'occurs',
          xAxisIndex: 1,
          yAxisIndex: 1,
          barWidth: '92%',
          barCategoryGap: 0,
          silent: true,
          itemStyle: { color: quiet, opacity: 0.6 },
          data: spread.bins.map((n, i) => [spread.lo + ((spread.hi - spread.lo) * (i + 0.5)) / spread.bins.length, n / most]),
        },
      ]
    : [];
  const axis = {
    axisLine: { lineStyle: { color: line } },
    axisTick: { show: false },
    splitLine: { lineStyle: { color: line, opacity: 0.55 } },
    axisLabel: font,
  };
  return {
    animation: false,
    grid: [
      { left: 46, right: 14, top: 10, bottom: spread ? 46 : 24 },
      { left: 46, right: 14, height: 20, bottom: 2 },
    ],
    xAxis: [
      { type: 'value' as const, min: from, max: to, ...axis, axisLabel: { ...font, hideOverlap: true, formatter: (v: number) => short(v) } },
      { type: 'value' as const, gridIndex: 1, min: from, max: to, show: false },
    ],
    yAxis: [
      {
        type: 'value' as const,
        min: lo - pad,
        max: hi + pad,
        ...axis,
        axisLabel: { ...font, showMinLabel: false, showMaxLabel: false, formatter: (v: number) => short(v) },
      },
      { type: 'value' as const, gridIndex: 1, min: 0, max: 1, show: false },
    ],
    tooltip: {
      trigger: 'axis' as const,
      backgroundColor: raise,
      borderColor: line,
      textStyle: { color: ink, fontSize: 12 },
      formatter: (given: unknown) => {
        const list = given as { seriesName: string; value: [number, number] }[];
        return [
          `at ${short(list[0].value[0])}`,
          ...list
            .filter((p) => p.seriesName !== 'occurs')
            .map((p) => `${escaped(p.seriesName)} ${short(p.value[1])}${p.value[1] < -1e-4 || p.value[1] > 1 + 1e-4 ? ' (beyond 0–1)' : ''}`),
        ].join('<br>');
      },
    },
    series: [...curves, ...bars],
  };
}
const escaped = (text: string): string => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
