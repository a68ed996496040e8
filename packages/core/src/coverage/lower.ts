import type { Builder, DagNode, Values } from '../compile';
import { UNIT } from '../compile';
import type { Cue } from '../document';
import { inOrder } from '../document';

const at = (prefix: string, index: number) => `${prefix}c${index}_`;

/** Cells of a periodic noise of about `sizeM` over the extent: at least one, always a whole number. */
export const noiseCells = (extentM: number, sizeM: number): number => Math.max(1, Math.round(extentM / Math.max(sizeM, 1e-4)));

/** One cue as a number in [0, 1]. */
function lowerCue(b: Builder, cue: Cue, p: string): DagNode {
  let c: DagNode;
  if (cue.kind === 'constant') c = b.value(`${p}value`, 'float', UNIT);
  else {
    let x: DagNode;
    if (cue.kind === 'vertexColour') x = b.extract(b.node('geomcolor'), 'rgba'.indexOf(cue.channel));
    else {
      const cells = b.value(`${p}cells`);
      x = b.node('fractal2d', [b.multiply(b.texcoord(), cells), cells, b.value(`${p}seed`), b.value(`${p}octaves`)]);
    }
    c = b.node('ramp', [x, b.value(`${p}centre`), b.value(`${p}width`)], { shape: cue.shape });
  }
  return cue.inverted ? b.invert(c) : c;
}

/**
 * An ordered list of cues folded from 1: *and* a·b, *or* 1 − (1−a)(1−b), *but not* a·(1−b), *at most* min, *at least* max.
 * A cue's amount mixes it toward what leaves the coverage as it was.
 */
export function lowerCoverage(b: Builder, coverage: Readonly<Record<string, Cue>>, prefix: string): DagNode {
  let a = b.constant(1);
  inOrder(coverage).forEach((cue, i) => {
    const p = at(prefix, i);
    const amount = b.value(`${p}amount`, 'float', UNIT);
    const without = cue.join === 'and' || cue.join === 'atMost' ? 1 : 0;
    const c = b.mix(b.constant(without), lowerCue(b, cue, p), amount);
    if (cue.join === 'and') a = b.multiply(a, c);
    else if (cue.join === 'or') a = b.invert(b.multiply(b.invert(a), b.invert(c)));
    else if (cue.join === 'butNot') a = b.multiply(a, b.invert(c));
    else a = cue.join === 'atMost' ? b.min(a, c) : b.max(a, c);
  });
  return a;
}

/** Adds the runtime values of a coverage to others. */
export function coverageValues(
  coverage: Readonly<Record<string, Cue>>,
  prefix: string,
  extentM: number,
  values: Record<string, readonly number[]> = {},
): Values {
  inOrder(coverage).forEach((cue, i) => {
    const p = at(prefix, i);
    values[`${p}amount`] = [cue.amount];
    values[`${p}value`] = [cue.value];
    values[`${p}centre`] = [cue.centre];
    values[`${p}width`] = [cue.width];
    values[`${p}cells`] = [noiseCells(extentM, cue.sizeM)];
    values[`${p}seed`] = [cue.seed];
    values[`${p}octaves`] = [cue.octaves];
  });
  return values;
}

/** What decides the shape of the lowered coverage: as long as it stays the same, only values change. */
export const coverageShape = (coverage: Readonly<Record<string, Cue>>): string =>
  inOrder(coverage)
    .map((c) => `${c.join}:${c.kind}:${c.kind === 'vertexColour' ? c.channel : ''}:${c.shape}:${c.inverted}`)
    .join(';');
