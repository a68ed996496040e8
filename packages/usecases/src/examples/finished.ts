// The still and the shed wall of the example, finished: painted, made into textures of their own, and stamped.
import type {
  AnyDocument,
  AssetDocument,
  BlendDocument,
  Cue,
  Model,
  PressedStamp,
  SpecimenDocument,
  SurfaceDocument,
  WrittenStroke,
} from '@pebble/core';
import {
  Bvh,
  DEFAULT_STAMP,
  MeshMaskPainter,
  SPECIMEN_MODELS,
  boundsOf,
  inOrder,
  makeAsset,
  makeCue,
  makeImage,
  makeLayer,
  placeAt,
  replayStrokes,
  scattered,
  setsOf,
  slotsOf,
  withSets,
} from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import type { Library } from '../blends';
import { layOut, tangented } from '../layout';
import type { Ports, Report } from '../ports';
import { keepModel } from '../specimens';
import { planStamps } from '../stamp-plan';
import type { StampGround } from '../stamping';
import { stampGround, stampedSurface } from '../stamping';
import { surfaceOfBlend } from '../surface-of-blend';
import { STILL } from './still';

/** What the documents are called. */
export const FINISHED = {
  still: { surface: 'still-finished', stamped: 'still-stamped', asset: 'finished-still', blend: 'still-painted' },
  wall: { specimen: 'shed-wall-unwrapped', surface: 'wall-finished', stamped: 'wall-stamped', asset: 'finished-wall', blend: 'wall-painted' },
} as const;
/** Sides of the textures, and of the masks that are painted on the meshes. */
const [SIDE, MASK] = [1024, 512];
const METRES = { unitM: 1, up: 'y' } as const;

/** The shed wall with its islands in one tile; those of its own coordinates lie on each other. */
export async function unwrappedWall(ports: Ports, report: Report): Promise<SpecimenDocument> {
  const own = SPECIMEN_MODELS['shed-wall'](1);
  const { model, set } = await layOut(own, 'repack', 0, 0, METRES, report);
  const laid: Model = { ...model, lods: model.lods.map((parts) => parts.map((part) => tangented(withSets(part, [setsOf(part)[set]])))) };
  const kept = await keepModel(ports, 'shed-wall', laid, METRES);
  return {
    kind: 'specimen',
    version: 1,
    name: 'Shed wall, one tile',
    file: { blob: kept.model, fileName: 'shed_wall.glb', bytes: 0 },
    ...METRES,
    uvSet: 0,
    stacking: {},
    notes: [],
    ...kept,
  };
}

/** Places of a mesh that somebody looks at along a direction, from outside, in shares of its bounds. */
function seenFrom(mesh: StampGround, along: readonly [number, number, number]): (x: number, y: number) => [number, number, number] | null {
  const tree = new Bvh(mesh);
  const { lo, hi } = boundsOf(mesh);
  return (x, y) => {
    const at = (c: number, share: number) => lo[c] + (hi[c] - lo[c]) * share;
    const size = Math.hypot(...hi.map((v, c) => v - lo[c]));
    const aim = [at(0, x), at(1, y), (lo[2] + hi[2]) / 2] as const;
    const hit = tree.first([aim[0] - along[0] * size, aim[1] - along[1] * size, aim[2] - along[2] * size], along);
    if (!hit) return null;
    const [px, py, pz] = placeAt(mesh, hit);
    return [px, py, pz];
  };
}

/** A blend with one more layer where strokes painted it on the mesh. */
async function painted(
  ports: Ports,
  blend: BlendDocument,
  mesh: StampGround,
  { name, specimen, layer, called, strokes }: { name: string; specimen: string; layer: string; called: string; strokes: readonly WrittenStroke[] },
): Promise<BlendDocument> {
  const painter = new MeshMaskPainter(mesh, MASK, MASK, new Uint8Array(MASK * MASK));
  replayStrokes({ strokes }, painter, mesh);
  const mask = makeImage({ width: MASK, height: MASK, channels: 1, data: painter.bytesNow() as Uint8Array<ArrayBuffer> });
  const picture = await ports.blobs.put(await ports.codec.encode(mask), 'image/png');
  const cue: Cue = { ...makeCue('painted', { shape: 'straight', centre: 0.5, width: 1, picture, set: 1 }), order: 1 };
  const top = Math.max(...Object.values(blend.layers).map((l) => l.order)) + 1;
  const made = makeLayer(layer, called, top);
  const seam = { ...made.seam, soft: 0.2, follow: 0.5, liftM: 0.002, broken: { byM: 0.006, atM: 0.12, octaves: 4, seed: 11 } };
  return { ...blend, name, specimen, layers: { ...blend.layers, painted: { ...made, coverage: { c1: cue }, seam } } };
}

interface Press {
  surface: string;
  x: number;
  y: number;
  radiusM: number;
  tint?: string;
}
function stampsAt(place: (x: number, y: number) => [number, number, number] | null, presses: readonly Press[]): Record<string, PressedStamp> {
  const all = presses.flatMap(({ surface, x, y, radiusM, tint = '#ffffff' }, i) => {
    const at = place(x, y);
    if (!at) return [];
    const stamp = { ...DEFAULT_STAMP, at, radiusM, tint, order: i + 1, surface, seed: 100 + i };
    return [[`k${i + 1}`, scattered(stamp, { turn: Math.PI, scale: 0.2, tint: 0.15 }, 100 + i)] as const];
  });
  return Object.fromEntries(all);
}

/** A specimen finished: what it wears before and after it was stamped, and the asset that wears it. */
async function finished(
  ports: Ports,
  {
    library,
    specimen,
    body,
    blend,
    names,
    name,
    presses,
    ground,
  }: {
    library: Library;
    specimen: string;
    body: SpecimenDocument;
    blend: BlendDocument;
    names: { surface: string; stamped: string; asset: string; blend: string };
    name: string;
    presses: readonly Press[];
    ground: StampGround;
  },
  report: Report,
): Promise<{ id: string; body: AnyDocument }[]> {
  const known = { ...library, specimens: { ...library.specimens, [specimen]: body } };
  const baked = await surfaceOfBlend(ports, blend, known, { size: SIDE, onto: specimen }, (done, note) => report(0.6 * done, note));
  const base: SurfaceDocument = { ...baked, name: `${name}, finished` };
  const asset: AssetDocument = { ...makeAsset(`${name}, stamped`, specimen, slotsOf(body), names.surface) };
  const find = (id: string) => (id === names.surface ? base : library.surfaces[id]);
  const add = stampsAt(seenFrom(ground, [0, 0, -1]), presses);
  const plan = planStamps(asset, { surface: names.surface, add, remove: [] }, { surface: find, specimen: () => body });
  const stamped = await stampedSurface(ports, plan, find, (done, note) => report(0.6 + 0.4 * done, note));
  for (const slot of inOrder(asset.slots)) asset.slots[slot.id].blend = names.stamped;
  return [
    { id: names.blend, body: blend },
    { id: names.surface, body: base },
    { id: names.stamped, body: { ...stamped, name: `${name}, stamped` } },
    { id: names.asset, body: asset },
  ];
}

const line = (
  place: (x: number, y: number) => [number, number, number] | null,
  from: [number, number],
  to: [number, number],
  bend = 0.02,
): WrittenStroke['points'] =>
  Array.from({ length: 25 }, (_, k) => k / 24).flatMap((t) => {
    const at = place(from[0] + (to[0] - from[0]) * t + bend * Math.sin(7 * t), from[1] + (to[1] - from[1]) * t);
    return at ? [at] : [];
  });

/**
 * The still and the shed wall: each with a layer that was painted on it, baked into its own texture, and stamped.
 * @param blends those of the example that they wear @param still the tiled still
 */
export async function finishedDocuments(
  ports: Ports,
  library: Library,
  { still, blends }: { still: SpecimenDocument; blends: { still: BlendDocument; wall: BlendDocument } },
  report: Report,
): Promise<{ id: string; body: AnyDocument }[]> {
  const meshOf = async (body: SpecimenDocument) => stampGround((await readGltf(await ports.blobs.get(body.model))).model, body, body.name, 0);
  const stillMesh = await meshOf(still);
  const atStill = seenFrom(stillMesh, [0, 0, -1]);
  const soot: WrittenStroke = { brush: { radiusM: 0.09, falloff: 0.8, strength: 0.8 }, aim: 'add', points: line(atStill, [0.2, 0.24], [0.62, 0.26]) };
  const stillBlend = await painted(ports, blends.still, stillMesh, {
    name: 'Copper still, painted',
    specimen: STILL.specimen,
    layer: 'laterite-clay',
    called: 'Splashed clay',
    strokes: [soot],
  });
  const stillDocuments = await finished(
    ports,
    {
      library,
      specimen: STILL.specimen,
      body: still,
      blend: stillBlend,
      names: FINISHED.still,
      name: 'Copper still',
      ground: stillMesh,
      presses: [
        { surface: 'cushion-moss', x: 0.36, y: 0.3, radiusM: 0.07 },
        { surface: 'cushion-moss', x: 0.44, y: 0.27, radiusM: 0.05 },
        { surface: 'lime-plaster', x: 0.3, y: 0.44, radiusM: 0.05, tint: '#d8c8b8' },
        { surface: 'lime-plaster', x: 0.5, y: 0.4, radiusM: 0.04, tint: '#d8c8b8' },
      ],
    },
    (done, note) => report(0.45 * done, note),
  );
  const wall = await unwrappedWall(ports, (done, note) => report(0.45 + 0.05 * done, note));
  const wallMesh = await meshOf(wall);
  const atWall = seenFrom(wallMesh, [0, 0, -1]);
  const damp: WrittenStroke = { brush: { radiusM: 0.16, falloff: 0.9 }, aim: 'add', points: line(atWall, [0.1, 0.24], [0.86, 0.22]) };
  const wallBlend = await painted(ports, blends.wall, wallMesh, {
    name: 'Shed wall, painted',
    specimen: FINISHED.wall.specimen,
    layer: 'cushion-moss',
    called: 'Moss where it is damp',
    strokes: [damp],
  });
  const wallDocuments = await finished(
    ports,
    {
      library,
      specimen: FINISHED.wall.specimen,
      body: wall,
      blend: wallBlend,
      names: FINISHED.wall,
      name: 'Shed wall',
      ground: wallMesh,
      presses: [
        { surface: 'terrace-stone', x: 0.3, y: 0.62, radiusM: 0.22 },
        { surface: 'terrace-stone', x: 0.24, y: 0.52, radiusM: 0.16 },
        { surface: 'terrace-stone', x: 0.7, y: 0.74, radiusM: 0.2 },
        { surface: 'cushion-moss', x: 0.62, y: 0.14, radiusM: 0.14 },
        { surface: 'laterite-clay', x: 0.82, y: 0.3, radiusM: 0.18 },
        { surface: 'laterite-clay', x: 0.74, y: 0.27, radiusM: 0.12 },
      ],
    },
    (done, note) => report(0.5 + 0.5 * done, note),
  );
  return [...stillDocuments, { id: FINISHED.wall.specimen, body: wall }, ...wallDocuments];
}
