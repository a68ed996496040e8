// Colours that say something of a mesh's triangles, the same on its form and on its page of texture coordinates.
import { IDENTITY_HUES } from '../image';
import type { UvLayout } from './uv';

export const COLOURINGS = ['islands', 'density', 'overlaps', 'turned', 'slots', 'parts', 'colours'] as const;
export type Colouring = (typeof COLOURINGS)[number];

export const PLAIN = 0xcfc8ba;
const GOOD = 0x5aa5ac;
export const BAD = 0xc8452c;
const AMISS = 0xd79a3c;
/** What has no area in texture space. */
const NOTHING = 0x6d6a66;

const pack = (r: number, g: number, b: number): number => (Math.round(r) << 16) | (Math.round(g) << 8) | Math.round(b);

/** Cividis (Nuñez, Anderton & Renslow 2018) at 0–1 as `0xrrggbb`, by polynomials of fifth degree. */
export function cividis(t: number): number {
  const x = Math.min(1, Math.max(0, t));
  const at = (c: readonly number[]) =>
    Math.min(
      255,
      Math.max(
        0,
        c.reduceRight((sum, k) => sum * x + k, 0),
      ),
    );
  return pack(
    at([-4.54, -35.34, 2381.73, -6402.7, 7024.72, -2710.57]),
    at([32.49, 170.73, 52.82, -131.46, 176.58, -67.37]),
    at([81.24, 442.36, -2482.43, 6167.24, -6614.94, 2475.67]),
  );
}

/** What of a layout is coloured, and how. */
export interface ColouringOrder {
  colouring: Colouring;
  layout: UvLayout;
  /** Triangles and slot of every mesh, in the layout's order. */
  parts: readonly { triangles: number; slot: string }[];
  /** Density in the middle of the scale; half of it is its lower end, twice its upper. */
  density: number;
  /** Pairs of meshes that may lie on each other. */
  allowed: (a: number, b: number) => boolean;
  /** An island that is pointed at. */
  highlight: number | null;
}

/** A colour for every triangle of a layout, `0xrrggbb`. */
export function triangleColours({ colouring, layout, parts, density, allowed, highlight }: ColouringOrder): Uint32Array {
  const out = new Uint32Array(layout.islandOf.length);
  const slots = [...new Set(parts.map((p) => p.slot))];
  const crossing = new Set(layout.overlaps.filter((o) => !allowed(...o.parts)).flatMap((o) => o.parts));
  // The first hue is the grey of ground, and so is the page.
  const hue = (i: number): number => pack(...IDENTITY_HUES[1 + (i % (IDENTITY_HUES.length - 1))]);
  const of = (t: number, part: number): number => {
    const island = layout.islandOf[t];
    if (colouring === 'slots') return hue(slots.indexOf(parts[part].slot));
    if (colouring === 'parts' || colouring === 'colours') return hue(part);
    if (island < 0) return layout.islands.length ? NOTHING : PLAIN;
    const { flipped, folded, outside } = layout.islands[island];
    if (colouring === 'islands') return hue(island);
    if (colouring === 'density') return Number.isFinite(layout.density[t]) ? cividis(Math.log2(layout.density[t] / density) / 2 + 0.5) : NOTHING;
    if (colouring === 'overlaps') return !layout.overlapping[t] ? PLAIN : crossing.has(part) ? BAD : GOOD;
    return flipped ? BAD : folded ? AMISS : outside ? GOOD : PLAIN;
  };
  let t = 0;
  for (const [part, { triangles }] of parts.entries())
    for (const end = t + triangles; t < end; t++)
      out[t] = highlight !== null && layout.islandOf[t] === highlight ? brighter(of(t, part)) : of(t, part);
  return out;
}

const brighter = (rgb: number): number => pack(...([16, 8, 0].map((s) => 255 - (255 - ((rgb >>> s) & 255)) * 0.45) as [number, number, number]));
