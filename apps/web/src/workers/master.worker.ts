/// <reference lib="webworker" />
// What masters are asked besides their picture on the stage: where cards lie, what each step looks like, what it costs, its curves.
import type { CuePicture, GBuffer, Histogram, LookFrom, LoweredMaster, PackedPicture, PackedSurface, StepLook } from '@pebble/core';
import {
  GraphError,
  MasterMaterials,
  Recent,
  codeOf,
  differenceOf,
  feeder,
  flatDomain,
  histogramOf,
  inFlow,
  layCards,
  linearToSrgb,
  liveProgram,
  makeImage,
  materialOf,
  materialPrice,
  operationPrices,
  pictureKey,
  plotOf,
  railsOf,
  reachShare,
  readValues,
  samplersOf,
  simplified,
  sourcesOfPacked,
  stepLooks,
  stepValue,
  switchPrices,
  throughBlocks,
  workedOut,
} from '@pebble/core';
import { LIGHT_UNITS, PendingProgram, stageFragment, stageVertex } from '@pebble/stage';
import { packIds, packMask, packSurface } from '@pebble/stage/textures';
import { stageImage, stageImages } from './stage-images';
import type { MasterAsk, MasterRequests, StepPicture } from './master-protocol';
import { THUMB } from './master-protocol';
import type { StageMaps } from './protocol';
import type { Handlers } from './serve';
import { serve } from './serve';

type Handler<K extends keyof MasterRequests> = Handlers<MasterRequests>[K];
/** Side of the textures that pictures of steps are made from. */
const SIDE = 128;

const materials = new MasterMaterials();
const surfaces = new Recent<string, Promise<PackedSurface>>(32);
const packed = (maps: StageMaps): Promise<PackedSurface> => surfaces.of(JSON.stringify(maps), async () => packSurface(await stageImages(maps), SIDE));

interface Known {
  lowered: LoweredMaster;
  at: LookFrom;
}
const grounds = new Recent<string, GBuffer>(4);

const pictures = new Recent<string, Promise<PackedPicture>>(32);
/** A mask of one channel, or the colours of IDs; black where its map is gone. */
const packedPicture = (picture: CuePicture, known: MasterAsk['pictures']): Promise<PackedPicture> => {
  const found = known[pictureKey(picture)];
  return pictures.of(`${pictureKey(picture)}${found?.stage.blob ?? ''}`, async () => {
    const image = found ? await stageImage(found.role, found.stage) : makeImage({ width: 1, height: 1, channels: 3, data: new Uint8Array(3) });
    return picture.kind === 'id' ? packIds(image, SIDE) : packMask(image, picture.kind === 'map' ? picture.channel : 0, SIDE);
  });
};

async function known({ document, context, maps, pictures: stored, ground }: MasterAsk): Promise<Known> {
  const lowered = materials.lowering(document, context, true);
  const { lists, readers } = lowered;
  const [surfaces, masks, ids] = await Promise.all([
    Promise.all(lists.slots.map((id) => packed(maps[id] ?? {}))),
    Promise.all(lists.masks.map((p) => packedPicture(p, stored))),
    Promise.all(lists.ids.map((p) => packedPicture(p, stored))),
  ]);
  const domain = flatDomain(THUMB, THUMB, document.extentM, grounds.get(ground));
  return { lowered, at: { values: readValues(readers, document, context), sources: sourcesOfPacked({ surfaces, masks, ids }), domain } };
}

/** Numbers as they are seen: one as grey, three as a colour in linear light, a normal around grey. */
function picture({ planes, lo, hi, outside }: StepLook, colour: boolean): StepPicture {
  const rgba = new Uint8ClampedArray(THUMB * THUMB * 4);
  const signed = planes.length >= 2 && lo < -0.01;
  const shown = (v: number) => 255 * (signed ? v * 0.5 + 0.5 : colour ? linearToSrgb(Math.min(1, Math.max(0, v))) : v);
  for (let i = 0; i < THUMB * THUMB; i++) {
    for (let c = 0; c < 3; c++) rgba[i * 4 + c] = planes.length === 1 ? shown(planes[0][i]) : c < planes.length ? shown(planes[c][i]) : 0;
    rgba[i * 4 + 3] = 255;
  }
  return { rgba, lo, hi, outside };
}

const looks: Handler<'looks'> = async (ask) => {
  const { document, context, ports } = ask;
  const { lowered, at } = await known(ask);
  const found = stepLooks(lowered, at, ports);
  const pictures = Object.fromEntries([...found].map(([id, look]) => [id, picture(look, look.planes.length === 3)]));
  const feeds = (id: string) => Object.values(document.operations[id]?.inputs ?? {}).flatMap((s) => feeder(document, s) ?? []);
  const mistakes: Record<string, { message: string; port?: string; at?: { from: number; to: number } }> = {};
  for (const [id, given] of lowered.steps)
    // What only hangs on a mistake elsewhere is not one of its own.
    if (given instanceof GraphError && given.operation === id) mistakes[id] = { message: given.message, port: given.port, at: given.at };
  if (lowered.error) mistakes[lowered.error.operation] ??= { message: lowered.error.message, port: lowered.error.port };
  const content: Record<string, Record<string, Histogram>> = {};
  for (const [id, op] of Object.entries(document.operations))
    for (const [port, source] of Object.entries(op.inputs)) {
      const from = feeder(document, source);
      const look = from === null ? undefined : found.get(from);
      if (look && look.planes.length === 1) (content[id] ??= {})[port] = histogramOf(look.planes[0], 32);
    }
  const material = materialOf('', lowered, document, context);
  return {
    result: {
      pictures,
      prices: operationPrices(lowered, at.values, feeds),
      price: materialPrice(material),
      samplers: samplersOf(lowered.far),
      mistakes,
      notes: lowered.notes.map(({ operation, message }) => ({ operation, message })),
      content,
    },
    transfer: Object.values(pictures).map((p) => p.rgba.buffer),
  };
};

const plot: Handler<'plot'> = async ({ plot: asked, ...ask }) => {
  const { lowered, at } = await known(ask);
  return { result: plotOf(lowered, asked, at), transfer: [] };
};

const reach: Handler<'reach'> = async ({ operation, port, ...ask }) => {
  const { lowered, at } = await known(ask);
  const value = stepValue(lowered, operation, port);
  return { result: value ? reachShare(lowered.far, value, at) : 0, transfer: [] };
};

/** A plane of `wide` numbers a place, of `THUMB`² places, at `side`²: between places along straight lines. */
function stretched(plane: Float32Array, side: number): Float32Array {
  const wide = plane.length / (THUMB * THUMB);
  const out = new Float32Array(side * side * wide);
  const along = (i: number) => {
    const at = Math.min(THUMB - 1, Math.max(0, ((i + 0.5) / side) * THUMB - 0.5));
    const from = Math.min(THUMB - 2, Math.floor(at));
    return { from, share: at - from };
  };
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const [h, v] = [along(x), along(y)];
      for (let c = 0; c < wide; c++) {
        const of = (dx: number, dy: number) => plane[((v.from + dy) * THUMB + h.from + dx) * wide + c];
        const [top, below] = [0, 1].map((dy) => of(0, dy) + (of(1, dy) - of(0, dy)) * h.share);
        out[(y * side + x) * wide + c] = top + (below - top) * v.share;
      }
    }
  return out;
}

const blocks: Handler<'blocks'> = async ({ operation, port, side, ...ask }) => {
  const { lowered, at } = await known(ask);
  const value = stepValue(lowered, operation, port);
  if (!value) return { result: null, transfer: [] };
  const mesh = Object.fromEntries(Object.entries(grounds.get(ask.ground) ?? {}).map(([name, plane]) => [name, stretched(plane, side)]));
  const result = throughBlocks(value, { ...at, domain: flatDomain(side, side, ask.document.extentM, mesh) });
  return { result, transfer: [result.rgba.buffer] };
};

const switches: Handler<'switches'> = async ({ document, context }) => ({
  result: Object.fromEntries(Object.keys(document.switches).map((id) => [id, switchPrices(document, context, id)])),
  transfer: [],
});

const simplify: Handler<'simplify'> = async (ask) => {
  const { document, context } = ask;
  const found = simplified(document, context);
  const [now, then] = [await known(ask), await known({ ...ask, document: found.after })];
  const of = ({ lowered }: Known, d: MasterDocument) => materialOf('', lowered, d, context);
  const proof = differenceOf(document, [of(now, document), of(then, found.after)], [now.at.sources, then.at.sources], now.at.domain);
  return { result: { ...found, ...proof }, transfer: [] };
};

const code: Handler<'code'> = async ({ document, context, operation }) => ({
  result: codeOf(document, context, materials.lowering(document, context, true), operation),
  transfer: [],
});

const layout: Handler<'layout'> = async ({ graph, before }) => {
  const places = layCards(graph, before);
  return { result: { places, rails: railsOf(graph, places) }, transfer: [] };
};

const ground: Handler<'ground'> = async ({ key, planes }) => {
  grounds.set(key, planes);
  return { result: null, transfer: [] };
};

const refused: Handler<'refused'> = async ({ document, context }) => {
  const lowered = materials.lowering(document, context, true);
  const order = inFlow(document);
  const canvas = new OffscreenCanvas(4, 4);
  const gl = canvas.getContext('webgl2');
  if (!gl) return { result: null, transfer: [] };
  /** Whether what the first so many work out is refused. Each adds to those before it: one that is refused stays so. */
  const fails = async (count: number): Promise<boolean> => {
    const material = materialOf('', lowered, document, context, workedOut(lowered, order.slice(0, count)));
    try {
      const { glsl } = liveProgram(material, false, LIGHT_UNITS);
      gl.deleteProgram(await new PendingProgram(gl, stageVertex(glsl), stageFragment(glsl)).finish());
      return false;
    } catch {
      return true;
    }
  };
  let [good, bad] = [0, order.length];
  if (!(await fails(bad))) return { result: null, transfer: [] };
  while (bad - good > 1) {
    const middle = (good + bad) >> 1;
    if (await fails(middle)) bad = middle;
    else good = middle;
  }
  return { result: order[bad - 1] ?? null, transfer: [] };
};

serve<MasterRequests>({ blocks, code, simplify, ground, refused, layout, looks, plot, reach, switches });
