import { cellNoise, fractalNoise, makeCell, pcg, unit, valueNoise } from '../noise';

/** What a sketch says of one spot: height 0–1 over the relief, linear base colour, roughness, metallic. */
export interface Spot {
  h: number;
  r: number;
  g: number;
  b: number;
  rough: number;
  metal: number;
}
/** Draws the spot at (u, v) in [0, 1)² of the tile into `out`. Periodic in both. */
export type Sketch = (u: number, v: number, seed: number, out: Spot) => void;

const step = (a: number, b: number, x: number): number => {
  const t = Math.min(1, Math.max(0, (x - a) / (b - a)));
  return t * t * (3 - 2 * t);
};
const lerp = (a: number, b: number, t: number): number => a + (b - a) * t;
const fbm = (u: number, v: number, n: number, seed: number, octaves: number) => fractalNoise(u * n, v * n, n, seed, octaves);
const c1 = makeCell();
const c2 = makeCell();

/** Mixes the spot's colour toward (r, g, b) by t. */
function tint(out: Spot, r: number, g: number, b: number, t: number): void {
  out.r = lerp(out.r, r, t);
  out.g = lerp(out.g, g, t);
  out.b = lerp(out.b, b, t);
}

/**
 * Dressed terrace stone. Structures: courses of blocks (0.4 m) and joints, chipped edges, per-block tilt and tone,
 * tool marks (2 cm), pores (4 mm), lichen spots, dirt in the joints.
 */
export const stone: Sketch = (u, v, seed, out) => {
  const wu = (fbm(u, v, 6, seed + 11, 3) - 0.5) * 0.035;
  const wv = (fbm(u, v, 6, seed + 17, 3) - 0.5) * 0.035;
  cellNoise((u + wu) * 6, (v + wv) * 6, 6, seed + 1, 0.78, c1);
  const id = unit(pcg(c1.id));
  const id2 = unit(pcg(c1.id + 77));
  const chip = fbm(u, v, 48, seed + 21, 4);
  const grain = fbm(u, v, 96, seed + 31, 4);
  const broad = fbm(u, v, 12, seed + 41, 4);
  const edge = c1.next - c1.near + (chip - 0.5) * 0.11;
  const body = step(0.015, 0.11, edge);
  const bevel = step(0.03, 0.32, edge);
  const angle = id * 6.2832;
  const tilt = (c1.dx * Math.cos(angle) + c1.dy * Math.sin(angle)) * 0.16;
  const strokes = valueNoise((u + (id > 0.5 ? v : -v) + wu) * 120, v * 24, 120, seed + 51, 24);
  const tool = step(0.42, 0.85, strokes) * step(0.25, 0.5, id2);
  cellNoise(u * 110, v * 110, 110, seed + 61, 0.9, c2);
  const pore = 1 - step(0.05, 0.3, c2.near + (unit(c2.id) < 0.62 ? 1 : 0));
  const sand = fbm(u, v, 64, seed + 71, 3);
  out.h = 0.1 + 0.12 * sand;
  const top = 0.54 + 0.16 * (id - 0.5) + tilt + 0.1 * bevel + 0.13 * (broad - 0.5) + 0.09 * (grain - 0.5) - 0.03 * tool - 0.045 * pore;
  out.h = lerp(out.h, top, body);
  const tone = 0.2 + 0.12 * id + 0.16 * (broad - 0.5) + 0.13 * (grain - 0.5) + 0.05 * bevel;
  out.r = tone * lerp(0.98, 1.12, id2);
  out.g = tone * lerp(0.98, 1.0, id2);
  out.b = tone * lerp(0.96, 0.8, id2);
  tint(out, tone * 0.5, tone * 0.47, tone * 0.42, pore * 0.6);
  out.rough = 0.78 - 0.16 * (grain - 0.5) + 0.12 * pore - 0.1 * bevel * (1 - tool);
  // Lichen keeps to the shoulders of blocks, as rings with a paler rim.
  cellNoise((u + wu) * 22, (v + wv) * 22, 22, seed + 81, 0.95, c2);
  const patch = step(0.52, 0.66, fbm(u, v, 5, seed + 91, 3)) * (unit(pcg(c2.id)) < 0.6 ? 1 : 0);
  const ring = (1 - step(0.2, 0.34, c2.near + (chip - 0.5) * 0.35)) * patch * body;
  const pale = 0.75 + 0.25 * step(0.1, 0.25, c2.near);
  tint(out, 0.36 * pale, 0.37 * pale, 0.24 * pale, ring * 0.8);
  out.rough = lerp(out.rough, 0.95, ring);
  out.h += 0.018 * ring * grain;
  const dirt = (1 - body) * 0.95 + (1 - bevel) * 0.35 * body;
  tint(out, 0.085 + 0.06 * sand, 0.064 + 0.045 * sand, 0.045 + 0.03 * sand, Math.min(1, dirt));
  out.rough = lerp(out.rough, 0.96, 1 - body);
  out.metal = 0;
};

/**
 * Laterite clay. Structures: soft mounds (0.5 m), drying cracks of two sizes, crumbs along cracks, iron nodules (1 cm),
 * pale dust on what stands proud, damp darker hollows.
 */
export const clay: Sketch = (u, v, seed, out) => {
  const wu = (fbm(u, v, 8, seed + 1, 4) - 0.5) * 0.06;
  const wv = (fbm(u, v, 8, seed + 5, 4) - 0.5) * 0.06;
  const mound = fbm(u, v, 4, seed + 11, 5);
  const fine = fbm(u, v, 40, seed + 21, 5);
  const dry = step(0.36, 0.62, fbm(u, v, 3, seed + 31, 3));
  cellNoise((u + wu) * 9, (v + wv) * 9, 9, seed + 41, 0.9, c1);
  const plate = unit(pcg(c1.id));
  const wide = 0.02 + 0.07 * dry * fbm(u, v, 16, seed + 51, 2);
  const crack = 1 - step(wide * 0.4, wide * 1.7, c1.next - c1.near);
  const curl = dry * (1 - step(0.0, 0.32, c1.next - c1.near));
  cellNoise((u + wu * 1.4) * 27, (v + wv * 1.4) * 27, 27, seed + 61, 0.95, c2);
  const hair = (1 - step(0.01, 0.09, c2.next - c2.near)) * dry * step(0.45, 0.6, fbm(u, v, 9, seed + 71, 2));
  cellNoise(u * 64, v * 64, 64, seed + 81, 0.95, c2);
  const rare = unit(pcg(c2.id)) < 0.2 + 0.25 * crack ? 1 : 0;
  const size = 0.16 + 0.2 * unit(pcg(c2.id + 3));
  const dome = rare * Math.sqrt(Math.max(0, 1 - (c2.near / size) ** 2));
  out.h = 0.16 + 0.5 * mound + 0.14 * (fine - 0.5) + 0.05 * curl + 0.03 * plate - 0.3 * crack * (0.4 + 0.6 * dry) - 0.06 * hair + 0.12 * dome;
  const warm = 0.75 + 0.5 * (fine - 0.5) + 0.35 * (mound - 0.5) + 0.12 * (plate - 0.5);
  out.r = 0.36 * warm;
  out.g = 0.135 * warm;
  out.b = 0.068 * warm;
  tint(out, 0.52, 0.29, 0.19, dry * step(0.45, 0.75, mound + 0.3 * (fine - 0.5)) * 0.55);
  tint(out, 0.12, 0.042, 0.026, Math.min(1, crack * 0.75 + hair * 0.5));
  tint(out, 0.2 + 0.1 * plate, 0.1, 0.07, rare * (dome > 0 ? 0.75 : 0));
  const damp = step(0.46, 0.34, mound);
  tint(out, out.r * 0.55, out.g * 0.5, out.b * 0.5, damp * 0.7);
  out.rough = 0.9 + 0.1 * (fine - 0.5) - 0.3 * damp * (1 - crack) - 0.22 * (dome > 0 ? 1 : 0) + 0.05 * dry;
  out.metal = 0;
};

/**
 * Cushion moss. Structures: cushions of two sizes, stems (6 mm) with pale tips, gaps of dark soil between cushions,
 * dead straw-coloured patches, spore stalks as rust specks.
 */
export const moss: Sketch = (u, v, seed, out) => {
  const wu = (fbm(u, v, 9, seed + 1, 3) - 0.5) * 0.07;
  const wv = (fbm(u, v, 9, seed + 5, 3) - 0.5) * 0.07;
  cellNoise((u + wu) * 7, (v + wv) * 7, 7, seed + 11, 0.9, c1);
  const id = unit(pcg(c1.id));
  const large = Math.sqrt(Math.max(0, 1 - (c1.near / 0.86) ** 2));
  cellNoise((u + wu) * 17, (v + wv) * 17, 17, seed + 21, 0.9, c2);
  const small = Math.sqrt(Math.max(0, 1 - (c2.near / 0.8) ** 2));
  const idSmall = unit(pcg(c2.id));
  const gap = 1 - step(0.02, 0.2, c1.next - c1.near);
  cellNoise((u + wu * 0.3) * 96, (v + wv * 0.3) * 96, 96, seed + 31, 0.95, c2);
  const tip = step(0.62, 0.05, c2.near);
  const stem = unit(pcg(c2.id));
  const fuzz = fbm(u, v, 120, seed + 41, 3);
  const broad = fbm(u, v, 4, seed + 51, 4);
  out.h = 0.05 + 0.42 * large + 0.2 * small * (0.5 + 0.5 * large) + 0.16 * tip * (0.55 + 0.45 * stem) + 0.08 * (fuzz - 0.5) + 0.12 * (broad - 0.5);
  out.h = lerp(out.h, 0.1 + 0.1 * fuzz, gap * 0.7);
  const depth = Math.min(1, Math.max(0, 0.2 + 0.5 * tip + 0.3 * small + 0.25 * (fuzz - 0.5)));
  const young = Math.min(1, Math.max(0, 0.3 + 0.8 * (id - 0.5) + 0.5 * (idSmall - 0.5) + 0.8 * (broad - 0.5)));
  out.r = lerp(0.018, lerp(0.13, 0.27, young), depth * depth);
  out.g = lerp(0.03, lerp(0.2, 0.31, young), depth * depth);
  out.b = lerp(0.009, lerp(0.035, 0.045, young), depth * depth);
  const dead = step(0.6, 0.74, fbm(u, v, 6, seed + 61, 4)) * step(0.2, 0.8, depth + 0.3);
  tint(out, 0.26 * depth + 0.05, 0.19 * depth + 0.035, 0.085 * depth + 0.015, dead * 0.8);
  const stalk = stem > 0.965 ? step(0.3, 0.12, c2.near) : 0;
  tint(out, 0.32, 0.12, 0.04, stalk * 0.85);
  tint(out, 0.035 + 0.02 * fuzz, 0.026 + 0.014 * fuzz, 0.016, gap * 0.75);
  out.h -= dead * 0.07;
  out.rough = 0.96 - 0.16 * tip * (1 - dead) + 0.06 * (fuzz - 0.5);
  out.metal = 0;
};

/**
 * River gravel. Structures: rounded stones of three sizes lying over each other, one tone a stone with veins and specks,
 * worn smooth tops, sand between, damp undersides.
 */
export const gravel: Sketch = (u, v, seed, out) => {
  const sand = fbm(u, v, 90, seed + 1, 4);
  out.h = 0.06 + 0.1 * sand;
  out.r = 0.15 + 0.12 * sand;
  out.g = 0.125 + 0.1 * sand;
  out.b = 0.095 + 0.075 * sand;
  out.rough = 0.95;
  out.metal = 0;
  const warp = (fbm(u, v, 14, seed + 3, 2) - 0.5) * 0.03;
  for (let layer = 0; layer < 3; layer++) {
    const n = layer === 0 ? 34 : layer === 1 ? 20 : 10;
    const reach = layer === 0 ? 0.62 : layer === 1 ? 0.6 : 0.5;
    const keep = layer === 0 ? 0.95 : layer === 1 ? 0.72 : 0.42;
    cellNoise((u + warp) * n, (v - warp) * n, n, seed + 10 + layer, 0.8, c1);
    const a = unit(pcg(c1.id));
    const b = unit(pcg(c1.id + 1));
    const c = unit(pcg(c1.id + 2));
    if (unit(pcg(c1.id + 3)) > keep) continue;
    const turn = a * 3.1416;
    const along = c1.dx * Math.cos(turn) + c1.dy * Math.sin(turn);
    const across = -c1.dx * Math.sin(turn) + c1.dy * Math.cos(turn);
    const rx = reach * (0.72 + 0.28 * b);
    const ry = rx * (0.62 + 0.33 * c);
    // A superellipse: flatter on top than a ball, as river stones are.
    const d = Math.pow(Math.abs(along / rx), 2.4) + Math.pow(Math.abs(across / ry), 2.4);
    if (d >= 1) continue;
    const dome = Math.pow(1 - d, 0.42);
    const pitted = fractalNoise(u * 130, v * 130, 130, seed + 31 + layer, 3);
    const height = 0.08 + [0.2, 0.26, 0.42][layer] * dome * (0.75 + 0.4 * b) + [0.02, 0.1, 0.2][layer] + 0.035 * (pitted - 0.5);
    if (height <= out.h) continue;
    const vein =
      step(0.45, 0.5, Math.abs(valueNoise((along + c) * 9 + 40, across * 3 + 40, 4096, c1.id) - 0.5) * 2 < 0.14 ? 1 : 0) * (c > 0.72 ? 1 : 0);
    const tone = (0.1 + 0.24 * b * b + 0.06 * c) * (0.82 + 0.36 * pitted);
    out.h = height;
    out.r = tone * lerp(1, 1.28, a * a);
    out.g = tone * lerp(1.02, 1.05, a);
    out.b = tone * lerp(1.08, 0.82, a);
    if (c < 0.16) tint(out, 0.25 * (0.7 + 0.6 * pitted), 0.12 * (0.7 + 0.6 * pitted), 0.085, 0.85);
    tint(out, 0.46, 0.44, 0.4, vein * 0.75);
    const under = step(0.55, 0.15, dome);
    tint(out, out.r * 0.45, out.g * 0.42, out.b * 0.4, under * 0.8);
    out.rough = 0.52 + 0.22 * pitted + 0.1 * c + 0.2 * under;
  }
};
