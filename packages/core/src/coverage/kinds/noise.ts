import type { Reader } from '../text/reader';
import { length } from '../text/words';
import { ABOVE, SIZES, facts, noiseCells, sideAndRamp, sideWord } from './common';
import type { CueKindSpec } from './kind';

export const NOISE_KINDS = ['fractal', 'value', 'gradient', 'cellular'] as const;
export type NoiseKind = (typeof NOISE_KINDS)[number];

export interface NoiseCue {
  kind: 'noise';
  noise: NoiseKind;
  sizeM: number;
  octaves: number;
  seed: number;
}

const WORDS: Record<NoiseKind, string> = { fractal: 'noise', value: 'value noise', gradient: 'gradient noise', cellular: 'cellular noise' };
const OPERATIONS = { value: 'noise2d', gradient: 'gradient2d', cellular: 'worleynoise2d' } as const;
const OCTAVES = { least: 1, most: 8 };
const SEEDS = { least: 0, most: 0xffffff };

/** "(4 octaves, seed 7)", or a part of it; what is not said stays usual. "(80 % of it)" is left alone. */
function aside(r: Reader): Partial<Pick<NoiseCue, 'octaves' | 'seed'>> {
  const out: Partial<Pick<NoiseCue, 'octaves' | 'seed'>> = {};
  const seed = () => (out.seed = r.wholeNumber('a seed', SEEDS));
  if (r.take('( seed')) seed();
  else if (r.ahead('(', '#', 'octaves') || r.ahead('(', '#', 'octave')) {
    r.take('(');
    out.octaves = r.wholeNumber('a number of octaves', OCTAVES);
    r.expect('octaves', 'octave');
    if (r.take(', seed')) seed();
  } else return out;
  if (!r.take(')')) r.fail('")"');
  return out;
}

export const noise: CueKindSpec<NoiseCue> = {
  kind: 'noise',
  ...facts('noise', 'random, at a size in metres', '', 0, 1),
  usual: { input: { kind: 'noise', noise: 'fractal', sizeM: 0.6, octaves: 4, seed: 1 }, centre: 0.5, width: 0.2 },
  ramped: true,
  input({ noise }, { b, uv, value }) {
    const cells = value('cells');
    const [at, seed] = [b.multiply(uv, cells), value('seed')];
    return noise === 'fractal' ? b.node('fractal2d', [at, cells, seed, value('octaves')]) : b.node(OPERATIONS[noise], [at, cells, seed]);
  },
  values: ({ sizeM, seed, octaves }, { extentM }) => ({ cells: [noiseCells(extentM, sizeM)], seed: [seed], octaves: [octaves] }),
  shape: ({ noise }) => noise,
  words: (cue) => `${WORDS[cue.noise]} ${sideWord(ABOVE, cue)}`,
  tail: ({ sizeM }) => ` at ${length(sizeM)}`,
  aside: ({ noise, octaves, seed }) => ` (${noise === 'fractal' ? `${octaves} octave${octaves === 1 ? '' : 's'}, ` : ''}seed ${seed})`,
  starts: NOISE_KINDS.map((noise) => ({
    phrase: WORDS[noise],
    read(r) {
      const common = { noise, ...sideAndRamp(r, ABOVE, '') };
      const sizeM = r.ahead('at', '#') && r.take('at') ? r.metres(SIZES) : 0.6;
      return { ...common, sizeM, ...aside(r) };
    },
  })),
  controls: [
    { as: 'number', key: 'sizeM', label: 'Size in metres', before: 'at', shown: 'metres', ...SIZES, at: 'sentence' },
    { as: 'choice', key: 'noise', label: 'Kind of noise', title: 'Kind', of: NOISE_KINDS.map((value) => ({ value, word: WORDS[value] })) },
    { as: 'seed', key: 'seed', label: 'Re-roll the noise' },
    { as: 'number', key: 'octaves', label: 'Octaves', shown: 'whole', ...OCTAVES, at: 'card', when: (cue) => cue.noise === 'fractal' },
  ],
  begin: ({ seed }) => ({ seed: seed() }),
  preview: true,
};
