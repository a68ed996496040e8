// Flat, section, bake and what is packed say the same of a mesh whose slots each use the whole unit square, by pictures
// that are laid by the mesh's own sets: what they should say is written down from the documents, not taken from one of them.
import type { BlendDocument, BlendRole, BlendSurface, Mesh, Model, SpecimenDocument } from '@pebble/core';
import { BLEND_ROLES, blendMaterial, generateSurface, makeBlend, makeCue, makeImage, makeLayer, makeStack, withSets } from '@pebble/core';
import fc from 'fast-check';
import { cutPlaced, evaluateSquare, ingredients, placeStack } from './index';
import { blendMesh, evaluateOnMesh } from './on-mesh';
import { memoryPorts } from './testing/memory';

const quiet = () => undefined;
const EXTENT = 2;
const SIZE = 48;
/** Texels a side of the picture, in two by three blocks. */
const [BLOCKS_X, BLOCKS_Y, BLOCK] = [2, 3, 32];
/** Blocks that are white or red. */
const on = (bx: number, by: number) => (bx + by * 2) % 3 !== 0;

type Affine = readonly [number, number, number, number, number, number];
const laid = ([a, b, c, d, e, f]: Affine, u: number, v: number): [number, number] => [a * u + b * v + c, d * u + e * v + f];

/** A level square of the extent that uses the whole unit square, away from the origin. */
function square(away: number): Mesh {
  const n = 4;
  const corners = Array.from({ length: (n + 1) ** 2 }, (_, i) => [(i % (n + 1)) / n, Math.floor(i / (n + 1)) / n]);
  const of = (f: (u: number, v: number) => readonly number[]) => Float32Array.from(corners.flatMap(([u, v]) => f(u, v)));
  const index = Array.from({ length: n * n }, (_, k) => Math.floor(k / n) * (n + 1) + (k % n)).flatMap((a) => [
    a,
    a + n + 1,
    a + 1,
    a + 1,
    a + n + 1,
    a + n + 2,
  ]);
  return {
    position: of((u, v) => [u * EXTENT + away, 0, v * EXTENT]),
    normal: of(() => [0, 1, 0]),
    tangent: of(() => [1, 0, 0, 1]),
    texcoord: of((u, v) => [u, v]),
    geomcolor: of(() => [0, 0, 0, 1]),
    index: Uint32Array.from(index),
  };
}

const SLOTS = ['brick', 'plaster'] as const;
const modelOf = (sets: readonly Affine[]): Model => ({
  title: 'Mound',
  lods: [
    SLOTS.map((slot, i) => {
      const mesh = square(3 * i);
      const second = Float32Array.from({ length: mesh.texcoord.length / 2 }, (_, k) => k).reduce((out, k) => {
        out.set(laid(sets[i], mesh.texcoord[k * 2], mesh.texcoord[k * 2 + 1]), k * 2);
        return out;
      }, new Float32Array(mesh.texcoord.length));
      return withSets({ name: `${slot} half`, slot, mesh } as Model['lods'][0][0], [mesh.texcoord, second]);
    }),
  ],
});
const specimen = (model: Model): SpecimenDocument => ({
  kind: 'specimen',
  version: 1,
  name: 'Mound',
  model: 'mound',
  file: { blob: 'mound', fileName: 'mound.glb', bytes: 1 },
  unitM: 1,
  up: 'y',
  uvSet: 0,
  parts: Object.fromEntries(
    model.lods[0].map(({ name, slot }, i) => [`p${i}`, { order: i, name, slot, level: 0, vertices: 25, triangles: 32, sets: 2, coloured: false }]),
  ),
  stacking: {},
  thumbnail: null,
  notes: [],
});

const made = generateSurface('terrace-stone', { seed: 2, size: 32 });
const known: Record<string, BlendSurface> = { stone: { ...made.facts, roles: new Set([...BLEND_ROLES, 'mask', 'id']) as BlendSurface['roles'] } };
const picture = (channels: 1 | 3) => {
  const [width, height] = [BLOCKS_X * BLOCK, BLOCKS_Y * BLOCK];
  const data = new Uint8Array(width * height * channels);
  for (let i = 0; i < width * height; i++) if (on(Math.floor((i % width) / BLOCK), Math.floor(i / width / BLOCK))) data[i * channels] = 255;
  return makeImage({ width, height, channels, data, colourSpace: 'data' });
};
const from = ingredients([made.maps], [picture(1)], [picture(3)]);

const affine = fc.tuple(
  ...([0.3, 0.3, 1, 0.3, 0.3, 1] as const).map((reach, i) =>
    fc.double({ min: i === 0 || i === 4 ? 0.5 : -reach, max: i === 0 || i === 4 ? 1.4 : reach, noNaN: true }),
  ),
);
const cues = fc.record({
  kind: fc.constantFrom('mask' as const, 'id' as const),
  set: fc.constantFrom(1 as const, 2 as const),
  inverted: fc.boolean(),
});

/** What is looked up at a place of the picture; null too near to the border of a block to be sure. */
function lookUp(u: number, v: number): boolean | null {
  const [x, y] = [(u - Math.floor(u)) * BLOCKS_X, (v - Math.floor(v)) * BLOCKS_Y];
  const near = (t: number) => Math.abs(t - Math.round(t)) < 0.2;
  return near(x) || near(y) ? null : on(Math.floor(x), Math.floor(y));
}

describe('a mesh of two slots, each over the whole square', () => {
  it('is the same flat, cut and baked, slot by slot, as its documents say', async () => {
    const roles: BlendRole[] = ['roughness'];
    await fc.assert(
      fc.asyncProperty(affine, affine, cues, async (first, second, { kind, set, inverted }) => {
        const sets = [first, second] as unknown as Affine[];
        const model = modelOf(sets);
        const ports = { ...memoryPorts(), model: async () => model };
        ports.kept.set('mound', new Uint8Array(1));
        // Of an ID, near to red is meant.
        const cue =
          kind === 'mask'
            ? makeCue('mask', { surface: 'stone', role: 'mask', channel: 0, set, centre: 0.5, width: 0, inverted })
            : makeCue('id', { surface: 'stone', colour: '#ff0000', set, centre: 0.5, width: 0, inverted: !inverted });
        const even = (name: string, roughness: number, order: number, coverage = {}) =>
          makeLayer({ kind: 'constant', baseColor: '#808080', roughness, metallic: 0, heightM: 0 }, name, order, { coverage });
        const blend: BlendDocument = makeBlend('Mound', {
          extentM: EXTENT,
          specimen: 'm',
          layers: { a: even('Below', 0.2, 1), b: even('Above', 0.8, 2, { c: cue }), s: { ...makeLayer('stone', 'Unseen', 3), strength: 0 } },
        });
        const stack = makeStack(blend, known);
        let sure = 0;
        for (const [i, slot] of SLOTS.entries()) {
          const placed = await placeStack(ports, stack, blend, { m: specimen(model) }, roles, { slot });
          expect(placed.on?.place).toEqual({ slot });
          const flat = (await evaluateSquare({}, placed, from, SIZE, roles, quiet)).roughness!.data;
          const mesh = blendMesh(model, EXTENT, { unitM: 1, up: 'y' }, { slot });
          const baked = evaluateOnMesh(blendMaterial(stack, { standing: mesh.standing }), from, mesh, SIZE, roles, quiet).roughness!.data;
          const row = Math.floor(SIZE / 2);
          const ends = [0.5 / SIZE, 1 - 0.5 / SIZE];
          const cut = cutPlaced(placed, from, { ax: 0, ay: (row + 0.5) / SIZE, bx: 1, by: (row + 0.5) / SIZE }, SIZE);
          expect(cut.lengthM).toBeCloseTo(EXTENT, 6);
          for (let k = 0; k < SIZE * SIZE; k++) {
            const [x, y] = [k % SIZE, Math.floor(k / SIZE)];
            const [u, v] = [(x + 0.5) / SIZE, (y + 0.5) / SIZE];
            const seen = lookUp(...(set === 1 ? ([u, v] as [number, number]) : laid(sets[i], u, v)));
            if (seen === null) continue;
            sure++;
            const above = seen !== inverted;
            const wanted = Math.round(255 * (above ? 0.8 : 0.2));
            if (Math.abs(flat[k] - wanted) > 1 || Math.abs(baked[k] - wanted) > 1)
              throw new Error(`${slot} ${x}, ${y}: ${wanted} is meant, flat ${flat[k]}, baked ${baked[k]}`);
            const share = cut.layers[1].share[x];
            if (y === row && u > ends[0] && u < ends[1] && Math.abs(share - Number(above)) > 0.01)
              throw new Error(`${slot} at ${x} of the cut: ${Number(above)} is meant, ${share} is cut`);
          }
        }
        expect(sure).toBeGreaterThan(SIZE * SIZE * 0.3);
      }),
      { numRuns: 15 },
    );
  });
});
