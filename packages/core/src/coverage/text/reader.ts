import type { CueUnit, UvSet } from '../units';
import { unshifted } from './decimal';

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

interface Token {
  kind: 'word' | 'number' | 'text' | 'colour' | 'sign';
  text: string;
  at: number;
}
const TOKENS =
  /\s*(?:(?<text>"(?:[^"\\]|\\.)*")|(?<colour>#[0-9a-fA-F]{6}\b)|(?<number>[-−+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)|(?<word>[\p{L}][\p{L}\p{M}-]*)|(?<sign>±|\+-|[×°%(),]|\/m))/uy;

/** Words, numbers and signs of a text from a character on. @throws SentenceError at what is none of them */
function tokensOf(text: string, from: number): Token[] {
  const tokens: Token[] = [];
  for (let at = from; text.slice(at).trim(); at = TOKENS.lastIndex) {
    TOKENS.lastIndex = at;
    const groups = TOKENS.exec(text)?.groups;
    const [kind, found] = Object.entries(groups ?? {}).find(([, value]) => value !== undefined) ?? [];
    if (!kind) {
      const wrong = at + text.slice(at).search(/\S/);
      const open = text[wrong] === '"';
      throw new SentenceError(wrong, open ? ['quotes that are closed'] : ['a word', 'a number'], text.slice(wrong).match(/^\S/u)?.[0] ?? '');
    }
    tokens.push({ kind: kind as Token['kind'], text: found === '+-' ? '±' : (found as string), at: TOKENS.lastIndex - (found as string).length });
  }
  return tokens;
}

const words = (text: string): string[] => text.toLowerCase().split(' ');

/** Ends that a number is held to, in the unit of the document. */
export interface Bounds {
  least: number;
  most: number;
}
const ANYTHING: Bounds = { least: -1e5, most: 1e5 };
const POSITIVE: Bounds = { least: 0, most: 1e5 };
const FACTORS = { mm: 3, cm: 2, km: -3, m: 0 } as const;
const LENGTH = /^([mck]?m|met(re|er)s?)$/i;

/** Takes a text apart, word by word. Everything that is expected and not there is said with its character. */
export class Reader {
  private at = 0;
  private readonly tokens: readonly Token[];

  /** @param from the character that it begins with */
  constructor(
    private readonly whole: string,
    from: number,
    private readonly idOf: (name: string) => string | null,
  ) {
    this.tokens = tokensOf(whole, from);
  }

  get done(): boolean {
    return this.at >= this.tokens.length;
  }
  private peek = (ahead = 0): Token | undefined => this.tokens.at(this.at + ahead);
  fail(...expected: string[]): never {
    const token = this.peek();
    throw new SentenceError(token?.at ?? this.whole.length, expected, token?.text ?? '');
  }
  /** Takes a run of words or signs if they come next. */
  take(phrase: string): boolean {
    const parts = words(phrase);
    if (!parts.every((part, i) => this.peek(i)?.text.toLowerCase() === part)) return false;
    this.at += parts.length;
    return true;
  }
  /** Takes one of some phrases. */
  expect(...phrases: string[]): string {
    // The longest first: "north-east raised" must not end at "north".
    const found = [...phrases].sort((a, b) => b.length - a.length).find((p) => this.take(p));
    return found ?? this.fail(...phrases.map((p) => `"${p}"`));
  }
  /** Whether these words come next; "#" stands for any number. */
  ahead = (...parts: string[]): boolean =>
    parts.every((part, i) => (part === '#' ? this.peek(i)?.kind === 'number' : this.peek(i)?.text.toLowerCase() === part));

  /**
   * A number between two ends.
   * @param unit reads what comes after it; gives by how many places its decimal point is moved to the left, and how the ends
   * are written
   */
  number(what: string, { least, most }: Bounds, unit: () => { places: number; write?: (end: number) => string } = () => ({ places: 0 })): number {
    const token = this.peek();
    if (token?.kind !== 'number') return this.fail(what);
    this.at++;
    const { places, write = String } = unit();
    const v = unshifted(token.text.replace('−', '-'), places);
    if (!Number.isFinite(v) || v < least || v > most)
      throw new SentenceError(token.at, [`${what} from ${write(least)} to ${write(most)}`], token.text);
    return v;
  }
  /** A whole number between two ends. */
  wholeNumber(what: string, bounds: Bounds): number {
    const token = this.peek();
    const v = this.number(what, bounds);
    if (!Number.isInteger(v)) throw new SentenceError(token?.at ?? 0, [`${what} from ${bounds.least} to ${bounds.most}`], token?.text ?? '');
    return v;
  }
  /** What stands in quotes. */
  text(what: string): string {
    const token = this.peek();
    if (token?.kind !== 'text') return this.fail(`${what} in quotes`);
    this.at++;
    return token.text.slice(1, -1).replace(/\\([\\"])/g, '$1');
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
    if (token?.kind !== 'colour') return this.fail('a colour like #ff8800');
    this.at++;
    return token.text.toLowerCase();
  }
  private readonly lengthUnit = () => {
    const found = (Object.keys(FACTORS) as (keyof typeof FACTORS)[]).find((unit) => this.take(unit)) ?? this.fail('"mm"', '"cm"', '"m"', '"km"');
    return { places: FACTORS[found], write: (end: number) => `${end} m` };
  };
  metres = (bounds: Bounds): number => this.number('a length', bounds, this.lengthUnit);
  private readonly degreeSign = () => {
    // A bare number can be nothing else, but a length is no angle.
    if (!['°', 'degrees', 'degree', 'deg'].some((s) => this.take(s)) && LENGTH.test(this.peek()?.text ?? '')) this.fail('"°"');
    return { places: 0, write: (end: number) => `${end}°` };
  };
  degrees = (bounds: Bounds): number => this.number('an angle', bounds, this.degreeSign);
  percent = (): number =>
    this.number('a percentage', { least: 0, most: 1 }, () => {
      if (!this.take('%')) this.fail('"%"');
      return { places: 2, write: (end) => `${end * 100} %` };
    });

  /** Centre, and width after "±", which has the unit of the centre: without it a step. */
  ramp(unit: CueUnit): { centre: number; width: number } {
    let places = 0;
    const centre = this.number('a number', ANYTHING, () => {
      if (unit === 'm') ({ places } = this.lengthUnit());
      else if (unit === '°') this.degreeSign();
      else if (unit === '1/m' && !this.take('/m')) this.expect('per metre');
      return { places };
    });
    if (!this.take('±')) return { centre, width: 0 };
    const half = this.number('half the width', { ...POSITIVE, most: POSITIVE.most / 2 }, () => ({ places }));
    if (unit === '°') ['°', 'degrees', 'deg'].some((s) => this.take(s));
    return { centre, width: half * 2 };
  }
  /** Which side of the number counts: false for the first word, true for the second. "under" and "below" are the same. */
  side([ordinary, inverted]: readonly [string, string]): boolean {
    const more: Record<string, string> = { under: 'below', below: 'under' };
    return this.expect(ordinary, inverted, ...(more[inverted] ? [more[inverted]] : [])) !== ordinary;
  }
  /** "by UV set 2"; nothing where the extent is meant. */
  set = (): { set?: UvSet } => (this.take('by UV set') ? { set: this.wholeNumber('the number of a set', { least: 1, most: 2 }) as UvSet } : {});
}
