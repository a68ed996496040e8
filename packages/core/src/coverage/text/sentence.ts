import { inOrder } from '../../order';
import type { Coverage, Cue } from '../kinds';
import type { NameOf } from '../kinds/kind';
import { cueKind } from '../kinds/kind';
import { joinPhrase, percent, quoted, rampNumbers } from './words';

const BY_ID: NameOf = (id) => id;

/** The words of a cue before its number: the name of its token. */
export const cueWords = (cue: Cue, nameOf = BY_ID): string => cueKind(cue.kind).words(cue, nameOf);
/** Its number, in its unit. */
export function cueNumbers(cue: Cue): string {
  const { numbers, unit } = cueKind(cue.kind);
  return numbers ? numbers(cue) : rampNumbers(cue, unit);
}
/** The words of a cue after its number, without those that only tell one random picture from another. */
export const cueTail = (cue: Cue): string => cueKind(cue.kind).tail?.(cue) ?? '';
/** Those of them that no number of the sentence shows. */
export const cueTailWords = (cue: Cue): string => cueKind(cue.kind).tailWords?.(cue) ?? '';

const strength = ({ amount }: Cue) => (amount === 1 ? '' : ` (${percent(amount)} of it)`);

/** One cue in words with its numbers, as it is read aloud. */
export const cueText = (cue: Cue, nameOf = BY_ID): string => `${cueWords(cue, nameOf)}${cueNumbers(cue)}${cueTail(cue)}${strength(cue)}`;

/** The same with everything that it takes to read it back. */
function fullText(cue: Cue, nameOf: NameOf): string {
  const { aside, ramped } = cueKind(cue.kind);
  const straight = ramped && cue.shape === 'straight' ? ' straight' : '';
  return `${cueWords(cue, nameOf)}${cueNumbers(cue)}${cueTail(cue)}${aside?.(cue) ?? ''}${straight}${strength(cue)}`;
}

function joined(coverage: Readonly<Coverage>, text: (cue: Cue) => string): string {
  const cues = inOrder(coverage);
  if (!cues.length) return 'everywhere';
  // Everywhere counts as said with *and*: the first join acts on it.
  const where = cues[0].join === 'and';
  const joins = cues.map((c) => c.join);
  return cues.reduce(
    (all, cue, i) => {
      const join = where && i === 0 ? '' : joinPhrase(cue.join, joins.slice(where ? 1 : 0, i));
      return `${all}${join} ${text(cue)}`;
    },
    where ? 'where' : 'everywhere',
  );
}

/** A name as it can stand before "where": in quotes where it would be read as something else. */
const named = (name: string): string => (/["\\]|\b(where|everywhere)\b|^\s|\s$/i.test(name) ? quoted(name) : name);

/** A coverage as people would say it: "Moss where vertex green above 0.5 ±0.2 and slope under 35° ±8". */
export const coverageSentence = (name: string, coverage: Readonly<Coverage>, nameOf = BY_ID): string =>
  `${named(name)} ${coverageWords(coverage, nameOf)}`;
/** The same without a name before it. */
export const coverageWords = (coverage: Readonly<Coverage>, nameOf = BY_ID): string => joined(coverage, (cue) => cueText(cue, nameOf));

/** A coverage as text from which `parseCoverage` makes the same one again: what is copied and pasted. */
export const coverageText = (coverage: Readonly<Coverage>, nameOf = BY_ID): string => joined(coverage, (cue) => fullText(cue, nameOf));
