import type { Coverage, Cue, Join, UvSet } from '../document';
import { NOISE_KINDS, makeCue } from '../document';
import type { Role } from '../surface';
import { ROLES, ROLE_FACTS } from '../surface';
import { CUES } from './cues';
import { BEARINGS, COLOUR_WORDS, COMPONENTS_IN_ORDER, JOIN_WORDS, NOISE_WORDS, SIDES } from './words';

/** A sentence that cannot be read: `at` is the character where it went wrong, `expected` what could stand there. */
export class SentenceError extends Error {
  constructor(
    readonly at: number,
    readonly expected: readonly string[],
    readonly found: string,
  ) {
    const list = expected.length > 1 ? `${expected.slice(0, -1).join(', ')} or ${expected.at(-1)}` : expected[0];
    super(`Character ${at + 1}: expected ${list}, found ${found ? `"${found}"` : 'the end'}`);
    this.name = 'SentenceError';
  }
}

export interface ParseOptions {
  /** The id of what bears a name; null when nothing does. Names are taken for ids without it. */
  idOf?: (name: string) => string | null;
}

interface Token {
  kind: 'word' | 'number' | 'text' | 'colour' | 'sign';
  text: string;
  at: number;
}
const TOKENS =
  /\s*(?:(?<text>"[^"]*")|(?<colour>#[0-9a-fA-F]{6}\b)|(?<number>[-−]?\d*\.?\d+(?:e[-+]?\d+)?)|(?<word>[A-Za-z][A-Za-z-]*)|(?<sign>[±×°%(),]|\/m))/gy;

function tokensOf(text: string): Token[] {
  const tokens: Token[] = [];
  TOKENS.lastIndex = 0;
  for (let at = 0; text.slice(at).trim(); at = TOKENS.lastIndex) {
    TOKENS.lastIndex = at;
    const groups = TOKENS.exec(text)?.groups;
    const [kind, found] = Object.entries(groups ?? {}).find(([, value]) => value !== undefined) ?? [];
    if (!kind) throw new SentenceError(at + text.slice(at).search(/\S/), ['a word', 'a number'], text.slice(at).trim()[0]);
    tokens.push({ kind: kind as Token['kind'], text: found as string, at: TOKENS.lastIndex - (found as string).length });
  }
  return tokens;
}

const words = (text: string): string[] => text.toLowerCase().split(' ');

class Reader {
  private at = 0;
  constructor(
    private readonly tokens: readonly Token[],
    private readonly end: number,
    private readonly idOf: (name: string) => string | null,
  ) {}

  get done(): boolean {
    return this.at >= this.tokens.length;
  }
  private peek = (ahead = 0): Token | undefined => this.tokens.at(this.at + ahead);
  fail(...expected: string[]): never {
    const token = this.peek();
    throw new SentenceError(token?.at ?? this.end, expected, token?.text ?? '');
  }
  /** Takes a run of words or signs if they come next. */
  take(phrase: string): boolean {
    const parts = words(phrase);
    if (!parts.every((part, i) => this.peek(i)?.text.toLowerCase() === part)) return false;
    this.at += parts.length;
    return true;
  }
  expect(...phrases: string[]): string {
    // The longest first: "north-east raised" must not end at "north".
    const found = [...phrases].sort((a, b) => b.length - a.length).find((p) => this.take(p));
    return found ?? this.fail(...phrases.map((p) => `"${p}"`));
  }
  number(what = 'a number'): number {
    const token = this.peek();
    if (token?.kind !== 'number') this.fail(what);
    this.at++;
    return Number((token as Token).text.replace('−', '-'));
  }
  whole(what: string, least: number, most: number): number {
    const token = this.peek();
    const v = this.number(what);
    if (!Number.isInteger(v) || v < least || v > most)
      throw new SentenceError(token?.at ?? 0, [`${what} from ${least} to ${most}`], token?.text ?? '');
    return v;
  }
  text(what: string): string {
    const token = this.peek();
    if (token?.kind !== 'text') this.fail(`${what} in quotes`);
    this.at++;
    return (token as Token).text.slice(1, -1);
  }
  hash(): string {
    const token = this.peek();
    const digits = this.text('the digits of a picture').toLowerCase();
    if (!/^[0-9a-f]{64}$/.test(digits)) throw new SentenceError(token?.at ?? 0, ['the 64 digits of a picture'], digits);
    return digits;
  }
  surface(): string {
    const token = this.peek();
    const name = this.text('the name of a surface');
    const id = this.idOf(name);
    if (id === null) throw new SentenceError(token?.at ?? 0, ['the name of a surface of the project'], name);
    return id;
  }
  colour(): string {
    const token = this.peek();
    if (token?.kind !== 'colour') this.fail('a colour like #ff8800');
    this.at++;
    return (token as Token).text.toLowerCase();
  }
  /** Metres, from millimetres to kilometres; the factor is remembered for what follows without a unit. */
  factor(): number {
    const found = ['mm', 'cm', 'km', 'm'].find((unit) => this.take(unit)) ?? this.fail('"mm"', '"cm"', '"m"', '"km"');
    return { mm: 0.001, cm: 0.01, m: 1, km: 1000 }[found] as number;
  }
  metres(): number {
    const v = this.number('a length');
    return clean(v * this.factor());
  }
  degrees(): number {
    const v = this.number('an angle');
    if (!this.take('°') && !this.take('degrees')) this.fail('"°"');
    return v;
  }
  percent(): number {
    const v = this.number('a percentage');
    if (!this.take('%')) this.fail('"%"');
    return clean(v / 100);
  }
  /** Whether these words come next; "#" stands for any number. */
  ahead = (...parts: string[]): boolean =>
    parts.every((part, i) => (part === '#' ? this.peek(i)?.kind === 'number' : this.peek(i)?.text.toLowerCase() === part));
}

/** Floats that came of a factor, as they were meant. */
const clean = (v: number): number => +v.toPrecision(12);

/** Centre, and width after "±": without it a step. */
function numbers(r: Reader, kind: Cue['kind']): { centre: number; width: number } {
  const { unit } = CUES[kind];
  let k = 1;
  let centre = r.number();
  if (unit === 'm') k = r.factor();
  else if (unit === '°' && !r.take('°') && !r.take('degrees')) r.fail('"°"');
  else if (unit === '1/m' && !r.take('/m')) r.expect('per metre');
  centre = clean(centre * k);
  if (!r.take('±')) return { centre, width: 0 };
  const half = r.number('half the width');
  if (unit === '°') r.take('°');
  return { centre, width: clean(Math.abs(half) * 2 * k) };
}

/** Which side of the number counts; null when neither word stands there. */
function side(r: Reader, kind: keyof typeof SIDES): boolean {
  const [ordinary, inverted] = SIDES[kind];
  // "under" and "below" are the same word here.
  const more: Record<string, string> = { under: 'below', below: 'under' };
  const found = r.expect(ordinary, inverted, ...(more[inverted] ? [more[inverted]] : []));
  return found !== ordinary;
}

const MAP_WORDS = ROLES.map((role) => ({ role, words: ROLE_FACTS[role].label.toLowerCase() })).sort((a, b) => b.words.length - a.words.length);

/** "cavity of", "base colour red of": which map; null when no map stands there. */
function mapOf(r: Reader): { role: Role; channel: 0 | 1 | 2 | 3 } | null {
  const found = MAP_WORDS.find((m) => r.take(m.words));
  if (!found) return null;
  const channel = COMPONENTS_IN_ORDER.findIndex((c) => r.take(COLOUR_WORDS[c]));
  r.expect('of');
  return { role: found.role, channel: Math.max(0, channel) as 0 };
}

function bearing(r: Reader): { bearing: number; rise: number } {
  if (r.take('up')) return { bearing: 0, rise: 90 };
  if (r.take('down')) return { bearing: 0, rise: -90 };
  const at = r.take('bearing') ? r.degrees() : BEARINGS.indexOf(r.expect(...BEARINGS, 'bearing', 'up', 'down') as (typeof BEARINGS)[number]) * 45;
  return { bearing: at, rise: r.take('raised') ? r.degrees() : 0 };
}

/** Phrases that a cue may begin with, in the order in which they are tried, and what makes the cue of what follows. */
const STARTS: { phrase: string; sides?: true; read: (r: Reader) => Cue }[] = [
  { phrase: 'all but an even', read: (r) => makeCue('constant', { inverted: true, value: r.percent() }) },
  { phrase: 'an even', read: (r) => makeCue('constant', { value: r.percent() }) },
  { phrase: 'all but part', read: (r) => makeCue('part', { inverted: true, part: r.text('the name of a part') }) },
  { phrase: 'part', read: (r) => makeCue('part', { part: r.text('the name of a part') }) },
  {
    phrase: 'vertex',
    read: (r) => {
      const colour = r.expect(...Object.values(COLOUR_WORDS));
      const channel = COMPONENTS_IN_ORDER.find((c) => COLOUR_WORDS[c] === colour);
      return makeCue('vertexColour', { channel, inverted: side(r, 'vertexColour'), ...numbers(r, 'vertexColour') });
    },
  },
  { phrase: 'painted mask', read: (r) => makeCue('painted', { inverted: side(r, 'painted'), ...numbers(r, 'painted'), picture: pictureOf(r) }) },
  { phrase: 'altitude', read: (r) => makeCue('altitude', { from: 'world', inverted: side(r, 'altitude'), ...numbers(r, 'altitude') }) },
  // Maps are called so too ("height of …"): these go on with a side.
  { phrase: 'height', sides: true, read: (r) => makeCue('altitude', { from: 'object', inverted: side(r, 'altitude'), ...numbers(r, 'altitude') }) },
  { phrase: 'occlusion', sides: true, read: (r) => makeCue('occlusion', { inverted: side(r, 'occlusion'), ...numbers(r, 'occlusion') }) },
  { phrase: 'slope', read: (r) => makeCue('slope', { inverted: side(r, 'slope'), ...numbers(r, 'slope') }) },
  {
    phrase: 'facing',
    read: (r) => {
      const common = { inverted: side(r, 'direction'), ...numbers(r, 'direction') };
      r.expect('of');
      return makeCue('direction', { ...common, ...bearing(r) });
    },
  },
  { phrase: 'edges', read: (r) => makeCue('convexity', { inverted: side(r, 'convexity'), ...numbers(r, 'convexity') }) },
  { phrase: 'hollows', read: (r) => makeCue('concavity', { inverted: side(r, 'concavity'), ...numbers(r, 'concavity') }) },
  { phrase: 'low places', read: (r) => makeCue('low', { inverted: side(r, 'low'), ...numbers(r, 'low') }) },
  ...(['within', 'beyond'] as const).map((phrase) => ({
    phrase,
    read: (r: Reader) => {
      const cue = makeCue('ground', { inverted: phrase === 'within', ...numbers(r, 'ground') });
      r.expect('of the ground');
      return cue;
    },
  })),
  ...NOISE_KINDS.map((noise) => ({
    phrase: NOISE_WORDS[noise],
    read: (r: Reader) => {
      const common = { noise, inverted: side(r, 'noise'), ...numbers(r, 'noise') };
      const sizeM = r.ahead('at', '#') && r.take('at') ? r.metres() : 0.6;
      const cue = makeCue('noise', { ...common, sizeM });
      return { ...cue, ...randomOf(r) } as Cue;
    },
  })),
  {
    phrase: 'stripes',
    read: (r) => {
      const common = { inverted: side(r, 'stripes'), ...numbers(r, 'stripes') };
      return makeCue('stripes', { ...common, sizeM: (r.expect('each'), r.metres()), bearing: r.take('turned') ? r.degrees() : 0 });
    },
  },
  {
    phrase: 'grid lines',
    read: (r) => {
      const common = { inverted: side(r, 'grid'), ...numbers(r, 'grid') };
      return makeCue('grid', { ...common, sizeM: (r.expect('each'), r.metres()) });
    },
  },
  {
    phrase: 'ID colour',
    read: (r) => {
      const colour = r.colour();
      r.expect('of');
      const surface = r.surface();
      return makeCue('id', { colour, surface, inverted: side(r, 'id'), ...numbers(r, 'id'), ...setOf(r) });
    },
  },
];

/** "(4 octaves, seed 7)", or a part of it; what is not said stays usual. "(80 % of it)" is left alone. */
function randomOf(r: Reader): { octaves?: number; seed?: number } {
  const out: { octaves?: number; seed?: number } = {};
  const seed = () => (out.seed = r.whole('a seed', 0, 0xffffff));
  if (r.take('( seed')) seed();
  else if (r.ahead('(', '#', 'octaves') || r.ahead('(', '#', 'octave')) {
    r.take('(');
    out.octaves = r.whole('a number of octaves', 1, 8);
    r.expect('octaves', 'octave');
    if (r.take(', seed')) seed();
  } else return out;
  if (!r.take(')')) r.fail('")"');
  return out;
}

/** (picture "…") by its SHA-256; null where none is said. */
function pictureOf(r: Reader): string | null {
  if (!r.take('( picture')) return null;
  const hash = r.hash();
  if (!r.take(')')) r.fail('")"');
  return hash;
}

/** "by UV set 2"; nothing where the extent is meant. */
const setOf = (r: Reader): { set?: UvSet } => (r.take('by UV set') ? { set: r.whole('the number of a set', 1, 2) as UvSet } : {});

const SIDE_WORDS = ['above', 'under', 'below'];

function mapCue(r: Reader): Cue {
  const map = mapOf(r) ?? r.fail('a cue', ...Object.values(CUES).map((c) => c.title));
  const surface = r.surface();
  const common = { inverted: side(r, 'mask'), ...numbers(r, 'mask') };
  const repeats = r.take('×') ? r.number('how often it repeats') : 1;
  return makeCue('mask', { ...map, ...common, surface, repeats, ...setOf(r) });
}

function cueOf(r: Reader): Cue {
  const start = STARTS.find(({ phrase, sides }) => (!sides || SIDE_WORDS.some((word) => r.ahead(phrase, word))) && r.take(phrase));
  const cue = start ? start.read(r) : mapCue(r);
  if (r.take('straight')) cue.shape = 'straight';
  if (r.take('(')) {
    cue.amount = r.percent();
    r.expect('of it');
    if (!r.take(')')) r.fail('")"');
  }
  return cue;
}

const JOINS = Object.entries(JOIN_WORDS).sort((a, b) => b[1].length - a[1].length) as [Join, string][];
const joinOf = (r: Reader): Join | undefined => JOINS.find(([, phrase]) => r.take(phrase))?.[0];

/**
 * Reads a coverage from its sentence: `[NAME] everywhere`, `[NAME] where CUE [JOIN CUE …]`, or the cues alone.
 * The inverse of `coverageText`. Cues come keyed c1, c2 … in their order.
 * @throws SentenceError with the character and what was expected there
 */
export function parseCoverage(text: string, { idOf = (name) => name }: ParseOptions = {}): { name: string | null; coverage: Coverage } {
  const tokens = tokensOf(text);
  const start = tokens.findIndex((t) => t.kind === 'word' && /^(where|everywhere)$/i.test(t.text));
  const name = start > 0 ? text.slice(0, tokens[start].at).trim() : null;
  const r = new Reader(tokens.slice(Math.max(0, start)), text.length, idOf);
  const coverage: Coverage = {};
  let join: Join | undefined = 'and';
  if (r.take('everywhere')) {
    if (r.done) return { name, coverage };
    join = joinOf(r) ?? r.fail('the end', ...JOINS.map(([, phrase]) => `"${phrase}"`));
  } else r.take('where');
  for (let order = 1; ; order++) {
    coverage[`c${order}`] = { ...cueOf(r), order, join };
    if (r.done) return { name, coverage };
    join = joinOf(r) ?? r.fail('the end', ...JOINS.map(([, phrase]) => `"${phrase}"`));
  }
}
