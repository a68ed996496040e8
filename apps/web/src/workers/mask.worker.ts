/// <reference lib="webworker" />
// The brush on a mask: dabs, what the stage shows of them, and the picture that the document names.
import type { Image } from '@pebble/core';
import { MASK_SIDE, MAX_MASK_SIDE, MaskPainter, convertDepth, extractChannel, fitWithin, makeImage, resize } from '@pebble/core';
import { webCodec } from '@pebble/formats/web';
import { packMask } from '@pebble/stage/textures';
import { bytesOf, keepPieces } from './blob';
import type { MaskRequests } from './mask-protocol';
import type { Handlers } from './serve';
import { serve } from './serve';

let open: MaskPainter | null = null;
const taken = (): MaskPainter => {
  if (!open) throw new Error('No mask was taken up to be painted');
  return open;
};
const picture = (): Image => {
  const { width, height } = taken();
  return makeImage({ width, height, channels: 1, data: taken().bytes() });
};
const shown = (side: number) => {
  const { width, height } = taken();
  const packed = { ...packMask(picture(), 0, side), width, height };
  return { packed, transfer: packed.levels.map((l) => l.data.buffer as ArrayBuffer) };
};
/** Sends the whole picture as it is now; gives its hash. */
async function keep(): Promise<string> {
  const png = Uint8Array.from(await webCodec.encode(picture()));
  // In one piece: a picture is one file.
  const [hash] = await keepPieces(png, Math.max(1024, png.length));
  return hash;
}
async function kept(side: number) {
  const { packed, transfer } = shown(side);
  return { result: { packed, hash: await keep() }, transfer };
}

/** A grey picture of bytes, no larger than what is painted on. */
async function read(hash: string): Promise<Image> {
  const grey = convertDepth(extractChannel(await webCodec.decode(await bytesOf(hash), 'data'), 0), 8);
  const { width, height } = fitWithin(grey.width, grey.height, MAX_MASK_SIDE);
  return width < grey.width ? resize(grey, width, height) : grey;
}

const HANDLERS: Handlers<MaskRequests> = {
  open: async ({ picture: hash }) => {
    const image = hash === null ? makeImage({ width: MASK_SIDE, height: MASK_SIDE, channels: 1 }) : await read(hash);
    open = new MaskPainter(image.width, image.height, image.data);
    return { result: { width: image.width, height: image.height, hash: hash ?? (await keep()) }, transfer: [] };
  },
  begin: async ({ brush, aim, extentM }) => {
    taken().begin(brush, aim, extentM);
    return { result: null, transfer: [] };
  },
  stroke: async ({ points, side }) => {
    for (const point of points) taken().to(point);
    const { packed, transfer } = shown(side);
    return { result: { packed }, transfer };
  },
  end: async ({ side }) => {
    taken().end();
    return kept(side);
  },
  lost: async ({ side }) => {
    taken().cancel();
    const { packed, transfer } = shown(side);
    return { result: { packed }, transfer };
  },
  whole: async ({ change, side }) => {
    if (change.what === 'fill') taken().fill(change.value);
    else taken().invert();
    return kept(side);
  },
};

serve(HANDLERS);
