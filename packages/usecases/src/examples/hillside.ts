// The hillside of the example: a terrain with six layers by rule, a path and leaves painted on it, and a stream.
import type { AnyDocument, Cue, Layer, LayerContent, Seam } from '@pebble/core';
import {
  DEFAULT_BRUSH,
  DEFAULT_WATER,
  HILLSIDE,
  MASK_SIDE,
  MaskPainter,
  drainage,
  hillside,
  makeBlend,
  makeCue,
  makeImage,
  makeLayer,
  pathAt,
  samplePicture,
  wetness,
} from '@pebble/core';
import type { Ports, Report } from '../ports';
import { terrainSpecimen } from '../terrain';

/** What the documents of the hillside are called. */
export const HILL = { specimen: 'orrin-hillside', blend: 'hillside-ground' };
/** Samples along a side at which water is looked for. */
const WATER_SAMPLES = 513;

/** What was painted: a trodden path down the hill, and leaves that gathered beside it. Strokes as a hand makes them. */
export function paintedHillside(): { path: Uint8Array<ArrayBuffer>; leaves: Uint8Array<ArrayBuffer> } {
  const brush = (radiusM: number, falloff: number, by: number, seed: number) => ({
    ...DEFAULT_BRUSH,
    radiusM,
    falloff,
    broken: { by, atM: 3, seed },
  });
  const painted = (work: (painter: MaskPainter) => void) => {
    const painter = new MaskPainter(MASK_SIDE, MASK_SIDE, new Uint8Array(MASK_SIDE * MASK_SIDE));
    work(painter);
    return Uint8Array.from(painter.sheet.now);
  };
  const path = painted((painter) => {
    painter.begin(brush(2.4, 0.5, 0.25, 7), 'add', HILLSIDE.acrossM);
    for (let k = 6; k <= 252; k++) painter.to({ u: pathAt(k / 256), v: k / 256, pressure: 1 });
    painter.end();
  });
  const leaves = painted((painter) => {
    for (const [k, v] of [0.22, 0.31, 0.4, 0.52, 0.63].entries()) {
      painter.begin(brush(9, 1, 0.7, 20 + k), 'add', HILLSIDE.acrossM);
      for (let i = 0; i <= 6; i++) painter.to({ u: pathAt(v) + 0.012 + 0.002 * i, v: v + 0.004 * Math.sin(i), pressure: 0.9 });
      painter.end();
    }
  });
  return { path, leaves };
}

const on = (shows: string | LayerContent, name: string, order: number, cues: Cue[], seam: Partial<Seam>, over: Partial<Layer> = {}): Layer => {
  const made = makeLayer(shows, name, order, over);
  return { ...made, coverage: Object.fromEntries(cues.map((cue, i) => [`c${i + 1}`, { ...cue, order: i + 1 }])), seam: { ...made.seam, ...seam } };
};
const straight = { shape: 'straight', centre: 0.5, width: 1, set: 1 } as const;

/** The terrain and its ground. */
export async function hillsideDocuments(ports: Ports, report: Report): Promise<{ id: string; body: AnyDocument }[]> {
  const terrain = await terrainSpecimen(ports, { name: 'Orrin Ridge hillside', heights: null, ...HILLSIDE }, (done, note) =>
    report(0.5 * done, note),
  );
  const keep = async (data: Uint8Array<ArrayBuffer>) =>
    ports.blobs.put(await ports.codec.encode(makeImage({ width: MASK_SIDE, height: MASK_SIDE, channels: 1, data })), 'image/png');
  const { path, leaves } = paintedHillside();
  report(0.6, 'where water runs');
  const field = hillside(WATER_SAMPLES);
  const stream = samplePicture(wetness(field, drainage(field), { standsM: 0.6, runsM2: 26_000 }), field, MASK_SIDE);
  const [pathPicture, leavesPicture, streamPicture] = [await keep(path), await keep(leaves), await keep(stream)];
  const ground = makeBlend('Hillside ground', {
    extentM: 6,
    specimen: HILL.specimen,
    standsAtM: HILLSIDE.footM,
    cut: { ax: 0.06, ay: 0.34, bx: 0.94, by: 0.7 },
    layers: {
      clay: on('laterite-clay', 'Laterite clay', 1, [], {}),
      moss: on(
        'cushion-moss',
        'Cushion moss',
        2,
        [makeCue('slope', { centre: 24, width: 14 }), makeCue('noise', { centre: 0.42, width: 0.16, sizeM: 26, octaves: 6, seed: 4, over: 'world' })],
        { soft: 0.2, follow: 0.4, liftM: 0.004 },
      ),
      stone: on('terrace-stone', 'Terrace stone', 3, [makeCue('slope', { centre: 33, width: 9, inverted: false })], {
        soft: 0.1,
        follow: 0.2,
        liftM: 0.01,
      }),
      leaves: on('tea-leaves', 'Fallen leaves', 4, [makeCue('painted', { ...straight, picture: leavesPicture })], {
        soft: 0.1,
        liftM: 0.004,
        follow: 0.5,
      }),
      path: on('river-gravel', 'Gravel path', 5, [makeCue('painted', { ...straight, picture: pathPicture })], {
        soft: 0.12,
        liftM: 0.002,
        follow: 0.3,
      }),
      stream: on(
        { kind: 'water', ...DEFAULT_WATER, levelM: 0.02, clearM: 0.2 },
        'Stream',
        6,
        [makeCue('painted', { ...straight, picture: streamPicture })],
        {},
      ),
    },
  });
  report(1, ground.name);
  return [
    { id: HILL.specimen, body: terrain },
    { id: HILL.blend, body: ground },
  ];
}
