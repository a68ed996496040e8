import type { Cue, Join } from '../document';
import { inOrder } from '../document';

export const JOIN_WORDS: Record<Join, string> = { and: 'and', or: 'or', butNot: 'but not', atMost: 'at most', atLeast: 'at least' };
const CHANNEL_WORDS = { r: 'red', g: 'green', b: 'blue', a: 'alpha' };

/** The words of one cue, without its numbers: the name of its token. */
export function cueWords(cue: Cue): string {
  if (cue.kind === 'constant') return cue.inverted ? 'all but an even' : 'an even';
  if (cue.kind === 'noise') return cue.inverted ? 'noise below' : 'noise above';
  return `vertex ${CHANNEL_WORDS[cue.channel]} ${cue.inverted ? 'below' : 'above'}`;
}

const percent = (v: number) => `${+(v * 100).toFixed(1)} %`;

/** One cue in words with its numbers. */
export function cueText(cue: Cue): string {
  const strength = cue.amount === 1 ? '' : ` (${percent(cue.amount)} of it)`;
  if (cue.kind === 'constant') return `${cueWords(cue)} ${percent(cue.value)}${strength}`;
  const size = cue.kind === 'noise' ? ` at ${+cue.sizeM.toFixed(3)} m` : '';
  return `${cueWords(cue)} ${+cue.centre.toFixed(3)} ±${+(cue.width / 2).toFixed(3)}${size}${strength}`;
}

/** A coverage as people would say it: "Moss where vertex green above 0.5 ±0.2 and noise above 0.45 ±0.1 at 0.6 m". */
export function coverageSentence(name: string, coverage: Readonly<Record<string, Cue>>): string {
  const cues = inOrder(coverage);
  if (!cues.length) return `${name} everywhere`;
  return `${name} where ${cues.map((cue, i) => `${i || cue.join !== 'and' ? `${JOIN_WORDS[cue.join]} ` : ''}${cueText(cue)}`).join(' ')}`;
}
