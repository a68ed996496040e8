import { inOrder } from '../order';
import { NUMBERS, joinFacts } from './joins';
import type { Cue, CueInput, CueKind, CueOf, Coverage } from './kinds';
import type { CuePicture } from './kinds/kind';
import { cueKind } from './kinds/kind';

/** A cue with the usual values of its kind. */
export function makeCue<K extends CueKind>(kind: K, over: Partial<Omit<CueOf<K>, 'kind'>> = {}): Cue {
  const { input, centre, width, inverted = false } = cueKind(kind).usual;
  return { order: 1, join: 'and', amount: 1, inverted, shape: 'smooth', centre, width, ...(input as CueInput), ...over } as Cue;
}

/** The picture that a cue needs; null when it needs none, or none was chosen. */
export const pictureOf = (cue: Cue): CuePicture | null => cueKind(cue.kind).picture?.(cue) ?? null;
/** Every picture that a coverage reads. */
export const picturesOf = (coverage: Readonly<Coverage>): CuePicture[] => Object.values(coverage).flatMap((c) => pictureOf(c) ?? []);
/** Whether a coverage is the same number everywhere, as far as its document says: null where it may differ. */
export function evenCoverage(coverage: Readonly<Coverage>): number | null {
  let all = 1;
  for (const { join, amount, inverted, ...cue } of inOrder(coverage)) {
    if (cue.kind !== 'constant') return null;
    const { without, fold } = joinFacts(join);
    const c = without + ((inverted ? 1 - cue.value : cue.value) - without) * amount;
    all = fold(NUMBERS, all, c);
  }
  return all;
}
