import type { ColourSpace, Image } from '../image';
import { fullScale, makeImage, makeSamples, quantise } from '../image';

/** An image between two steps: interleaved values 0–1 as they are stored, not decoded. */
export interface Field {
  readonly width: number;
  readonly height: number;
  readonly channels: Image['channels'];
  readonly colourSpace: ColourSpace;
  readonly values: Float32Array;
}

export function fieldOf({ width, height, channels, colourSpace, depth, data }: Image): Field {
  const scale = 1 / fullScale(depth);
  const values = new Float32Array(data.length);
  for (let i = 0; i < values.length; i++) values[i] = data[i] * scale;
  return { width, height, channels, colourSpace, values };
}

export function imageOf(field: Field, depth: 8 | 16): Image {
  const data = makeSamples(depth, field.values.length);
  for (let i = 0; i < data.length; i++) data[i] = quantise(field.values[i], depth);
  return makeImage({ ...field, depth, data });
}

/** Index of the alpha channel; −1 when there is none. */
export const alphaOf = ({ channels }: Field): number => (channels === 2 || channels === 4 ? channels - 1 : -1);

/** Every value but alpha through one function. */
export function eachValue(field: Field, change: (value: number) => number): Field {
  const alpha = alphaOf(field);
  const { channels, values } = field;
  const out = values.slice();
  for (let c = 0; c < channels; c++) if (c !== alpha) for (let i = c; i < out.length; i += channels) out[i] = change(values[i]);
  return { ...field, values: out };
}

/** One number for every texel, from the place of its first channel. */
export function eachTexel({ width, height, channels }: Field, value: (at: number) => number): Float32Array {
  const out = new Float32Array(width * height);
  for (let i = 0, at = 0; i < out.length; i++, at += channels) out[i] = value(at);
  return out;
}

/** One channel by itself. */
export const plane = (field: Field, channel = 0): Float32Array =>
  field.channels === 1 ? field.values : eachTexel(field, (at) => field.values[at + channel]);

/** A grey field of data with the shape of another. */
export const grey = ({ width, height }: Field, values: Float32Array): Field => ({ width, height, channels: 1, colourSpace: 'data', values });

/**
 * A grey field with `pad` more texels on every side, reflected through the points of its border: values and slopes go on
 * as they are there. `pad` is less than either side.
 */
export function carriedOn({ width, height, values, ...rest }: Field, pad: number): Field {
  const [w, h] = [width + 2 * pad, height + 2 * pad];
  const out = new Float32Array(w * h);
  for (let y = 0; y < height; y++) {
    const row = values.subarray(y * width, (y + 1) * width);
    const to = out.subarray((y + pad) * w, (y + pad + 1) * w);
    to.set(row, pad);
    for (let k = 1; k <= pad; k++) {
      to[pad - k] = 2 * row[0] - row[k];
      to[pad + width - 1 + k] = 2 * row[width - 1] - row[width - 1 - k];
    }
  }
  const row = (y: number) => (y + pad) * w;
  for (let k = 1; k <= pad; k++)
    for (let x = 0; x < w; x++) {
      out[row(-k) + x] = 2 * out[row(0) + x] - out[row(k) + x];
      out[row(height - 1 + k) + x] = 2 * out[row(height - 1) + x] - out[row(height - 1 - k) + x];
    }
  return { ...rest, width: w, height: h, values: out };
}

/** The middle of a field, without `pad` texels on every side. */
export function without({ width, height, channels, values, ...rest }: Field, pad: number): Field {
  const [w, h] = [width - 2 * pad, height - 2 * pad];
  const out = new Float32Array(w * h * channels);
  for (let y = 0; y < h; y++) {
    const from = ((y + pad) * width + pad) * channels;
    out.set(values.subarray(from, from + w * channels), y * w * channels);
  }
  return { ...rest, width: w, height: h, channels, values: out };
}
