import type { Planes } from './planes';
import { mean } from './planes';

/** What speaks for and against directions in an image. */
export interface NormalEvidence {
  /** Mean of |length − 1| of the vectors; for two channels how far they pass the unit disc. */
  offUnit: number;
  /** Mean vector. */
  mean: readonly [number, number, number];
  /** Share of vectors that point away from the surface, as none does whose axes are tangents. */
  below: number;
  /** Which way green points by integrability, and how sure that is, 0–1. */
  direction: 'y+' | 'y-';
  confidence: number;
  /** Slopes belong to a surface rather with red and green exchanged: a picture that was turned, or channels that were. */
  exchanged: boolean;
}

/**
 * Below these confidences nobody can tell; lossy files leave less to go by. Fitted on strands, weaves, facets and surfaces
 * whose edges are no part of their slopes, where a lower limit is sure and wrong.
 */
export const DIRECTION_SURE = { exact: 0.3, lossy: 0.3 };

/** Residuals of a surface's law, as sums over texels. */
interface Residuals {
  plus: number;
  minus: number;
  /** The same two with red and green exchanged. */
  across: number;
  along: number;
  count: number;
}
const nothing = (): Residuals => ({ plus: 0, minus: 0, across: 0, along: 0, count: 0 });
const sure = ({ plus, minus }: Residuals): number => (Math.max(plus, minus) > 1e-9 ? 1 - Math.min(plus, minus) / Math.max(plus, minus) : 0);
const direction = ({ plus, minus }: Residuals): 'y+' | 'y-' => (plus <= minus ? 'y+' : 'y-');

/** Blue below this is a direction that points away, not rounding. */
const BELOW = -0.15;

/** Changes of slope this much larger than those three texels away on both sides are edges that belong to no slope. */
const EDGE = 9;
/** Squares of changes of slope below which rounding to 8 bits is most of them. */
const FLOOR = 6e-5;
/** Share of texels that must change smoothly for a direction to be told. */
const SMOOTH = 0.01;

/**
 * Measures vectors of parts, `2c − 1`; with `twoChannel` the third component is rebuilt. Direction: slopes
 * `p = −x/z, q = −y/z` of a surface satisfy ∂p/∂y = ∂q/∂x, and rows count downward, so a Y+ map has
 * `−∂p/∂row = ∂q/∂col` and a Y− map `∂p/∂row = ∂q/∂col`; confidence is 1 − min/max of the two residual sums: the lesser
 * of what all texels say and what those say that lie on no edge; 0 where they differ or hardly any is left. An edge (a thread
 * over another) is a step in height that slopes do not hold, and says nothing, however sharply. Source: 2-maths, made stricter.
 */
export function normalEvidence(parts: readonly Planes[], twoChannel: boolean): NormalEvidence {
  const off: number[] = [];
  const sums: [number, number, number] = [0, 0, 0];
  const [all, smooth] = [nothing(), nothing()];
  let texels = 0;
  let below = 0;
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
      if (z < BELOW) below += 1 / n / parts.length;
      p[i] = -x / Math.max(0.1, z);
      q[i] = -y / Math.max(0.1, z);
    }
    off.push(far / n);
    sums[0] += sx / n / parts.length;
    sums[1] += sy / n / parts.length;
    sums[2] += sz / n / parts.length;
    texels += Math.max(0, width - 7) * Math.max(0, height - 7);
    residuals(p, q, width, height, all, smooth);
  }
  const told = direction(all) === direction(smooth) && smooth.count >= SMOOTH * texels;
  return {
    offUnit: mean(off),
    mean: sums,
    below,
    direction: direction(all),
    confidence: told ? Math.min(sure(all), sure(smooth)) : 0,
    exchanged: smooth.count >= SMOOTH * texels && Math.min(smooth.plus, smooth.minus) > Math.min(smooth.across, smooth.along),
  };
}

function residuals(p: Float32Array, q: Float32Array, w: number, h: number, all: Residuals, smooth: Residuals): void {
  const size = new Float32Array(w * h);
  const turns = new Float32Array(w * h * 4);
  for (let y = 0; y < h - 1; y++)
    for (let x = 0; x < w - 1; x++) {
      const i = y * w + x;
      const [pDown, qAlong] = [(p[i + w] + p[i + w + 1] - p[i] - p[i + 1]) / 2, (q[i + 1] + q[i + w + 1] - q[i] - q[i + w]) / 2];
      const [qDown, pAlong] = [(q[i + w] + q[i + w + 1] - q[i] - q[i + 1]) / 2, (p[i + 1] + p[i + w + 1] - p[i] - p[i + w]) / 2];
      turns[i * 4] = pDown;
      turns[i * 4 + 1] = qAlong;
      turns[i * 4 + 2] = qDown;
      turns[i * 4 + 3] = pAlong;
      size[i] = pDown * pDown + qAlong * qAlong + qDown * qDown + pAlong * pAlong;
      add(all, pDown, qAlong, qDown, pAlong);
    }
  for (let y = 3; y < h - 4; y++)
    for (let x = 3; x < w - 4; x++) {
      const i = y * w + x;
      const around = Math.min(Math.max(size[i - 3], size[i + 3]), Math.max(size[i - 3 * w], size[i + 3 * w]));
      const [pDown, qAlong] = [turns[i * 4], turns[i * 4 + 1]];
      if (size[i] <= EDGE * around + 1e-4 && pDown * pDown + qAlong * qAlong >= FLOOR) add(smooth, pDown, qAlong, turns[i * 4 + 2], turns[i * 4 + 3]);
    }
}

function add(to: Residuals, pDown: number, qAlong: number, qDown: number, pAlong: number): void {
  to.plus += (pDown + qAlong) ** 2;
  to.minus += (pDown - qAlong) ** 2;
  to.across += (qDown + pAlong) ** 2;
  to.along += (qDown - pAlong) ** 2;
  to.count++;
}
