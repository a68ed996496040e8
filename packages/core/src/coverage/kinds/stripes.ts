import type { Builder, DagNode } from '../../compile';
import { length, plain } from '../text/words';
import { ABOVE, BEARINGS_HELD, SIZES, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** How near the middle of a stripe: 1 there, 0 half way to the next. */
export interface StripesCue {
  kind: 'stripes';
  sizeM: number;
  bearing: number;
}

/** Whole stripes along u and v that come nearest to a size and a bearing: any pair of whole numbers repeats over the extent. */
export function stripeCells(extentM: number, sizeM: number, bearing: number): [number, number] {
  const n = extentM / Math.max(sizeM, 1e-4);
  const turn = (bearing * Math.PI) / 180;
  const cells: [number, number] = [Math.round(n * Math.cos(turn)), Math.round(n * Math.sin(turn))];
  return cells[0] || cells[1] ? cells : [1, 0];
}

/** 1 at whole numbers, 0 half way between. */
export const wave = (b: Builder, t: DagNode): DagNode =>
  b.node('absval', [b.subtract(b.multiply(b.constant(2), b.node('fract', [t])), b.constant(1))]);

const turned = (bearing: number) => (bearing ? ` turned ${plain(bearing)}°` : '');

export const stripes: CueKindSpec<StripesCue> = {
  kind: 'stripes',
  ...facts('stripes', 'bands at even distances', '', 0, 1),
  usual: { input: { kind: 'stripes', sizeM: 0.3, bearing: 0 }, centre: 0.5, width: 0.2 },
  ramped: true,
  input: (_, { b, uv, value }) => wave(b, b.node('dotproduct', [uv, value('cells', 'vec2')])),
  values: ({ sizeM, bearing }, { extentM }) => ({ cells: stripeCells(extentM, sizeM, bearing) }),
  words: (cue) => `stripes ${sideWord(ABOVE, cue)}`,
  tail: ({ sizeM, bearing }) => ` each ${length(sizeM)}${turned(bearing)}`,
  tailWords: ({ bearing }) => turned(bearing),
  starts: [
    {
      phrase: 'stripes',
      read(r) {
        const common = sideAndRamp(r, ABOVE, '');
        r.expect('each');
        return { ...common, sizeM: r.metres(SIZES), bearing: r.take('turned') ? r.degrees(BEARINGS_HELD) : 0 };
      },
    },
  ],
  controls: [
    { as: 'number', key: 'sizeM', label: 'Distance in metres', before: 'each', shown: 'metres', ...SIZES, at: 'sentence' },
    { as: 'number', key: 'bearing', label: 'Turned by degrees', shown: 'degrees', ...BEARINGS_HELD, at: 'card' },
  ],
  preview: true,
};
