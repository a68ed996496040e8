import { makeCue } from './cue';
import type { Coverage, Cue } from './kinds';

/** A coverage to begin with: cues like any others once they are there. */
export interface Weathering {
  title: string;
  help: string;
  cues: () => Cue[];
}

const noise = (sizeM: number, over: Partial<Extract<Cue, { kind: 'noise' }>> = {}) => makeCue('noise', { sizeM, octaves: 4, ...over });

/** What weather and use do to things, as ordinary coverages. */
export const WEATHERING = {
  rubbedEdges: {
    title: 'rubbed edges',
    help: 'where the mesh bends outwards, broken up',
    cues: () => [makeCue('convexity', { centre: 12, width: 20 }), noise(0.12, { centre: 0.42, width: 0.22, seed: 11 })],
  },
  settledDust: {
    title: 'settled dust',
    help: 'on what looks up and is not swept by rain',
    cues: () => [makeCue('slope', { centre: 38, width: 40 }), noise(0.5, { centre: 0.38, width: 0.3, seed: 17 })],
  },
  risingDirt: {
    title: 'rising dirt',
    help: 'splashed up from the ground, ragged at its top',
    cues: () => [makeCue('ground', { centre: 0.35, width: 0.5 }), noise(0.3, { centre: 0.4, width: 0.4, seed: 23, join: 'and' })],
  },
  runOff: {
    title: 'run-off streaks',
    help: 'down steep faces, in narrow bands, below sheltered edges',
    cues: () => [
      makeCue('slope', { centre: 60, width: 24, inverted: false }),
      makeCue('stripes', { sizeM: 0.16, bearing: 0, centre: 0.7, width: 0.3 }),
      noise(0.4, { noise: 'gradient', centre: 0.48, width: 0.16, seed: 29 }),
    ],
  },
  shadedMoss: {
    title: 'moss on the shaded side',
    help: 'facing north or sheltered, on no steep face',
    cues: () => [
      makeCue('direction', { bearing: 0, rise: 20, centre: 75, width: 50 }),
      makeCue('occlusion', { join: 'or', centre: 0.45, width: 0.3 }),
      noise(0.35, { centre: 0.42, width: 0.24, seed: 31 }),
    ],
  },
} satisfies Record<string, Weathering>;
export type WeatheringName = keyof typeof WEATHERING;

/** The cues of a weathering as a coverage. */
export const weatheringCoverage = (name: WeatheringName): Coverage =>
  Object.fromEntries(WEATHERING[name].cues().map((cue: Cue, i: number) => [`c${i + 1}`, { ...cue, order: i + 1 } as Cue]));
