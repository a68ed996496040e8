// OpenEXR in, by three's loader.
import type { ColourSpace, Image } from '@pebble/core';
import { makeImage } from '@pebble/core';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { FormatError } from '../../codec';
import type { ImageShape } from '../kind';
import { exrHeader } from '../exr';
import { Reader, corrupt } from '../../reader';

/** Rows of `from` samples a pixel, the last row first, as rows of `to` from the top. */
function upright(data: ArrayLike<number>, { width, height }: ImageShape, from: number, to: number): Float32Array {
  const out = new Float32Array(width * height * to);
  for (let y = 0, o = 0; y < height; y++) {
    let i = (height - 1 - y) * width * from;
    for (let x = 0; x < width; x++, i += from) for (let c = 0; c < to; c++) out[o++] = data[i + c];
  }
  return out;
}

/** Runs a library's reader; whatever it throws at broken bytes becomes an error of ours. */
function guarded<T>(read: () => T): T {
  try {
    return read();
  } catch (error) {
    if (error instanceof FormatError) throw error;
    const text = String((error as Error).message ?? error).replace(/^THREE\.\w+:\s*/, '');
    if (error instanceof RangeError || /offset|bounds|end of|length|read error/i.test(text))
      throw new FormatError('truncated', 'its pixels are not all there. Copy or export it again');
    throw corrupt(`its pixels cannot be read (${text.slice(0, 80)})`, 0);
  }
}

/** Linear light, full or half floats; rows from the top. */
export function decodeExr(bytes: Uint8Array, facts: ImageShape, colourSpace: ColourSpace): Image {
  const { header, end } = exrHeader(new Reader(bytes));
  const clean = new Uint8Array(header.length + bytes.length - end);
  clean.set(header);
  clean.set(bytes.subarray(end), header.length);
  const made = guarded(() => new EXRLoader().setDataType(FloatType).parse(clean.buffer) as unknown as FloatPicture);
  return finish(made, facts, colourSpace);
}

interface FloatPicture {
  data: Float32Array;
  width: number;
  height: number;
}
function finish({ data, width, height }: FloatPicture, facts: ImageShape, colourSpace: ColourSpace): Image {
  if (width !== facts.width || height !== facts.height) throw corrupt('its header and its pixels disagree about its size', 0);
  const stored = data.length / (width * height);
  return makeImage({ width, height, channels: facts.channels, depth: 32, colourSpace, data: upright(data, facts, stored, facts.channels) });
}
