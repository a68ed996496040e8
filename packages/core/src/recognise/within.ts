import type { Image } from '../image';
import type { Role } from '../surface';
import { readName } from '../surface';
import type { FileClues, Measured, Recognition } from './recognise';
import { contentOfRole, judge, measure } from './recognise';
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
  const pass = (from: Float32Array, n: number, m: number, along: number, across: number) => {
    const out = new Float32Array(from.length);
    for (let k = 0; k < m; k++) {
      const at = (i: number) => from[k * across + Math.min(n - 1, Math.max(0, i)) * along];
      let sum = 0;
      for (let i = -r; i <= r; i++) sum += at(i);
      for (let i = 0; i < n; i++) {
        out[k * across + i * along] = sum / (2 * r + 1);
        sum += at(i + r + 1) - at(i - r);
      }
    }
    return out;
  };
  return pass(pass(plane, width, height, 1, width), height, width, width, 1);
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

function greyEvidence(measured: Measured, normal: { measured: Measured; green: 1 | -1 } | null): GreyEvidence {
  let [ends, bright, count] = [0, 0, 0];
  for (const { channels } of measured.parts)
    for (const v of channels[0]) {
      if (v < 0.04 || v > 0.96) ends++;
      if (v > 0.85) bright++;
      count++;
    }
  const withSlopes =
    normal && normal.measured.parts[0].width === measured.parts[0].width && normal.measured.parts.length === measured.parts.length
      ? mean(measured.parts.map((p, k) => correlation(slopes(p.channels[0], p.width, p.height), slopesOf(normal.measured.parts[k], normal.green))))
      : 0;
  const wide = mean(
    measured.parts.map((p) => {
      const smooth = blurred(p.channels[0], p.width, p.height, 2);
      const m = mean(p.channels[0]);
      let [whole, rest] = [0, 0];
      p.channels[0].forEach((v, i) => {
        whole += (v - m) ** 2;
        rest += (v - smooth[i]) ** 2;
      });
      return whole > 1e-9 ? 1 - rest / whole : 1;
    }),
  );
  return { ends: ends / count, bright: bright / count, mean: measured.ranges[0].mean, withSlopes, wide };
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

/** {@link recogniseSurface} for images that are measured already and need not be in memory together. */
export function recogniseMeasured(given: readonly { clues: FileClues; measured: Measured }[]): Recognition[] {
  const maps = given.map((m) => m.clues);
  const measured = given.map((m) => m.measured);
  const named = maps.map((m) => (m.fileName ? readName(m.fileName).role : null));
  const normalAt = measured.findIndex((m) => m.content === 'normal');
  const normal =
    normalAt < 0 ? null : { measured: measured[normalAt], green: measured[normalAt].normal?.direction === 'y-' ? (-1 as const) : (1 as const) };
  const taken = new Set(named.filter((role, i): role is Role => role !== null && contentOfRole(role) === measured[i].content));
  const open = maps.map((_, i) => i).filter((i) => measured[i].content === 'grey');
  const evidence = new Map(open.map((i) => [i, greyEvidence(measured[i], normal)] as const));
  // The height is found first: hollows are its.
  const heightAt =
    open.find((i) => named[i] === 'height') ??
    [...open].filter((i) => named[i] === null).sort((a, b) => (evidence.get(b)?.withSlopes ?? 0) - (evidence.get(a)?.withSlopes ?? 0))[0];
  const heightSure = heightAt !== undefined && (named[heightAt] === 'height' || (evidence.get(heightAt)?.withSlopes ?? 0) > 0.35);
  const greys = new Map<number, { role: Role; confidence: number }>();
  const table = open
    .filter((i) => named[i] === null)
    .flatMap((i) => {
      const withHollows =
        heightSure &&
        i !== heightAt &&
        measured[heightAt].parts.length === measured[i].parts.length &&
        measured[heightAt].parts[0].width === measured[i].parts[0].width
          ? mean(measured[i].parts.map((p, k) => correlation(p.channels[0], hollows(measured[heightAt].parts[k]))))
          : 0;
      return Object.entries(scores(evidence.get(i) as GreyEvidence, withHollows)).map(([role, score]) => ({ i, role: role as GreyRole, score }));
    })
    .sort((a, b) => b.score - a.score);
  for (const { i, role, score } of table) {
    if (greys.has(i) || taken.has(role)) continue;
    const rivals = table.filter((t) => t.i === i && t.role !== role && !taken.has(t.role));
    const margin = score - Math.max(0, ...rivals.map((t) => t.score));
    greys.set(i, { role, confidence: Math.min(0.95, 0.5 + 0.5 * Math.max(0, margin)) });
    taken.add(role);
  }
  return maps.map((clues, i) => judge(clues, measured[i], greys.get(i)));
}
