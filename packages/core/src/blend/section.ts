import { CpuProgram, lineDomain, optimise } from '../compile';
import type { Sources } from '../compile';
import type { BlendDocument } from '../document';
import type { Ground } from '../mesh';
import { FLAT_GROUND } from '../mesh';
import { lowerBlend } from './lower';
import type { Stack } from './stack';
import { stackShape } from './stack';
import type { ValueOptions } from './values';
import { stackValues } from './values';

/** A cut through a blend, seen from the side. Arrays run along the cut. */
export interface Section {
  /** Length of the cut in metres. */
  lengthM: number;
  /** Height of the blended surface in metres. */
  height: Float32Array;
  layers: {
    id: string;
    /** Height with which the layer contends, metres. */
    profile: Float32Array;
    /** Weight over what lies below it. */
    weight: Float32Array;
    /** Share of the visible surface: weight times what the layers above leave; sums to 1 over the layers. */
    share: Float32Array;
  }[];
  /** Index of the layer with the largest share, at every point. */
  winner: Uint8Array;
}

/** Points along a cut, as texture coordinates with what lies there. */
export function cutPoints(
  cut: BlendDocument['cut'],
  count: number,
  ground: Ground = FLAT_GROUND,
): { texcoord: Float32Array } & ReturnType<Ground['along']> {
  const texcoord = new Float32Array(count * 2);
  for (let i = 0; i < count; i++) {
    const t = (i + 0.5) / count;
    texcoord[i * 2] = cut.ax + (cut.bx - cut.ax) * t;
    texcoord[i * 2 + 1] = cut.ay + (cut.by - cut.ay) * t;
  }
  return { texcoord, ...ground.along(texcoord) };
}

/** Cuts through blends. Keeps its program while only values change, so that a drag costs the evaluation alone. */
export class SectionCutter {
  private shape = '';
  private program: CpuProgram | null = null;
  private points: { key: string; ground: Ground; at: ReturnType<typeof cutPoints> } | null = null;

  /**
   * Makes the program for a stack, if its shape is another than that of the last, a piece at a time: what a first cut takes
   * longer for.
   */
  *preparing(stack: Stack): Generator<void> {
    const shape = stackShape(stack);
    if (this.program && shape === this.shape) return;
    const { channels, profiles } = lowerBlend(stack);
    const outputs = Object.fromEntries(
      profiles.flatMap((p, i) => [
        [`h${i}`, p.height],
        [`w${i}`, p.weight],
      ]),
    );
    yield;
    const program = new CpuProgram(optimise({ ...outputs, height: channels.height }).outputs, 512, true);
    yield;
    yield* program.pieces();
    Object.assign(this, { program, shape });
  }
  private prepare(stack: Stack): CpuProgram {
    for (const piece of this.preparing(stack)) void piece;
    return this.program as CpuProgram;
  }

  cut(stack: Stack, cut: BlendDocument['cut'], sources: Sources, count = 512, ground: Ground = FLAT_GROUND, options: ValueOptions = {}): Section {
    const program = this.prepare(stack);
    // The line stays where it is while values are dragged: its points and what lies there are kept.
    const key = `${cut.ax},${cut.ay},${cut.bx},${cut.by},${count}`;
    if (this.points?.key !== key || this.points.ground !== ground) this.points = { key, ground, at: cutPoints(cut, count, ground) };
    const { texcoord, ...geometry } = this.points.at;
    const lengthM = Math.hypot(cut.bx - cut.ax, cut.by - cut.ay) * stack.extentM;
    const section: Section = {
      lengthM,
      height: new Float32Array(count),
      layers: stack.layers.map(({ id }) => ({
        id,
        profile: new Float32Array(count),
        weight: new Float32Array(count),
        share: new Float32Array(count),
      })),
      winner: new Uint8Array(count),
    };
    program.run({ domain: lineDomain(texcoord, 1 / count, geometry), sources, values: stackValues(stack, options) }, (tile, planes) => {
      section.height.set(planes('height')[0].subarray(0, tile.width), tile.x);
      section.layers.forEach((layer, i) => {
        layer.profile.set(planes(`h${i}`)[0].subarray(0, tile.width), tile.x);
        layer.weight.set(planes(`w${i}`)[0].subarray(0, tile.width), tile.x);
      });
    });
    shares(section);
    return section;
  }
}

function shares(section: Section): void {
  const n = section.height.length;
  for (let i = 0; i < n; i++) {
    let left = 1;
    let most = -1;
    for (let l = section.layers.length - 1; l >= 0; l--) {
      const { weight, share } = section.layers[l];
      share[i] = l === 0 ? left : weight[i] * left;
      left *= 1 - weight[i];
      if (share[i] > most) {
        most = share[i];
        section.winner[i] = l;
      }
    }
  }
}
