/// <reference lib="webworker" />
// The brush on a mask, over the extent or on a mesh: dabs, what the stage shows of them, and the picture that the document names.
import type { Image, MaskDepth, PlaceSeen } from '@pebble/core';
import {
  Brushing,
  Bvh,
  MASK_SIDE,
  MAX_MASK_SIDE,
  MaskPainter,
  MeshMaskPainter,
  convertDepth,
  extractChannel,
  fitWithin,
  groundSeen,
  makeImage,
  pieceBytes,
  placeSeen,
  resize,
} from '@pebble/core';
import { webCodec } from '@pebble/formats/web';
import { LiveMask, packMask } from '@pebble/stage/textures';
import { bytesOf, keepPieces } from './blob';
import { fieldOf } from './fields';
import type { MaskGround, MaskRequests, Shown, WholeMask } from './mask-protocol';
import type { Handlers } from './serve';
import { serve } from './serve';

/** A mask that was taken up, on what it lies on. */
interface Open {
  on:
    | { flat: MaskPainter; extentM: number }
    | { mesh: MeshMaskPainter; of: Exclude<MaskGround, { extentM: number }>['mesh']; tree: Bvh; seen: PlaceSeen };
  live: LiveMask;
  /** Tells what it lies on. */
  form: number;
}
let open: Open | null = null;
let opens = 0;
let stroke: Brushing | null = null;

const taken = (): Open => {
  if (!open) throw new Error('No mask was taken up to be painted');
  return open;
};
const sheetOf = ({ on }: Open) => ('flat' in on ? on.flat.sheet : on.mesh.sheet);
const picture = (): Image => {
  const { width, height, depth, now } = sheetOf(taken());
  return makeImage({ width, height, channels: 1, depth, data: now.slice() });
};
const sized = () => {
  const { width, height } = sheetOf(taken());
  return { ...taken().live.packed, width, height };
};
/** Sends a picture; gives its hash. */
async function keep(image = picture()): Promise<string> {
  const png = Uint8Array.from(await webCodec.encode(image));
  // In one piece: a picture is one file.
  const [hash] = await keepPieces(png, Math.max(1024, png.length));
  return hash;
}
async function kept() {
  update();
  const hash = await keep();
  // All of it is kept now.
  sheetOf(taken()).takeUnkept();
  return { result: { packed: sized(), hash }, transfer: [] };
}
/** Brings the texture up to what is painted. */
function update(): Shown {
  const at = taken();
  const rects = sheetOf(at).takeShown();
  if (at.live.follows) return { regions: at.live.update(rects), side: at.live.packed.size };
  showAt(at.live.packed.size);
  return { packed: sized() };
}
/** Makes the texture anew, at a side. */
function showAt(side: number): void {
  const at = taken();
  at.live = new LiveMask(packMask(picture(), 0, side), sheetOf(at));
}

/** A grey picture no larger than what is painted on, at a side and depth if that is asked for. */
async function read(hash: string | null, side: number | undefined, depth: MaskDepth | undefined): Promise<Image> {
  if (hash === null) return makeImage({ width: side ?? MASK_SIDE, height: side ?? MASK_SIDE, channels: 1, depth: depth ?? 8 });
  const grey = extractChannel(await webCodec.decode(await bytesOf(hash), 'data'), 0);
  const fit = side ? { width: side, height: side } : fitWithin(grey.width, grey.height, MAX_MASK_SIDE);
  return convertDepth(resize(grey, fit.width, fit.height), depth ?? (grey.depth === 8 ? 8 : 16));
}

function change(what: WholeMask): void {
  const { on } = taken();
  const sheet = sheetOf(taken());
  if (what.what === 'fill') sheet.fill(what.value);
  else if (what.what === 'invert') sheet.invert();
  else if ('flat' in on) sheet.all((_, i) => what.values[i]);
  else on.mesh.putValues(what.values);
}
const nothing = { result: null, transfer: [] };

const HANDLERS: Handlers<MaskRequests> = {
  open: async ({ picture: hash, ground, form, side, depth, shown }) => {
    stroke = null;
    const mine = ++opens;
    const image = await read(hash, side, depth);
    const { width, height, data } = image;
    const bits = image.depth === 8 ? 8 : 16;
    const make = async (): Promise<Open['on']> => {
      if ('extentM' in ground) return { flat: new MaskPainter(width, height, data, bits), extentM: ground.extentM };
      const mesh = new MeshMaskPainter(ground.mesh, width, height, data, bits);
      mesh.prepare();
      const tree = new Bvh(ground.mesh);
      const { terrain } = ground;
      // A terrain is drawn finer than its mesh: what is pointed at is what is drawn.
      const seen: PlaceSeen = terrain
        ? groundSeen(await fieldOf(terrain), terrain.terrain.footM, tree)
        : (sight, x, y) => placeSeen(tree, sight, x, y);
      return { mesh, of: ground.mesh, tree, seen };
    };
    const had = open?.form === form ? open.on : null;
    const sheet = had && ('flat' in had ? had.flat.sheet : had.mesh.sheet);
    const fits = sheet?.width === width && sheet.height === height && sheet.depth === bits;
    const on = had && fits ? had : await make();
    // Whoever was asked for last is painted on, however long others took.
    if (mine !== opens) throw new Error('Another mask was taken up meanwhile');
    if (fits) sheet.replace(data);
    open = { on, form, live: new LiveMask(packMask(image, 0, shown), 'flat' in on ? on.flat.sheet : on.mesh.sheet) };
    const fresh = hash === null || side !== undefined || depth !== undefined;
    return { result: { width, height, depth: bits, packed: sized(), hash: fresh ? await keep() : hash }, transfer: [] };
  },
  begin: async ({ brush, aim, limit, shown }) => {
    const { on, live } = taken();
    if (live.packed.size !== shown) showAt(shown);
    if ('flat' in on) on.flat.begin(brush, aim, on.extentM, limit);
    else {
      on.mesh.begin(brush, aim, limit);
      stroke = new Brushing(on.mesh, on.of, on.tree, brush, on.seen);
    }
    return nothing;
  },
  stroke: async (args) => {
    const { on } = taken();
    let reached: number | null = null;
    if ('sight' in args) for (const point of args.points) reached = stroke?.to(point, args.sight) ?? reached;
    else if ('flat' in on) for (const point of args.points) reached = on.flat.to(point);
    return { result: { shown: update(), reached }, transfer: [] };
  },
  end: async ({ onto }) => {
    const sheet = sheetOf(taken());
    if (onto === null) sheet.end();
    else {
      const { width, height, depth } = sheet;
      const other = convertDepth(resize(extractChannel(await webCodec.decode(await bytesOf(onto), 'data'), 0), width, height), depth);
      sheet.endOnto(other.data);
    }
    return kept();
  },
  lost: async () => {
    sheetOf(taken()).cancel();
    update();
    return nothing;
  },
  whole: async ({ change: what }) => {
    change(what);
    return kept();
  },
  keep: async () => {
    const sheet = sheetOf(taken());
    const pieces = sheet.takeUnkept();
    if (!pieces.length) return { result: {}, transfer: [] };
    // Squares of one size: those at the rims are filled up.
    const each = pieceBytes(sheet.depth);
    const bytes = new Uint8Array(pieces.length * each);
    pieces.forEach(({ bytes: own }, i) => bytes.set(own, i * each));
    const hashes = await keepPieces(bytes, each);
    return { result: Object.fromEntries(pieces.map(({ piece }, i) => [piece, hashes[i]])), transfer: [] };
  },
  restore: async ({ pieces }) => {
    const sheet = sheetOf(taken());
    for (const [piece, hash] of Object.entries(pieces)) sheet.takePiece(Number(piece), await bytesOf(hash));
    return kept();
  },
  picture: async ({ values, ground, side }) => {
    if (typeof values === 'number') {
      const data = new Uint8Array(side * side).fill(Math.round(values * 255));
      return { result: { hash: await keep(makeImage({ width: side, height: side, channels: 1, data })) }, transfer: [] };
    }
    const empty = new Uint8Array(side * side);
    const painter = 'extentM' in ground ? new MaskPainter(side, side, empty) : new MeshMaskPainter(ground.mesh, side, side, empty);
    if (painter instanceof MaskPainter) painter.sheet.all((_, i) => values[i]);
    else painter.putValues(values);
    return {
      result: { hash: await keep(makeImage({ width: side, height: side, channels: 1, data: painter.sheet.now as Uint8Array<ArrayBuffer> })) },
      transfer: [],
    };
  },
  away: async ({ x, y, sight }) => {
    const on = open?.on;
    const found = on && 'seen' in on ? on.seen(sight, x, y) : null;
    return { result: found?.away ?? null, transfer: [] };
  },
};

serve(HANDLERS);
