// Runs in the browser: the stage in live mode in every channel, on a bent mesh, against the processor.
import type { BlendDocument, BlendSurface, Coverage, CueKind, DagNode, Footprint, Layer, Mesh, PackedSet, PackedSurface, Stack } from '@pebble/core';
import {
  Builder,
  DEFAULT_CONSTANT,
  DEFAULT_LOOK,
  DEFAULT_SEAM,
  DEFAULT_WATER,
  SKIES,
  blendMaterial,
  computeLight,
  evaluate,
  evenFootprint,
  extentGround,
  flatDomain,
  footprintValues,
  generateSurface,
  liveProgram,
  lowerBlend,
  makeBlend,
  makeCue,
  makeImage,
  makeLayer,
  makeSpecimen,
  makeStack,
  sourcesOfPacked,
  withMeshFacts,
} from '@pebble/core';
import fc from 'fast-check';
import { anyBlend } from '../../packages/core/src/testing/any-blend';
import type { StageChannel } from '@pebble/stage';
import { LIGHT_UNITS, Stage, packIds, packMask } from '@pebble/stage';
import { lookOf, pixels, settled, stageOutputs } from './stage-page.js';

export interface BentCase {
  name: string;
  channel: string;
  /** Difference that 99 of 100 bytes stay within, 0–255, and the share of bytes that differ by more than 2. */
  p99: number;
  beyond: number;
  /** Standard deviation of the expected bytes: a picture of one value would say nothing. */
  varies: number;
}

const SIZE = 128;
const EXTENT = 2.4;
const PARTS = ['body', 'lid', 'outer wall'];
type Made = { surfaces: Record<string, BlendSurface>; packed: Record<string, PackedSurface> };

/** Coordinates of the sets beside the first, each turned, stretched and moved in its own way: constant, by u, by v. */
const SETS = {
  uv1: [
    [0.4, 1.3, -0.5],
    [-0.2, 0.4, 0.9],
  ],
  uv2: [
    [1.1, -0.7, 0.2],
    [0.3, 0, 1.6],
  ],
} as const;
const laidOut = (set: keyof typeof SETS) => (u: number, v: number) => SETS[set].map(([c, byU, byV]) => c + byU * u + byV * v);
/** How far they move from pixel to pixel. */
const moved = (set: keyof typeof SETS): Footprint => ({
  x: [SETS[set][0][1] / SIZE, SETS[set][1][1] / SIZE],
  y: [SETS[set][0][2] / SIZE, SETS[set][1][2] / SIZE],
});

/** A sheet that is bent both ways, in three parts beside each other, with something else in all that a mesh may carry. */
function bentSheet(): Mesh {
  const n = 24;
  const corners: { u: number; v: number; part: number }[] = [];
  const index: number[] = [];
  for (let part = 0; part < 3; part++) {
    const first = corners.length;
    for (let j = 0; j <= n; j++) for (let i = 0; i <= n / 3; i++) corners.push({ u: part / 3 + i / n, v: j / n, part });
    const wide = n / 3 + 1;
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n / 3; i++) {
        const a = first + j * wide + i;
        index.push(a, a + wide, a + 1, a + 1, a + wide, a + wide + 1);
      }
  }
  const of = (f: (u: number, v: number) => readonly number[]) => Float32Array.from(corners.flatMap(({ u, v }) => f(u, v)));
  const height = (u: number, v: number) => 0.35 * Math.sin(5 * u) + 0.5 * v * v;
  const unit = (x: number, y: number, z: number) => [x, y, z].map((c) => c / Math.hypot(x, y, z));
  const slope = (u: number) => (0.35 * 5 * Math.cos(5 * u)) / EXTENT;
  const mesh: Mesh = {
    position: of((u, v) => [(u - 0.5) * EXTENT, height(u, v), (v - 0.5) * EXTENT]),
    normal: of((u, v) => unit(-slope(u), 1, -v / EXTENT)),
    tangent: of((u) => [...unit(1, slope(u), 0), 1]),
    texcoord: of((u, v) => [u, v]),
    geomcolor: of((u, v) => [u, v * v, 0.5 + 0.5 * Math.sin(9 * v), 1 - u * v]),
    uv1: of(laidOut('uv1')),
    uv2: of(laidOut('uv2')),
    part: Float32Array.from(corners, ({ part }) => part),
    index: Uint32Array.from(index),
  };
  return withMeshFacts(
    mesh,
    Float32Array.from(corners, ({ u, v }) => 30 * Math.sin(7 * u + 2 * v)),
    Float32Array.from(corners, ({ u, v }) => 0.5 + 0.5 * Math.cos(4 * v - 3 * u)),
  );
}

const COLOURS = ['#c03020', '#20a040', '#3040c0', '#d0c020', '#902090', '#20b0b0', '#e0e0e0'];
/** Layers of even values, one a coverage, each of another colour, roughness and height. */
const evenLayers = (coverages: readonly Coverage[]): Record<string, Layer> =>
  Object.fromEntries(
    coverages.map((coverage, i) => {
      const values = { baseColor: COLOURS[i % COLOURS.length], roughness: 0.15 + 0.12 * (i % 7), metallic: (i % 3) / 2, heightM: 0.004 * i };
      const seam = { ...DEFAULT_SEAM, soft: 0.6, liftM: 0.006 * (i + 1) };
      return [`e${i}`, { ...makeLayer({ kind: 'constant', ...DEFAULT_CONSTANT, ...values }, `Even ${i}`, 10 + i), coverage, seam }];
    }),
  );
const one = <K extends CueKind>(kind: K, over: Parameters<typeof makeCue<K>>[1]): Coverage => ({ c: makeCue(kind, over) });

/** Documents that between them read all that a mesh carries and all that a layer may be. */
function documents(): Record<string, BlendDocument> {
  const ground = makeLayer('stone', 'Stone', 0);
  const of = (name: string, layers: Record<string, Layer>, over: Partial<BlendDocument> = {}) =>
    makeBlend(name, { extentM: EXTENT, layers: { ground, ...layers }, ...over });
  const placed = { ...DEFAULT_LOOK, tint: '#c0d8ff', roughness: 0.1, normal: 3, scale: 1.7, turn: 33, u: 0.31, v: 0.17 };
  const hard = { ...DEFAULT_SEAM, soft: 0.02, follow: 0.5, bias: 0.6, broken: { byM: 0.01, atM: 0.4, octaves: 3, seed: 4 } };
  return {
    places: of(
      'Places',
      evenLayers([
        one('altitude', { centre: 0.3, width: 0.5 }),
        one('slope', { centre: 20, width: 30 }),
        one('direction', { bearing: 90, centre: 70, width: 60 }),
        one('vertexColour', { channel: 'b', width: 0.6 }),
      ]),
    ),
    facts: of(
      'Facts',
      evenLayers([
        one('convexity', { centre: 10, width: 20 }),
        one('occlusion', { centre: 0.5, width: 0.5 }),
        one('part', { part: 'lid' }),
        one('concavity', { centre: 15, width: 20 }),
      ]),
    ),
    pictures: of(
      'Pictures',
      evenLayers([
        one('mask', { surface: 'stone', role: 'roughness', channel: 0, set: 1, width: 0.6 }),
        one('mask', { surface: 'moss', role: 'height', channel: 0, set: 2, repeats: 2, width: 0.6 }),
        one('id', { surface: 'stone', colour: '#ff0000', set: 2 }),
        one('id', { surface: 'moss', colour: '#00ff00', set: 1 }),
        one('id', { surface: 'clay', colour: '#0000ff' }),
      ]),
    ),
    laid: of('Laid', {
      clay: {
        ...makeLayer('clay', 'Clay', 1, { coverage: one('noise', { sizeM: 0.9, centre: 0.5, width: 0.4, seed: 3 }) }),
        look: placed,
        seam: hard,
      },
      moss: {
        ...makeLayer('moss', 'Moss', 2, { coverage: one('vertexColour', { channel: 'g', centre: 0.4, width: 0.8 }) }),
        look: { ...DEFAULT_LOOK, normal: 5, low: 0.1, high: 0.8, mid: 0.3, u: 0.6, scale: 0.6 },
        seam: { ...DEFAULT_SEAM, soft: 0.9, follow: 0.3, contact: 0.6, normal: 0.8 },
      },
    }),
    fine: of('Fine', {
      // What is fine of the heights decides: the layer lies level with what it lies on.
      clay: {
        ...makeLayer('clay', 'Clay', 1, { coverage: one('constant', { value: 0.5 }) }),
        seam: { ...DEFAULT_SEAM, soft: 0.12, detailM: 0.3, liftM: 0 },
      },
    }),
    // As hard as it may be, and so little apart in height that hardness alone decides.
    edges: of('Edges', {
      over: {
        ...makeLayer('stone', 'Stone again', 1, { coverage: one('constant', { value: 0.5 }) }),
        look: { ...DEFAULT_LOOK, tint: '#ff4020', roughness: 0.3 },
        seam: { ...DEFAULT_SEAM, soft: 0, broken: { byM: 0.0006, atM: 0.5, octaves: 1, seed: 2 } },
      },
    }),
    grouped: of(
      'Grouped',
      {
        clay: {
          ...makeLayer('clay', 'Clay', 1, { shared: 'damp', group: 'wet', mode: 'multiply' }),
          strength: 0.8,
          seam: { ...DEFAULT_SEAM, soft: 0.3 },
        },
        pool: { ...makeLayer({ kind: 'water', ...DEFAULT_WATER, levelM: -0.004 }, 'Pool', 2, { coverage: {} }), group: 'wet' },
        inner: {
          ...makeLayer({ kind: 'blend', blend: 'inner' }, 'Inner', 3, {
            coverage: one('noise', { noise: 'cellular', sizeM: 0.7, width: 0.5, seed: 8 }),
          }),
          seam: { ...DEFAULT_SEAM, soft: 0.3, liftM: 0.01 },
        },
      },
      {
        groups: { wet: { name: 'Wet', on: true, coverage: one('altitude', { centre: 0.4, width: 0.9 }) } },
        coverages: { damp: { name: 'Damp', coverage: one('noise', { sizeM: 0.5, width: 0.7, seed: 12 }) } },
      },
    ),
  };
}

/** A picture of flat patches in the three colours that IDs are asked for, another one for each number. */
function idPicture(n: number) {
  const cells = 5 + 2 * n;
  const data = new Uint8Array(64 * 64 * 3);
  for (let i = 0; i < 64 * 64; i++) {
    const cell = Math.floor(((i % 64) * cells) / 64) * 3 + Math.floor((Math.floor(i / 64) * cells) / 64) * 5 + n;
    data[i * 3 + (cell % 3)] = 255;
  }
  return makeImage({ width: 64, height: 64, channels: 3, data, colourSpace: 'srgb' });
}

function slotsOf(stack: Stack, packed: Made['packed']): PackedSet {
  const { maps } = generateSurface('terrace-stone', { seed: 3, size: 64 });
  const other = generateSurface('river-gravel', { seed: 9, size: 64 }).maps;
  return {
    surfaces: stack.slots.map((id) => packed[id]),
    masks: stack.masks.map((_, i) => packMask(i % 2 ? other.height : maps.roughness, 0, 64)),
    ids: stack.ids.map((_, i) => packIds(idPicture(i), 64)),
  };
}

const encoded = (x: number) => (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055);
const byte = (x: number) => 255 * Math.min(1, Math.max(0, x));
type Planes = Record<string, Float32Array[]>;
/** What a channel shows of a pixel, in bytes: written down from what the view promises, not from its shader. */
const SHOWN: Partial<Record<StageChannel, (at: (name: string, c?: number) => number, bounds: readonly [number, number]) => number[]>> = {
  baseColor: (at) => [0, 1, 2].map((c) => byte(encoded(at('baseColor', c)))),
  normal: (at) => [0, 1, 2].map((c) => byte(at('normal', c) * 0.5 + 0.5)),
  roughness: (at) => [byte(at('roughness'))],
  occlusion: (at) => [byte(at('occlusion'))],
  metallic: (at) => [byte(at('metallic'))],
  height: (at, [lo, hi]) => [byte((at('height') - lo) / (hi - lo))],
  // The hues of layers, a little darker where light does not come in.
  weights: (at) => {
    const hue = [0, 1, 2].map((c) => encoded(at('identity', c)));
    const light = Math.min(1, Math.max(0, 0.6 + 0.3 * hue[0] + 0.5 * hue[1] + 0.2 * hue[2]));
    return hue.map((v) => byte(v * (0.72 + 0.28 * at('occlusion') * light)));
  },
  vertices: (at) => [0, 1, 2].map((c) => byte(at('geomcolor', c))),
  vertexA: (at) => [byte(at('geomcolor', 3))],
};

const deviation = (values: readonly number[]) => {
  const mean = values.reduce((a, b) => a + b, 0) / values.length;
  return Math.sqrt(values.reduce((a, b) => a + (b - mean) ** 2, 0) / values.length);
};

/** Every channel of every document on the bent sheet. @param random blends at random beside them */
export async function bent({ surfaces, packed }: Made, random = 6): Promise<BentCase[]> {
  const known = Object.fromEntries(
    Object.entries(surfaces).map(([id, s]) => [id, { ...s, roles: new Set([...s.roles, 'mask', 'id']) as BlendSurface['roles'] }]),
  );
  const inner = makeBlend('Inner', {
    extentM: EXTENT,
    layers: {
      a: makeLayer('moss', 'Moss', 1),
      b: {
        ...makeLayer('clay', 'Clay', 2, { coverage: one('vertexColour', { channel: 'r', width: 0.5 }) }),
        look: { ...DEFAULT_LOOK, u: 0.2, turn: 90 },
      },
    },
  });
  const at = fc.sample(anyBlend(['stone', 'clay', 'moss'], EXTENT), { numRuns: random + 1, seed: 11 }).slice(0, random);
  const all = { ...documents(), ...Object.fromEntries(at.map((blend, i) => [`random ${i}`, blend])) };
  const mesh = bentSheet();
  const { geometry } = extentGround(mesh, SIZE, [0, SIZE]);
  const domain = {
    ...flatDomain(SIZE, SIZE, EXTENT, geometry),
    footprint: evenFootprint(1 / SIZE),
    footprints: { uv1: moved('uv1'), uv2: moved('uv2') },
  };
  const canvas = Object.assign(document.createElement('canvas'), { width: SIZE, height: SIZE });
  const stage = new Stage(canvas, computeLight(SKIES.overcast, 16, 8, 16));
  stage.panes = { specimen: { x: 0, y: 0, width: 0, height: 0 }, flat: { x: 0, y: 0, width: 1, height: 1 } };
  stage.setSpecimen(makeSpecimen('patch', EXTENT), mesh);
  const out: BentCase[] = [];
  for (const [name, blend] of Object.entries(all)) {
    const stack = makeStack(blend, known, { inner });
    const material = blendMaterial(stack, { standing: { groundM: 0, parts: PARTS } });
    const slots = slotsOf(stack, packed);
    const bounds = [stack.lo, stack.hi] as const;
    stage.look = lookOf({ channel: 'roughness', bounds });
    const done = settled(stage);
    stage.setProgram({ program: { ...liveProgram(material, false, LIGHT_UNITS), graph: null }, values: material.values, slots });
    await done;
    const outputs: Record<string, DagNode> = stageOutputs(lowerBlend(stack, { far: true }));
    const planes: Planes = evaluate(
      { ...outputs, geomcolor: new Builder().node('geomcolor') },
      { domain, values: { ...material.values, ...footprintValues(domain) }, sources: sourcesOfPacked(slots) },
    );
    for (const [channel, shows] of Object.entries(SHOWN)) {
      stage.look = lookOf({ channel: channel as StageChannel, bounds });
      const drawn = settled(stage);
      stage.draw();
      await drawn;
      const shown = pixels(stage.gl, SIZE, SIZE);
      const off: number[] = [];
      const expected: number[] = [];
      for (let i = 0; i < SIZE * SIZE; i++) {
        const row = SIZE - 1 - Math.floor(i / SIZE);
        const bytes = shows((output, c = 0) => planes[output][c][i], bounds);
        bytes.forEach((v, c) => {
          expected.push(v);
          off.push(Math.abs(v - shown[(row * SIZE + (i % SIZE)) * 4 + c]));
        });
      }
      off.sort((a, b) => a - b);
      out.push({
        name,
        channel,
        p99: off[Math.floor(off.length * 0.99)],
        beyond: off.filter((v) => v > 2).length / off.length,
        varies: deviation(expected),
      });
    }
  }
  stage.dispose();
  return out;
}
