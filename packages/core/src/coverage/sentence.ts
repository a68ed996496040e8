import type { Coverage, Cue } from '../document';
import { inOrder } from '../document';
import type { NameOf } from './words';
import { JOIN_WORDS, cueNumbers, cueTail, cueWords, percent, quoted } from './words';

/** One cue in words with its numbers, as it is read aloud. */
export function cueText(cue: Cue, nameOf?: NameOf): string {
  const strength = cue.amount === 1 ? '' : ` (${percent(cue.amount)} of it)`;
  return `${cueWords(cue, nameOf)}${cueNumbers(cue)}${cueTail(cue)}${strength}`;
}

/** The same with everything that it takes to read it back. */
function fullText(cue: Cue, nameOf?: NameOf): string {
  const random =
    cue.kind === 'noise' ? ` (${cue.noise === 'fractal' ? `${cue.octaves} octave${cue.octaves === 1 ? '' : 's'}, ` : ''}seed ${cue.seed})` : '';
  const picture = cue.kind === 'painted' && cue.picture !== null ? ` (picture ${quoted(cue.picture)})` : '';
  const straight = cue.shape === 'straight' ? ' straight' : '';
  const strength = cue.amount === 1 ? '' : ` (${percent(cue.amount)} of it)`;
  return `${cueWords(cue, nameOf)}${cueNumbers(cue)}${cueTail(cue)}${random}${picture}${straight}${strength}`;
}

function joined(coverage: Readonly<Coverage>, text: (cue: Cue) => string): string {
  const cues = inOrder(coverage);
  if (!cues.length) return 'everywhere';
  const [first] = cues;
  const start = first.join === 'and' ? 'where' : `everywhere ${JOIN_WORDS[first.join]}`;
  return [start, ...cues.map((cue, i) => `${i ? `${JOIN_WORDS[cue.join]} ` : ''}${text(cue)}`)].join(' ');
}

/** A coverage as people would say it: "Moss where vertex green above 0.5 ±0.2 and slope under 35° ±8". */
export const coverageSentence = (name: string, coverage: Readonly<Coverage>, nameOf?: NameOf): string =>
  `${name} ${joined(coverage, (cue) => cueText(cue, nameOf))}`;

/** A coverage as text from which `parseCoverage` makes the same one again: what is copied and pasted. */
export const coverageText = (coverage: Readonly<Coverage>, nameOf?: NameOf): string => joined(coverage, (cue) => fullText(cue, nameOf));
