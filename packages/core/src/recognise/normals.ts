import type { Planes } from './planes';
import { mean } from './planes';

/** What speaks for and against directions in an image. */
export interface NormalEvidence {
  /** Mean of |length − 1| of the vectors; for two channels how far they pass the unit disc. */
  offUnit: number;
  /** Mean vector. */
  mean: readonly [number, number, number];
  /** Which way green points by integrability, and how sure that is, 0–1. */
  direction: 'y+' | 'y-';
  confidence: number;
}

/** Below these confidences nobody can tell; lossy files leave less to go by. Source: 2-maths. */
export const DIRECTION_SURE = { exact: 0.1, lossy: 0.15 };

/**
 * Measures vectors of parts, `2c − 1`; with `twoChannel` the third component is rebuilt. Direction: slopes
 * `p = −x/z, q = −y/z` of a surface satisfy ∂p/∂y = ∂q/∂x, and rows count downward, so a Y+ map has
 * `−∂p/∂row = ∂q/∂col` and a Y− map `∂p/∂row = ∂q/∂col`; confidence is 1 − min/max of the two residual sums.
 */
export function normalEvidence(parts: readonly Planes[], twoChannel: boolean): NormalEvidence {
  let [plus, minus] = [0, 0];
  const off: number[] = [];
  const sums: [number, number, number] = [0, 0, 0];
  for (const { width, height, channels } of parts) {
    const n = width * height;
    const [p, q] = [new Float32Array(n), new Float32Array(n)];
    const [red, green, blue] = channels;
    let far = 0;
    let sx = 0;
    let sy = 0;
    let sz = 0;
    for (let i = 0; i < n; i++) {
      const x = red[i] * 2 - 1;
      const y = green[i] * 2 - 1;
      const flat = x * x + y * y;
      const z = twoChannel ? Math.sqrt(Math.max(0, 1 - flat)) : blue[i] * 2 - 1;
      far += twoChannel ? Math.max(0, Math.sqrt(flat) - 1) : Math.abs(Math.sqrt(flat + z * z) - 1);
      sx += x;
      sy += y;
      sz += z;
      p[i] = -x / Math.max(0.1, z);
      q[i] = -y / Math.max(0.1, z);
    }
    off.push(far / n);
    sums[0] += sx / n / parts.length;
    sums[1] += sy / n / parts.length;
    sums[2] += sz / n / parts.length;
    for (let y = 0; y < height - 1; y++)
      for (let x = 0; x < width - 1; x++) {
        const i = y * width + x;
        const across = (p[i + width] + p[i + width + 1] - p[i] - p[i + 1]) / 2;
        const along = (q[i + 1] + q[i + width + 1] - q[i] - q[i + width]) / 2;
        plus += (across + along) ** 2;
        minus += (across - along) ** 2;
      }
  }
  const most = Math.max(plus, minus);
  return { offUnit: mean(off), mean: sums, direction: plus <= minus ? 'y+' : 'y-', confidence: most > 1e-9 ? 1 - Math.min(plus, minus) / most : 0 };
}
