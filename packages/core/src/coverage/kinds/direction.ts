import type { Reader } from '../text/reader';
import { BEARINGS, bearingWords } from '../text/words';
import { bearingVector, degreesFrom } from './angles';
import { AWAY, BEARINGS_HELD, facts, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

/** Degrees between the ground's normal and a direction: `bearing` clockwise from north (−Z), `rise` above the horizon. */
export interface DirectionCue {
  kind: 'direction';
  bearing: number;
  rise: number;
}

const RISES = { least: -90, most: 90 };

function toward(r: Reader): Pick<DirectionCue, 'bearing' | 'rise'> {
  if (r.take('up')) return { bearing: 0, rise: 90 };
  if (r.take('down')) return { bearing: 0, rise: -90 };
  const named = () => BEARINGS.indexOf(r.expect(...BEARINGS, 'bearing', 'up', 'down') as (typeof BEARINGS)[number]) * 45;
  const bearing = r.take('bearing') ? r.degrees(BEARINGS_HELD) : named();
  return { bearing, rise: r.take('raised') ? r.degrees(RISES) : 0 };
}

export const direction: CueKindSpec<DirectionCue> = {
  kind: 'direction',
  ...facts('direction faced', 'degrees away from a direction', '°', 0, 180),
  usual: { input: { kind: 'direction', bearing: 0, rise: 0 }, centre: 60, width: 40, inverted: true },
  ramped: true,
  input: (_, { b, value }) => degreesFrom(b, value('toward', 'vec3', { lo: -1, hi: 1 })),
  values: ({ bearing, rise }) => ({ toward: bearingVector(bearing, rise) }),
  words: (cue) => `facing ${sideWord(AWAY, cue)}`,
  tail: ({ bearing, rise }) => ` of ${bearingWords(bearing, rise)}`,
  tailWords: ({ bearing, rise }) => ` of ${bearingWords(bearing, rise)}`,
  starts: [
    {
      phrase: 'facing',
      read(r) {
        const common = sideAndRamp(r, AWAY, '°');
        r.expect('of');
        return { ...common, ...toward(r) };
      },
    },
  ],
  controls: [
    { as: 'choice', key: 'bearing', label: 'Toward', title: 'Toward', of: BEARINGS.map((word, i) => ({ word, value: i * 45 })) },
    { as: 'number', key: 'bearing', label: 'Bearing in degrees', shown: 'degrees', ...BEARINGS_HELD, at: 'card' },
    { as: 'number', key: 'rise', label: 'Raised by degrees', shown: 'degrees', ...RISES, at: 'card' },
  ],
  preview: true,
};
