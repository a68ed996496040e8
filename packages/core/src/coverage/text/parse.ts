import { makeCue } from '../cue';
import type { Coverage, Cue, CueKind } from '../kinds';
import type { Join } from '../joins';
import type { CueStart } from '../kinds/kind';
import { cueKinds } from '../kinds/kind';
import { Reader } from './reader';
import { JOIN_PHRASES } from './words';

export interface ParseOptions {
  /** The id of what bears a name; null when nothing does. Names are taken for ids without it. */
  idOf?: (name: string) => string | null;
}

/** Phrases that a cue may begin with, the longest first: "noise" must not end "noise red of …" before it began. */
const starts = (): (CueStart<object> & { kind: string })[] =>
  cueKinds()
    .flatMap((spec) => spec.starts.map((start) => ({ ...(start as CueStart<object>), kind: spec.kind })))
    .sort((a, b) => Number(Boolean(b.before)) - Number(Boolean(a.before)) || b.phrase.length - a.phrase.length);

function cueOf(r: Reader): Cue {
  const all = starts();
  const start = all.find(({ phrase, before }) => (!before || before.some((word) => r.ahead(...phrase.split(' '), word))) && r.take(phrase));
  if (!start) return r.fail('a cue', ...new Set(all.map((s) => `"${s.phrase}"`)));
  const cue = makeCue(start.kind as CueKind, start.read(r, start.phrase));
  if (r.take('straight')) cue.shape = 'straight';
  if (r.take('(')) {
    cue.amount = r.percent();
    r.expect('of it');
    if (!r.take(')')) r.fail('")"');
  }
  return cue;
}

function joinOf(r: Reader): Join {
  r.take(',');
  return JOIN_PHRASES.find(([phrase]) => r.take(phrase))?.[1] ?? r.fail('the end', ...JOIN_PHRASES.map(([phrase]) => `"${phrase}"`));
}

/** The name before the sentence, whatever it is made of, and where the sentence begins. */
function nameBefore(text: string): { name: string | null; from: number } {
  const quotes = /^\s*"((?:[^"\\]|\\.)*)"(?=\s+(?:where|everywhere)\b)/iu.exec(text);
  if (quotes) return { name: quotes[1].replace(/\\([\\"])/g, '$1'), from: quotes[0].length };
  const from = text.search(/(?<![\p{L}\p{M}\p{N}_])(?:where|everywhere)(?![\p{L}\p{M}\p{N}_])/iu);
  return { name: from > 0 ? text.slice(0, from).trim() || null : null, from: Math.max(0, from) };
}

/**
 * Reads a coverage from its sentence: `[NAME] everywhere`, `[NAME] where CUE [JOIN CUE …]`, or the cues alone.
 * The inverse of `coverageText`. Cues come keyed c1, c2 … in their order.
 * @throws SentenceError with the character and what was expected there
 */
export function parseCoverage(text: string, { idOf = (name) => name }: ParseOptions = {}): { name: string | null; coverage: Coverage } {
  const { name, from } = nameBefore(text);
  const r = new Reader(text, from, idOf);
  const coverage: Coverage = {};
  let join: Join = 'and';
  if (r.take('everywhere')) {
    if (r.done) return { name, coverage };
    join = joinOf(r);
  } else r.take('where');
  for (let order = 1; ; order++) {
    coverage[`c${order}`] = { ...cueOf(r), order, join };
    if (r.done) return { name, coverage };
    join = joinOf(r);
  }
}
