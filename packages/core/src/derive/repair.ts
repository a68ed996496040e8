import type { Field } from './field';
import { alphaOf } from './field';

/**
 * Makes a map tile: near the border it passes into itself moved by half its side, whose middle was the middle. The
 * contrast that averaging costs is given back around the mean. What lies farther from the border than `share` of the side
 * stays bit for bit. Source of the contrast term: Heitz & Neyret 2018.
 * @param share 0.01–0.5 of the side
 */
export function repairBorder(field: Field, share: number): Field {
  return along(along(field, share, true), share, false);
}

function along(field: Field, share: number, across: boolean): Field {
  const { width, height, channels, values } = field;
  const side = across ? width : height;
  const reach = Math.max(1, Math.round(side * Math.min(0.5, share)));
  const half = side >> 1;
  const out = values.slice();
  const means = Array.from({ length: channels }, (_, c) => {
    let sum = 0;
    for (let i = c; i < values.length; i += channels) sum += values[i];
    return sum / (width * height);
  });
  for (let k = 0; k < side; k++) {
    const edge = Math.min(k + 0.5, side - k - 0.5) / reach;
    if (edge >= 1) continue;
    const own = edge * edge * (3 - 2 * edge);
    const gain = 1 / Math.hypot(own, 1 - own);
    const other = (k + half) % side;
    for (let line = 0; line < (across ? height : width); line++) {
      const [here, there] = across ? [line * width + k, line * width + other] : [k * width + line, other * width + line];
      for (let c = 0; c < channels; c++) {
        const m = means[c];
        const v = m + (own * (values[here * channels + c] - m) + (1 - own) * (values[there * channels + c] - m)) * gain;
        out[here * channels + c] = Math.min(1, Math.max(0, v));
      }
    }
  }
  return { ...field, values: out };
}

/** Directions to unit length; a third channel that is empty is worked out of the two. Alpha stays. */
export function unitLength(field: Field): Field {
  const { channels, values } = field;
  if (channels < 3) return field;
  const out = values.slice();
  for (let i = 0; i < out.length; i += channels) {
    const [x, y, z] = [0, 1, 2].map((c) => values[i + c] * 2 - 1);
    const flat = Math.hypot(x, y);
    // Without a third component there is nothing to take a length from.
    const up = z > 0 ? z : Math.sqrt(Math.max(0, 1 - flat * flat));
    const inverse = 1 / Math.max(1e-6, Math.hypot(flat, up));
    [x, y, up].forEach((v, c) => (out[i + c] = v * inverse * 0.5 + 0.5));
  }
  return { ...field, values: out };
}

interface Level {
  width: number;
  height: number;
  /** Colours times their weight, then the weight. */
  sums: Float32Array;
}

/** Half the size: sums of four, or fewer at an odd end. */
function halved({ width, height, sums }: Level, stride: number): Level {
  const [w, h] = [Math.ceil(width / 2), Math.ceil(height / 2)];
  const out = new Float32Array(w * h * stride);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const to = ((y >> 1) * w + (x >> 1)) * stride;
      const from = (y * width + x) * stride;
      for (let c = 0; c < stride; c++) out[to + c] += sums[from + c];
    }
  return { width: w, height: h, sums: out };
}

/** Colour spread outward under zero alpha, the nearest first, by halving until every place has some. Alpha stays. */
export function bleedColour(field: Field): Field {
  const alpha = alphaOf(field);
  if (alpha < 0) return field;
  const { width, height, channels, values } = field;
  const stride = channels;
  const sums = new Float32Array(width * height * stride);
  for (let i = 0; i < values.length; i += channels) {
    if (values[i + alpha] <= 0) continue;
    for (let c = 0; c < alpha; c++) sums[i + c] = values[i + c];
    sums[i + alpha] = 1;
  }
  const levels: Level[] = [{ width, height, sums }];
  for (let l = levels[0]; l.width > 1 || l.height > 1; l = levels[levels.length - 1]) levels.push(halved(l, stride));
  if (levels[levels.length - 1].sums[alpha] === 0) return field;
  const out = values.slice();
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i += channels) {
      if (values[i + alpha] > 0) continue;
      const k = levels.findIndex((l, n) => l.sums[((y >> n) * l.width + (x >> n)) * stride + alpha] > 0);
      const at = ((y >> k) * levels[k].width + (x >> k)) * stride;
      for (let c = 0; c < alpha; c++) out[i + c] = levels[k].sums[at + c] / levels[k].sums[at + alpha];
    }
  return { ...field, values: out };
}
