import type { Image } from '../image';
import type { Role } from '../surface';
import { readNames } from '../surface';
import type { Measured } from './measure';
import { measure } from './measure';
import { judge } from './recognise';
import type { FileClues, Recognition } from './recognition';
import { contentOfRole } from './recognition';
import type { Planes } from './planes';
import { correlation, mean } from './planes';

/** One map of a surface to be recognised with the others. */
export interface MapClues extends FileClues {
  image: Image;
}

/** Roles that grey maps of a surface compete for. */
type GreyRole = 'height' | 'occlusion' | 'roughness' | 'metallic' | 'mask';

/** Mean of a plane over boxes of 2r + 1, held at the border. */
function blurred(plane: Float32Array, width: number, height: number, r: number): Float32Array {
  const between = new Float32Array(plane.length);
  const out = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) slide(plane, between, y * width, width, 1, r);
  for (let x = 0; x < width; x++) slide(between, out, x, height, width, r);
  return out;
}

/** One line of `n` values, `step` apart, from `at` on. */
function slide(from: Float32Array, to: Float32Array, at: number, n: number, step: number, r: number): void {
  const last = at + (n - 1) * step;
  const share = 1 / (2 * r + 1);
  let sum = from[at] * r;
  for (let i = 0; i <= r; i++) sum += from[Math.min(last, at + i * step)];
  // The box hangs over the beginning, lies within, hangs over the end.
  let i = at;
  for (; i <= last && i - r * step < at; i += step) {
    to[i] = sum * share;
    sum += from[Math.min(last, i + (r + 1) * step)] - from[at];
  }
  for (; i + (r + 1) * step <= last; i += step) {
    to[i] = sum * share;
    sum += from[i + (r + 1) * step] - from[i - r * step];
  }
  for (; i <= last; i += step) {
    to[i] = sum * share;
    sum += from[last] - from[i - r * step];
  }
}

/** Differences over both neighbours, right and down, of every texel that has all four, one after the other. */
function slopes(plane: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(Math.max(0, width - 2) * Math.max(0, height - 2) * 2);
  for (let y = 1, o = 0; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      out[o++] = plane[i + 1] - plane[i - 1];
      out[o++] = plane[i + width] - plane[i - width];
    }
  return out;
}

/** The same that a normal map stands for; `green` 1 for Y+. */
function slopesOf({ width, height, channels: [x, y, z] }: Planes, green: 1 | -1): Float32Array {
  const out = new Float32Array(Math.max(0, width - 2) * Math.max(0, height - 2) * 2);
  for (let row = 1, o = 0; row < height - 1; row++)
    for (let col = 1; col < width - 1; col++) {
      const i = row * width + col;
      const nx = x[i] * 2 - 1;
      const ny = y[i] * 2 - 1;
      const nz = Math.max(0.1, z ? z[i] * 2 - 1 : Math.sqrt(Math.max(0, 1 - nx * nx - ny * ny)));
      out[o++] = -nx / nz;
      out[o++] = (green * ny) / nz;
    }
  return out;
}

/** What a grey map looks like, and how it goes with the others of its surface. */
interface GreyEvidence {
  /** Share of texels near 0 or near 1, and near 1. */
  ends: number;
  bright: number;
  mean: number;
  /** With the slopes of the surface's normals: a height goes with them. */
  withSlopes: number;
  /** How much of its variation lies in wide shapes. */
  wide: number;
}

/** Slopes of a surface's normals, part by part; null where it has none. */
type NormalSlopes = { of: Measured; slopes: Float32Array[] } | null;

/** Whether two maps were looked at in the same places. */
const alike = (a: Measured, b: Measured): boolean => a.parts.length === b.parts.length && a.parts[0].width === b.parts[0].width;

function greyEvidence(measured: Measured, normal: NormalSlopes): GreyEvidence {
  let [ends, bright, count] = [0, 0, 0];
  for (const {
    channels: [plane],
  } of measured.parts) {
    for (let i = 0; i < plane.length; i++) {
      if (plane[i] < 0.04 || plane[i] > 0.96) ends++;
      if (plane[i] > 0.85) bright++;
    }
    count += plane.length;
  }
  const withSlopes =
    normal && alike(normal.of, measured)
      ? mean(measured.parts.map((p, k) => correlation(slopes(p.channels[0], p.width, p.height), normal.slopes[k])))
      : 0;
  const wide = mean(measured.parts.map((p) => wideShare(p.channels[0], p.width, p.height)));
  return { ends: ends / count, bright: bright / count, mean: measured.ranges[0].mean, withSlopes, wide };
}

function wideShare(plane: Float32Array, width: number, height: number): number {
  const smooth = blurred(plane, width, height, 2);
  const m = mean(plane);
  let whole = 0;
  let rest = 0;
  for (let i = 0; i < plane.length; i++) {
    const [off, fine] = [plane[i] - m, plane[i] - smooth[i]];
    whole += off * off;
    rest += fine * fine;
  }
  return whole > 1e-9 ? 1 - rest / whole : 1;
}

/** Closed hollows of a height: how far the surroundings stand above each texel. */
function hollows({ width, height, channels }: Planes): Float32Array {
  const smooth = blurred(channels[0], width, height, 5);
  return channels[0].map((v, i) => Math.min(0, v - smooth[i]));
}

/** How well each role fits a grey map; the largest wins. Weights are fitted by hand to the tuning set. */
function scores(e: GreyEvidence, withHollows: number): Record<GreyRole, number> {
  return {
    height: 3 * Math.max(0, e.withSlopes) + 0.5 * e.wide - 2 * (e.ends > 0.6 ? 1 : 0),
    occlusion: 1.6 * Math.max(0, withHollows) + 1.1 * Math.max(0, e.mean - 0.62) * 2 + 0.6 * e.bright - 1.2 * Math.max(0, e.withSlopes - 0.55),
    roughness: 0.95 - 0.5 * Math.abs(e.mean - 0.6) - 1.5 * Math.max(0, e.withSlopes - 0.45) - e.ends,
    metallic: 1.5 * Math.max(0, e.ends - 0.5) + (e.ends > 0.9 ? 0.4 : 0) + (e.mean < 0.2 ? 0.2 : 0),
    mask: e.ends > 0.97 && e.mean > 0.2 ? 0.9 : 0,
  };
}

/**
 * What every map of a surface is, from names, content, and what they say of one another: a height goes with the slopes of
 * the normals, occlusion follows its hollows, roughness neither. Each role is given once.
 */
export const recogniseSurface = (maps: readonly MapClues[]): Recognition[] =>
  recogniseMeasured(maps.map(({ image, ...clues }) => ({ clues, measured: measure(image, clues) })));

/** A grey map is no more than this sure where no height is clear: occlusion goes with slopes nearly as well as a height does. */
const GUESSED = 0.5;
/** A height goes with its slopes like this, or clearly better than a map that goes with them too. */
const CLEAR = { alone: 0.995, beside: 0.5, rival: 0.45, apart: 0.03 };

/** Whether the map that goes best with the slopes of the normals is the height, and no occlusion that stands in for it. */
function isClearHeight(evidence: ReadonlyMap<number, GreyEvidence>, at: number): boolean {
  const best = evidence.get(at)?.withSlopes ?? 0;
  const others = [...evidence].flatMap(([i, e]) => (i === at ? [] : [e.withSlopes]));
  return best >= CLEAR.alone || (best >= CLEAR.beside && others.some((v) => v >= CLEAR.rival && v <= best - CLEAR.apart));
}

/** {@link recogniseSurface} for images that are measured already and need not be in memory together. */
export function recogniseMeasured(given: readonly { clues: FileClues; measured: Measured }[]): Recognition[] {
  const read = readNames(given.map((m) => m.clues.fileName ?? ''));
  const maps = given.map(({ clues }, i): FileClues => (clues.fileName ? { ...clues, name: clues.name ?? read[i] } : clues));
  const measured = given.map((m) => m.measured);
  const named = maps.map((m) => m.role ?? m.name?.role ?? null);
  const normalAt = measured.findIndex((m) => m.content === 'normal');
  const green = measured[normalAt]?.normal?.direction === 'y-' ? -1 : 1;
  // Every grey map is held against these.
  const normal = normalAt < 0 ? null : { of: measured[normalAt], slopes: measured[normalAt].parts.map((p) => slopesOf(p, green)) };
  const taken = new Set(named.filter((role, i): role is Role => role !== null && contentOfRole(role) === measured[i].content));
  const open = maps.map((_, i) => i).filter((i) => measured[i].content === 'grey');
  const evidence = new Map(open.map((i) => [i, greyEvidence(measured[i], normal)] as const));
  // The height is found first: hollows are its.
  const heightAt =
    open.find((i) => named[i] === 'height') ??
    [...open].filter((i) => named[i] === null).sort((a, b) => (evidence.get(b)?.withSlopes ?? 0) - (evidence.get(a)?.withSlopes ?? 0))[0];
  const heightSure = heightAt !== undefined && (named[heightAt] === 'height' || (evidence.get(heightAt)?.withSlopes ?? 0) > 0.35);
  const clear = heightAt !== undefined && (named[heightAt] === 'height' || isClearHeight(evidence, heightAt));
  const heightHollows = heightSure ? measured[heightAt].parts.map(hollows) : null;
  const greys = new Map<number, { role: Role; confidence: number }>();
  const table = open
    .filter((i) => named[i] === null)
    .flatMap((i) => {
      const withHollows =
        heightHollows && i !== heightAt && alike(measured[heightAt], measured[i])
          ? mean(measured[i].parts.map((p, k) => correlation(p.channels[0], heightHollows[k])))
          : 0;
      return Object.entries(scores(evidence.get(i) as GreyEvidence, withHollows)).map(([role, score]) => ({ i, role: role as GreyRole, score }));
    })
    .sort((a, b) => b.score - a.score);
  for (const { i, role, score } of table) {
    if (greys.has(i) || taken.has(role)) continue;
    const rivals = table.filter((t) => t.i === i && t.role !== role && !taken.has(t.role));
    const margin = score - Math.max(0, ...rivals.map((t) => t.score));
    greys.set(i, { role, confidence: Math.min(clear ? 0.95 : GUESSED, 0.5 + 0.5 * Math.max(0, margin)) });
    taken.add(role);
  }
  // Without normals beside it a grey map is a guess.
  return maps.map((clues, i) => judge(clues, measured[i], normal ? greys.get(i) : undefined));
}
