import type { BlendRole, BlendSurface, Image, MapSet, Stack } from '@pebble/core';
import {
  BLEND_ROLES,
  blendMaterial,
  decodeTable,
  generateSurface,
  linearToSrgb,
  makeBlend,
  makeCue,
  makeLayer,
  makeStack,
  resize,
} from '@pebble/core';
import { evaluateSquare, ingredients } from '@pebble/usecases';
import path from 'node:path';
import { BandPool, shareImage } from '@pebble/usecases/bands';
import { inOwnProcess, median, ms, often, peakBeyond, table, times } from './measure';

const SIZE = 2048;
const LAYERS = 6;

/** A ground and five layers of two more surfaces over it, or fewer. */
export function layersOf(size: number, count: number): { stack: Stack; slots: MapSet[] } {
  const made = (['terrace-stone', 'laterite-clay', 'cushion-moss'] as const).map((name, i) =>
    generateSurface(name, { seed: i + 3, size: Math.min(size, 512) }),
  );
  // Enlarged rather than drawn: the bench is about blending.
  const slots = made.map((s) => Object.fromEntries(Object.entries(s.maps).map(([role, m]) => [role, shareImage(resize(m, size, size))])) as MapSet);
  const surfaces = Object.fromEntries(made.map((s) => [s.name, { ...s.facts, sizeM: 2.4, roles: new Set(BLEND_ROLES) as BlendSurface['roles'] }]));
  const layer = (name: string, order: number, coverage = {}, seam = {}) => {
    const l = makeLayer(name, name, order, { coverage });
    return { ...l, seam: { ...l.seam, ...seam } };
  };
  const blend = makeBlend('bench', {
    extentM: 2.4,
    layers: Object.fromEntries(
      Array.from({ length: count }, (_, i) => {
        if (!i) return ['l0', layer('terrace-stone', 1)];
        const coverage = { c: makeCue('constant', { value: 0.5 - 0.03 * i }) };
        const seam = i % 2 ? { soft: 0.1, liftM: 0.002 } : { soft: 0.12, liftM: 0.004, follow: 0.3 };
        return [`l${i}`, layer(i % 2 ? 'laterite-clay' : 'cushion-moss', i + 1, coverage, seam)];
      }),
    ),
  });
  const stack = makeStack(blend, surfaces);
  return { stack, slots: stack.slots.map((id) => slots[made.findIndex((s) => s.name === id)]) };
}

/** The plain way, for comparison: every map a whole float image, one loop over all pixels, then back to integers. */
function plainLoop(stack: Stack, slots: readonly MapSet[], size: number): Record<string, Uint8Array | Uint16Array> {
  const n = size * size;
  const floats = (image: Image) => {
    const table = image.depth === 32 ? null : decodeTable(image.depth, image.colourSpace === 'srgb');
    const out = new Float32Array(image.data.length);
    for (let i = 0; i < out.length; i++) out[i] = table ? table[image.data[i]] : image.data[i];
    return out;
  };
  const f = slots.map(
    (maps) => Object.fromEntries(BLEND_ROLES.map((role) => [role, floats(maps[role] as Image)])) as Record<BlendRole, Float32Array>,
  );
  const c = f[0].baseColor,
    nrm = f[0].normal,
    r = f[0].roughness,
    o = f[0].occlusion,
    m = f[0].metallic;
  for (let k = 0; k < nrm.length; k += 3) {
    const [x, y] = [nrm[k] * 2 - 1, nrm[k + 1] * 2 - 1];
    const z = Math.max(0.05, Math.sqrt(Math.max(0, 1 - x * x - y * y)));
    const inv = 1 / Math.sqrt(x * x + y * y + z * z);
    nrm[k] = x * inv;
    nrm[k + 1] = y * inv;
    nrm[k + 2] = z * inv;
  }
  const h = new Float32Array(n);
  const base = stack.layers[0].surface as BlendSurface;
  for (let i = 0; i < n; i++) h[i] = (f[0].height[i] - base.mid) * base.reliefM;
  for (let l = 1; l < stack.layers.length; l++) {
    const { layer, span } = stack.layers[l];
    const surface = stack.layers[l].surface as BlendSurface;
    const { soft, liftM, follow, contact } = layer.seam;
    const [cue] = Object.values(layer.coverage);
    const coverage = cue.kind === 'constant' ? cue.value : 1;
    const t = f[stack.layers[l].slot];
    for (let i = 0; i < n; i++) {
      const top = (t.height[i] - surface.mid) * surface.reliefM + follow * h[i] + liftM;
      const d = Math.min(1, Math.max(-1, (top - h[i]) / span));
      const x = Math.min(1, Math.max(0, ((1 - soft) * d - (1 - 2 * coverage)) / (2 * soft) + 0.5));
      const w = x * x * (3 - 2 * x) * layer.strength;
      const k = i * 3;
      for (let q = 0; q < 3; q++) c[k + q] += (t.baseColor[k + q] - c[k + q]) * w;
      const tx = t.normal[k] * 2 - 1,
        ty = t.normal[k + 1] * 2 - 1;
      const tz = Math.max(0.05, Math.sqrt(Math.max(0, 1 - tx * tx - ty * ty)));
      const bz = Math.max(0.05, nrm[k + 2]);
      const px = nrm[k] / bz + (tx / tz - nrm[k] / bz) * w,
        py = nrm[k + 1] / bz + (ty / tz - nrm[k + 1] / bz) * w;
      const inv = 1 / Math.sqrt(px * px + py * py + 1);
      nrm[k] = px * inv;
      nrm[k + 1] = py * inv;
      nrm[k + 2] = inv;
      r[i] += (t.roughness[i] - r[i]) * w;
      m[i] += (t.metallic[i] - m[i]) * w;
      o[i] = (o[i] + (t.occlusion[i] - o[i]) * w) * (1 - contact * 4 * w * (1 - w));
      h[i] += (top - h[i]) * w;
    }
  }
  const bytes = (from: Float32Array, map: (v: number) => number) => {
    const out = new Uint8Array(from.length);
    for (let i = 0; i < out.length; i++) out[i] = map(from[i]) * 255 + 0.5;
    return out;
  };
  const curve = new Uint8Array(4097);
  for (let i = 0; i <= 4096; i++) curve[i] = linearToSrgb(i / 4096) * 255 + 0.5;
  const colour = new Uint8Array(c.length);
  for (let i = 0; i < c.length; i++) colour[i] = curve[Math.round(c[i] * 4096)];
  const height = new Uint16Array(n);
  for (let i = 0; i < n; i++) height[i] = ((h[i] - stack.lo) / (stack.hi - stack.lo)) * 65535 + 0.5;
  const clamp = (v: number) => Math.min(1, Math.max(0, v));
  return {
    baseColor: colour,
    normal: bytes(nrm, (v) => v * 0.5 + 0.5),
    roughness: bytes(r, clamp),
    occlusion: bytes(o, clamp),
    metallic: bytes(m, clamp),
    height,
  };
}

export async function blend(): Promise<void> {
  const { stack, slots } = layersOf(SIZE, LAYERS);
  const material = blendMaterial(stack);
  const roles = BLEND_ROLES as readonly BlendRole[];
  const file = path.resolve(process.env['PEBBLE_ROOT'] ?? '.', 'dist/node/band-worker.mjs');
  const way = process.env['PEBBLE_BENCH_WAY'];
  if (way) {
    const pool = new BandPool(file, 2);
    const mib = await peakBeyond(() =>
      way === 'plain' ? plainLoop(stack, slots, SIZE) : pool.evaluate(material, ingredients(slots), SIZE, roles, () => undefined),
    );
    await pool.close();
    return console.log(JSON.stringify({ mib }));
  }
  const pools = { one: new BandPool(file, 1), two: new BandPool(file, 2) };
  const took: Record<'plain' | 'one' | 'two', number[]> = { plain: [], one: [], two: [] };
  const ways = {
    plain: async () => plainLoop(stack, slots, SIZE),
    one: () => pools.one.evaluate(material, ingredients(slots), SIZE, roles, () => undefined),
    two: () => pools.two.evaluate(material, ingredients(slots), SIZE, roles, () => undefined),
  };
  for (let run = 0; run < often(5, 2); run++)
    for (const [name, work] of Object.entries(ways) as [keyof typeof ways, () => Promise<unknown>][]) {
      const began = performance.now();
      await work();
      if (run) took[name].push(performance.now() - began);
    }
  const of = (name: keyof typeof took) => median(took[name]);
  const memory = (name: string) => inOwnProcess<{ mib: number }>('blend', name).mib;
  const outputs = (SIZE * SIZE * (3 + 3 + 1 + 1 + 1 + 2)) / 2 ** 20;
  const reference = plainLoop(stack, slots, SIZE);
  const ours = await evaluateSquare({}, { material, on: null }, ingredients(slots), SIZE, roles, () => undefined);
  let worst = 0;
  for (const role of ['roughness', 'occlusion', 'normal'] as const)
    for (let i = 0; i < reference[role].length; i++) worst = Math.max(worst, Math.abs(reference[role][i] - (ours[role] as Image).data[i]));
  await pools.one.close();
  await pools.two.close();
  table(`A blend of ${LAYERS} layers of 2048² surfaces to six maps (4 runs each, turn about)`, [
    ['plain single-threaded loop over whole float images', `${ms(of('plain'))}, peak ${memory('plain').toFixed(0)} MiB beyond the sources`],
    ['tiles, one worker', ms(of('one'))],
    ['tiles, two workers', `${ms(of('two'))}, peak ${memory('two').toFixed(0)} MiB beyond the sources`],
    ['memory beyond the sources (reach ≤ outputs + 256 MiB)', `${(outputs + 256).toFixed(0)} MiB allowed`],
    ['one worker to two (reach ≥ 1.5×)', times(of('one') / of('two'))],
    ['plain loop to two workers (reach ≥ 3×)', times(of('plain') / of('two'))],
    ['largest difference to the plain loop', `${worst}/255`],
  ]);
}
