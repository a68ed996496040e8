import { fractalNoise } from '../noise';
import type { MeshPart, SlotLaying, SlottedMesh } from './asset';
import { slottedMesh } from './asset';
import type { Colouring, Mesh, Placed } from './mesh';
import { numbered } from './ground';
import { grid, smooth, withExtent } from './mesh';
import type { Model } from './model';
import { MODELS } from './models';
import { box } from './shapes';

export const SPECIMENS = [
  'patch',
  'sphere',
  'cube',
  'slab',
  'marker-stone',
  'copper-still',
  'ridge-tile',
  'shed-wall',
  'path-slab',
  'upright-card',
  'steaming-still',
] as const;
export type SpecimenName = (typeof SPECIMENS)[number];
export const isSpecimenName = (name: string): name is SpecimenName => (SPECIMENS as readonly string[]).includes(name);

/**
 * Vertex colours that the specimens carry, as a function of the texture coordinate (periodic): red in broad patches,
 * green along a winding band, blue in small islands, alpha 1. Writes rgba at `out[at…]`.
 */
export function specimenColour(u: number, v: number, out: Float32Array, at: number): void {
  const uu = u - Math.floor(u);
  const vv = v - Math.floor(v);
  out[at] = smooth(0.42, 0.62, fractalNoise(uu * 3, vv * 3, 3, 71, 3));
  const bend = 0.5 + 0.16 * Math.sin(uu * 2 * Math.PI) + 0.1 * (fractalNoise(uu * 4, vv * 4, 4, 83, 2) - 0.5);
  const away = Math.abs(vv - bend);
  out[at + 1] = 1 - smooth(0.1, 0.26, Math.min(away, 1 - away));
  out[at + 2] = smooth(0.5, 0.66, fractalNoise(uu * 6, vv * 6, 6, 97, 3));
  out[at + 3] = 1;
}

const painted: Colouring = (_, __, [u, v], out, at) => specimenColour(u, v, out, at);

/** One extent of gently rolling ground, u along +X and v along +Z, at most 12 % of the extent high. */
export function makePatch(extentM: number, segments = 96): Mesh {
  const rise = (s: number, t: number) =>
    extentM * (0.045 * Math.sin(2 * Math.PI * s + 0.6) * Math.cos(2 * Math.PI * t) + 0.025 * Math.sin(4 * Math.PI * t + 1));
  return grid(segments, segments, (s, t) => ({ p: [(s - 0.5) * extentM, rise(s, t), (t - 0.5) * extentM], uv: [s, t] }), painted);
}

/** A sphere as wide as 0.6 of the extent; texels keep about their true size, and u closes after whole repetitions. */
export function makeSphere(extentM: number, segments = 96): Mesh {
  const r = 0.3 * extentM;
  const across = Math.max(1, Math.round((2 * Math.PI * r) / extentM));
  const down = (Math.PI * r) / extentM;
  // Stopping short of the poles keeps tangents defined; the gap is a fraction of a millimetre.
  const pole = 2e-3;
  const place = (s: number, t: number): Placed => {
    const theta = pole + (Math.PI - 2 * pole) * t;
    const phi = 2 * Math.PI * s;
    return { p: [-r * Math.sin(theta) * Math.cos(phi), r * Math.cos(theta), r * Math.sin(theta) * Math.sin(phi)], uv: [s * across, t * down] };
  };
  return grid(segments, segments / 2, place, painted);
}

/** A flat slab of one extent, 6 % of it thick, with rounded rims; texture coordinates run on over the edges. */
export function makeSlab(extentM: number, segments = 64): Mesh {
  const half = 0.5 * extentM;
  const rim = 0.03 * extentM;
  const reach = half + rim * 2;
  // Away from the middle, along the larger axis: flat, then a quarter circle, then straight down.
  const fold = (d: number) => {
    const flat = half - rim;
    if (d <= flat) return { scale: 1, drop: 0 };
    const turn = Math.min(Math.PI / 2, (d - flat) / rim);
    const rest = Math.max(0, d - flat - (Math.PI / 2) * rim);
    return { scale: (flat + rim * Math.sin(turn)) / d, drop: rim * (1 - Math.cos(turn)) + rest };
  };
  const place = (s: number, t: number): Placed => {
    const x = (s * 2 - 1) * reach;
    const z = (t * 2 - 1) * reach;
    const { scale, drop } = fold(Math.max(Math.abs(x), Math.abs(z)));
    return { p: [x * scale, -drop, z * scale], uv: [x / extentM + 0.5, z / extentM + 0.5] };
  };
  return grid(segments, segments, place, painted);
}

/** A cube half an extent wide with rounded edges, one chart a side. */
export function makeCube(extentM: number, segments = 48): Mesh {
  const side = 0.5 * extentM;
  const centre = [0, 0, 0] as const;
  return withExtent(
    box({ size: [side, side, side], centre, edge: 0.06 * side, segments }, (_, __, [u, v], out, at) =>
      specimenColour(u / extentM, v / extentM, out, at),
    ),
    extentM,
  );
}

const whole = (title: string, mesh: Mesh): Model => ({ title, lods: [[{ name: 'body', slot: 'surface', mesh }]] });

/** Everything that things can be looked at on. The first four are as large as an extent; the others have their own size. */
export const SPECIMEN_MODELS: Record<SpecimenName, (extentM: number) => Model> = {
  patch: (extentM) => whole('Rolling patch', makePatch(extentM)),
  sphere: (extentM) => whole('Sphere', makeSphere(extentM)),
  cube: (extentM) => whole('Cube', makeCube(extentM)),
  slab: (extentM) => whole('Slab', makeSlab(extentM)),
  ...MODELS,
};

/** How specimens are called, without making them: some take a good part of a second. */
export const SPECIMEN_TITLES: Record<SpecimenName, string> = {
  patch: 'Rolling patch',
  sphere: 'Sphere',
  cube: 'Cube',
  slab: 'Slab',
  'marker-stone': 'Marker stone',
  'copper-still': 'Copper still',
  'ridge-tile': 'Roof ridge tile',
  'shed-wall': 'Shed wall',
  'path-slab': 'Path slab',
  'upright-card': 'Upright card',
  'steaming-still': 'Steaming still',
};

/** Their parts and what these wear, without making them. */
export const SPECIMEN_PARTS: Record<SpecimenName, readonly MeshPart[]> = {
  patch: [{ name: 'body', slot: 'surface' }],
  sphere: [{ name: 'body', slot: 'surface' }],
  cube: [{ name: 'body', slot: 'surface' }],
  slab: [{ name: 'body', slot: 'surface' }],
  'marker-stone': [{ name: 'stone', slot: 'stone' }],
  'copper-still': [
    { name: 'body', slot: 'copper' },
    { name: 'lid', slot: 'copper' },
    { name: 'pipe', slot: 'pipe' },
    { name: 'stand', slot: 'iron' },
  ],
  'ridge-tile': [{ name: 'tile', slot: 'tile' }],
  'shed-wall': [
    { name: 'plinth', slot: 'stone' },
    { name: 'frame', slot: 'timber' },
    { name: 'panels', slot: 'plaster' },
  ],
  'path-slab': [{ name: 'slab', slot: 'stone' }],
  'upright-card': [{ name: 'card', slot: 'card' }],
  'steaming-still': [
    { name: 'body', slot: 'copper' },
    { name: 'lid', slot: 'copper' },
    { name: 'pipe', slot: 'pipe' },
    { name: 'stand', slot: 'iron' },
    { name: 'steam', slot: 'steam' },
  ],
};

/** A specimen that was made for an extent in one mesh; texture coordinates count repetitions of it. `lod` 1 is the reduced form where there is one. */
export function specimenMesh(name: SpecimenName, { lods }: Model, extentM: number, lod = 0): Mesh {
  const mesh = numbered((lods[lod] ?? lods[0]).map((part) => part.mesh));
  return Object.hasOwn(MODELS, name) ? withExtent(mesh, extentM) : mesh;
}

/** Slots of one of our own specimens, laid each as `lay` says in metres a repetition. Its model was made for an extent. */
export function specimenSlots(name: SpecimenName, { lods }: Model, extentM: number, lay: (slot: string) => Pick<SlotLaying, 'by'>): SlottedMesh {
  // Coordinates are metres where the thing has a size of its own, extents where it is as large as one.
  const metres = Object.hasOwn(MODELS, name) ? 1 : extentM;
  return slottedMesh(lods[0], (slot) => ({ set: 0, by: lay(slot).by / metres }));
}

/** A specimen in one mesh, made on the spot. */
export const makeSpecimen = (name: SpecimenName, extentM: number, lod = 0): Mesh => specimenMesh(name, SPECIMEN_MODELS[name](extentM), extentM, lod);

/** Ground for the flat view: `reach` extents to every side of the first, positions (u, 0, v), vertex colours as on the patch. */
export function makeFlat(reach = 1, perExtent = 48): Mesh {
  const n = (2 * reach + 1) * perExtent;
  const along = (s: number) => -reach + s * (2 * reach + 1);
  return grid(n, n, (s, t) => ({ p: [along(s), 0, along(t)], uv: [along(s), along(t)] }), painted);
}
