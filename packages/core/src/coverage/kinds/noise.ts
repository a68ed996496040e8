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
  /** Over places in metres, seen from above: it never repeats, and the blend does not tile. Over the extent unless stated. */
  over?: 'world';
}
/** Cells after which noise over the world repeats: no world is as large. */
const WORLD_CELLS = 4096;
const OVER = 'over the world';

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
  input({ noise, over }, { b, uv, value }) {
    const cells = value('cells');
    const place = over && b.node('position');
    const [at, seed] = [
      place ? b.multiply(b.combine(b.extract(place, 0), b.extract(place, 2)), value('perM')) : b.multiply(uv, cells),
      value('seed'),
    ];
    return noise === 'fractal' ? b.node('fractal2d', [at, cells, seed, value('octaves')]) : b.node(OPERATIONS[noise], [at, cells, seed]);
  },
  values: ({ sizeM, seed, octaves, over }, { extentM }) => ({
    cells: [over ? WORLD_CELLS : noiseCells(extentM, sizeM)],
    seed: [seed],
    octaves: [octaves],
    ...(over ? { perM: [1 / Math.max(sizeM, 1e-4)] } : {}),
  }),
  shape: ({ noise, over }) => `${noise}${over ?? ''}`,
  words: (cue) => `${WORDS[cue.noise]} ${sideWord(ABOVE, cue)}`,
  tail: ({ sizeM, over }) => ` at ${length(sizeM)}${over ? ` ${OVER}` : ''}`,
  tailWords: ({ over }) => (over ? ` ${OVER}` : ''),
  aside: ({ noise, octaves, seed }) => ` (${noise === 'fractal' ? `${octaves} octave${octaves === 1 ? '' : 's'}, ` : ''}seed ${seed})`,
  starts: NOISE_KINDS.map((noise) => ({
    phrase: WORDS[noise],
    read(r) {
      const common = { noise, ...sideAndRamp(r, ABOVE, '') };
      const sizeM = r.ahead('at', '#') && r.take('at') ? r.metres(SIZES) : 0.6;
      return { ...common, sizeM, ...(r.take(OVER) ? { over: 'world' as const } : {}), ...aside(r) };
    },
  })),
  controls: [
    { as: 'number', key: 'sizeM', label: 'Size in metres', before: 'at', shown: 'metres', ...SIZES, at: 'sentence' },
    { as: 'choice', key: 'noise', label: 'Kind of noise', title: 'Kind', of: NOISE_KINDS.map((value) => ({ value, word: WORDS[value] })) },
    {
      as: 'choice',
      key: 'over',
      label: 'Where the noise repeats',
      title: 'Repeats',
      of: [
        { value: '', word: 'with the extent, which tiles' },
        { value: 'world', word: 'never, over the world' },
      ],
    },
    { as: 'seed', key: 'seed', label: 'Re-roll the noise' },
    { as: 'number', key: 'octaves', label: 'Octaves', shown: 'whole', ...OCTAVES, at: 'card', when: (cue) => cue.noise === 'fractal' },
  ],
  begin: ({ seed }) => ({ seed: seed() }),
  preview: true,
};
