import type { Section } from '@pebble/core';

/** How a section lies on its canvas: metres to pixels and back. */
export interface SectionScale {
  width: number;
  /** Pixel row of a height of 0 m. */
  zero: number;
  /** Pixels a metre upward. */
  rise: number;
  /** Vertical exaggeration against the length. */
  exaggeration: number;
  lo: number;
  hi: number;
  /** Row at which the bands begin. */
  bands: number;
  /** Heights of the ruler's lines, in whole millimetres. */
  linesMm: number[];
}
export const BAND = 8;
/** Less coverage than this is none. */
const ABSENT = 0.01;
/** Steps of opacity in a band. */
const SHADES = 24;

/** Layers that show along a cut, and the chosen one: the others do not contend. */
export const contendersOf = (section: Section, selected: number): boolean[] =>
  section.layers.map(({ share }, i) => i === selected || share.some((v) => v > 0.02));

/**
 * Fits the heights of a section into the room above its bands; those of layers that are not `shown` need no room.
 * @param trueScale a metre is as long upward as it is along
 */
export function fitSection(section: Section, width: number, height: number, shown?: readonly boolean[], trueScale = false): SectionScale {
  let lo = Infinity;
  let hi = -Infinity;
  for (const h of [section.height, ...section.layers.flatMap((l, i) => (shown?.[i] === false ? [] : [l.profile]))])
    for (const v of h) {
      if (v < lo) lo = v;
      if (v > hi) hi = v;
    }
  const bands = height - section.layers.length * BAND - 8;
  const range = Math.max(hi - lo, 0.002);
  const rise = trueScale ? width / Math.max(section.lengthM, 1e-6) : (bands - 30) / range;
  // What is flatter than the room stands in its middle.
  const zero = trueScale ? (bands - 8 + 22) / 2 + ((lo + hi) / 2) * rise : bands - 8 + lo * rise;
  const stepMm = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].find((s) => (s / 1000) * rise > 22) ?? 2000;
  const linesMm: number[] = [];
  for (let mm = Math.ceil((lo * 1000) / stepMm) * stepMm; mm <= hi * 1000; mm += stepMm) linesMm.push(mm);
  return { width, zero, rise, lo, hi, bands, linesMm, exaggeration: rise / (width / Math.max(section.lengthM, 1e-6)) };
}

export interface SectionStyle {
  tones: readonly string[];
  selected: number;
  /** Profiles that are drawn at full strength. */
  shown: readonly boolean[];
  ink: string;
  line: string;
  panel: string;
}

/** Hatches by layer, so that winners are told apart without colour. */
const hatches = new Map<string, CanvasPattern | string>();

function hatch(context: OffscreenCanvasRenderingContext2D, tone: string, index: number, panel: string): CanvasPattern | string {
  const key = `${tone}${index % 6}${panel}`;
  let made = hatches.get(key);
  if (!made) hatches.set(key, (made = makeHatch(context, tone, index, panel)));
  return made;
}

function makeHatch(context: OffscreenCanvasRenderingContext2D, tone: string, index: number, panel: string): CanvasPattern | string {
  const tile = new OffscreenCanvas(8, 8);
  const c = tile.getContext('2d');
  if (!c) return tone;
  c.fillStyle = tone;
  c.fillRect(0, 0, 8, 8);
  c.strokeStyle = panel;
  c.globalAlpha = 0.28;
  c.lineWidth = 1;
  c.beginPath();
  const draw = [
    () => undefined,
    () => {
      for (const o of [-8, 0, 8]) {
        c.moveTo(o, 8);
        c.lineTo(o + 8, 0);
      }
    },
    () => {
      c.arc(4, 4, 1.2, 0, 7);
    },
    () => {
      for (const o of [-8, 0, 8]) {
        c.moveTo(o, 0);
        c.lineTo(o + 8, 8);
      }
    },
    () => {
      c.moveTo(0, 4.5);
      c.lineTo(8, 4.5);
    },
    () => {
      c.moveTo(4.5, 0);
      c.lineTo(4.5, 8);
    },
  ][index % 6];
  draw();
  c.stroke();
  return context.createPattern(tile, 'repeat') ?? tone;
}

/** Draws a section: the composite filled by its winners, the profiles of all layers, weights as bands beneath. */
export function drawSection(context: OffscreenCanvasRenderingContext2D, section: Section, scale: SectionScale, style: SectionStyle): void {
  const { width, zero, rise, bands } = scale;
  const n = section.height.length;
  const x = (i: number) => ((i + 0.5) / n) * width;
  const y = (h: number) => zero - h * rise;
  context.fillStyle = style.line;
  for (const mm of scale.linesMm) context.fillRect(0, Math.round(y(mm / 1000)), width, 1);
  const fills = style.tones.map((tone, i) => hatch(context, tone, i, style.panel));
  for (let begin = 0, i = 1; i <= n; i++) {
    if (i < n && section.winner[i] === section.winner[begin]) continue;
    context.fillStyle = fills[section.winner[begin]];
    context.beginPath();
    context.moveTo(begin ? x(begin - 0.5) : 0, bands - 6);
    for (let k = begin; k < i; k++) context.lineTo(k === begin && begin ? x(begin - 0.5) : x(k), y(section.height[k]));
    if (i < n) context.lineTo(x(i - 0.5), y((section.height[i - 1] + section.height[i]) / 2));
    context.lineTo(i < n ? x(i - 0.5) : width, bands - 6);
    context.fill();
    begin = i;
  }
  const trace = (values: Float32Array) => {
    context.beginPath();
    for (let i = 0; i < n; i++) context.lineTo(x(i), y(values[i]));
    context.stroke();
  };
  const order = section.layers.map((_, i) => i).sort((a, b) => Number(a === style.selected) - Number(b === style.selected));
  for (const i of order) {
    context.strokeStyle = style.tones[i];
    if (!style.shown[i]) continue;
    const { profile, coverage } = section.layers[i];
    const chosen = i === style.selected;
    // A layer does not contend where it is not: its profile goes on faintly, for what it would be.
    for (let begin = 0, k = 1; k <= n; k++) {
      const absent = coverage[begin] < ABSENT;
      if (k < n && coverage[k] < ABSENT === absent) continue;
      context.lineWidth = absent ? 1 : chosen ? 2.6 : 1.2;
      context.setLineDash(absent ? [1, 4] : chosen ? [] : [4, 3]);
      context.globalAlpha = absent ? 0.45 : chosen ? 1 : 0.75;
      context.beginPath();
      for (let j = Math.max(0, begin - 1); j < k; j++) context.lineTo(x(j), y(profile[j]));
      context.stroke();
      begin = k;
    }
  }
  context.setLineDash([]);
  context.globalAlpha = 1;
  context.strokeStyle = style.ink;
  context.lineWidth = 1.3;
  trace(section.height);
  section.layers.forEach(({ share }, i) => {
    const top = bands + 4 + (section.layers.length - 1 - i) * BAND;
    context.fillStyle = style.tones[i];
    // Neighbours of about the same share are one rectangle: a band is mostly all or nothing.
    const shade = (k: number) => Math.round(share[k] * SHADES);
    for (let begin = 0, k = 1; k <= n; k++) {
      if (k < n && shade(k) === shade(begin)) continue;
      if (shade(begin)) {
        context.globalAlpha = shade(begin) / SHADES;
        context.fillRect((begin / n) * width, top, ((k - begin) / n) * width, BAND - 2);
      }
      begin = k;
    }
    context.globalAlpha = 1;
  });
}

/** Where the selected layer meets another: the point nearest the middle at which it stops winning. */
export function seamOf(section: Section, selected: number): number | null {
  const { winner } = section;
  let best: number | null = null;
  for (let i = 1; i < winner.length; i++) {
    if ((winner[i] === selected) === (winner[i - 1] === selected)) continue;
    if (best === null || Math.abs(i - winner.length / 2) < Math.abs(best - winner.length / 2)) best = i;
  }
  return best;
}
