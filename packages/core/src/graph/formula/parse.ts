// Expressions of GLSL ES 3.00, without statements, calls of one's own and whole-number arithmetic.

/** A mistake in a formula, and where: characters `[from, to)`. */
export class FormulaError extends Error {
  constructor(
    message: string,
    readonly from: number,
    readonly to: number,
  ) {
    super(message);
    this.name = 'FormulaError';
  }
}

export type FormulaType = 'float' | 'vec2' | 'vec3' | 'vec4';
interface Placed {
  from: number;
  to: number;
}
export type Expression = Placed &
  (
    | { kind: 'number'; value: number }
    | { kind: 'truth'; value: boolean }
    | { kind: 'name'; name: string }
    | { kind: 'call'; name: string; args: Expression[]; open: number }
    | { kind: 'part'; of: Expression; parts: string }
    | { kind: 'index'; of: Expression; index: number }
    | { kind: 'sign'; sign: string; of: Expression }
    | { kind: 'pair'; sign: string; left: Expression; right: Expression }
    | { kind: 'choice'; test: Expression; yes: Expression; no: Expression }
  );

export interface ParsedFormula {
  body: Expression;
  /** Inputs in the order of their first mention, with the type that was declared; null takes what comes. */
  inputs: { name: string; type: FormulaType | null }[];
}

/** Characters of a formula at most. */
export const MAX_FORMULA = 4000;
/** Brackets in brackets at most. */
const MAX_DEPTH = 120;
const MAX_INPUTS = 16;
export const FORMULA_TYPES: readonly FormulaType[] = ['float', 'vec2', 'vec3', 'vec4'];
const isType = (text: string): text is FormulaType => (FORMULA_TYPES as readonly string[]).includes(text);
/** Words of GLSL ES 3.00 that no input may have, as far as somebody would choose them. */
const RESERVED = new Set(
  'in out inout uniform const void bool int uint if else for while do return discard break continue struct mat2 mat3 mat4 ivec2 ivec3 ivec4 bvec2 bvec3 bvec4 sampler2D highp mediump lowp precision switch case default true false input output filter common active partition'.split(
    ' ',
  ),
);

interface Token extends Placed {
  kind: 'number' | 'name' | 'sign' | 'end';
  text: string;
}
const SIGNS = ['<=', '>=', '==', '!=', '&&', '||', '^^', '<', '>', '+', '-', '*', '/', '%', '!', '?', ':', '(', ')', '[', ']', ',', '.', ';', '='];
/** How tightly two-sided signs bind. */
const BINDS: Readonly<Record<string, number>> = {
  '||': 1,
  '^^': 2,
  '&&': 3,
  '==': 4,
  '!=': 4,
  '<': 5,
  '>': 5,
  '<=': 5,
  '>=': 5,
  '+': 6,
  '-': 6,
  '*': 7,
  '/': 7,
};

function tokens(text: string): Token[] {
  const list: Token[] = [];
  let at = 0;
  const rest = () => text.slice(at);
  while (at < text.length) {
    const blank = /^(\s+|\/\/[^\n]*|\/\*[\s\S]*?\*\/)/.exec(rest());
    if (blank) {
      at += blank[0].length;
      continue;
    }
    const number = /^((\d+\.\d*|\.\d+)([eE][+-]?\d+)?|\d+[eE][+-]?\d+|\d+)([fFuU]?)/.exec(rest());
    const name = /^[A-Za-z_]\w*/.exec(rest());
    const sign = SIGNS.find((s) => text.startsWith(s, at));
    const found = name?.[0] ?? number?.[0] ?? sign;
    if (!found) throw new FormulaError(`"${text[at]}" has no place in a formula`, at, at + 1);
    list.push({ kind: name ? 'name' : number ? 'number' : 'sign', text: found, from: at, to: at + found.length });
    at += found.length;
  }
  list.push({ kind: 'end', text: '', from: text.length, to: text.length });
  return list;
}

class Parser {
  private readonly list: Token[];
  private at = 0;
  private depth = 0;
  readonly inputs = new Map<string, FormulaType | null>();

  constructor(text: string) {
    this.list = tokens(text);
  }

  private get token(): Token {
    return this.list[this.at];
  }
  private take = (text: string): boolean => this.token.kind !== 'number' && this.token.text === text && this.at++ >= 0;
  private fail(message: string, { from, to }: Placed = this.token): never {
    throw new FormulaError(message, from, Math.max(to, from + 1));
  }
  private want(text: string, why: string): void {
    if (!this.take(text))
      this.fail(this.token.kind === 'end' ? `It ends before ${text} ${why}` : `${text} is missing before "${this.token.text}" ${why}`);
  }

  /** `in vec3 tint;` says of which type an input is. */
  declarations(): void {
    while (this.token.text === 'in' && this.token.kind === 'name') {
      this.at++;
      const type = this.token;
      if (!isType(type.text)) this.fail(`After "in" comes a type: ${FORMULA_TYPES.join(', ')}`);
      this.at++;
      const name = this.token;
      if (name.kind !== 'name') this.fail('After the type comes the name of the input');
      this.at++;
      this.want(';', 'after a declaration');
      this.named(name, type.text);
    }
  }

  private named(token: Token, type: FormulaType | null): void {
    const { text } = token;
    if (RESERVED.has(text) || isType(text)) this.fail(`${text} is a word of the language. Call the input something else`, token);
    if (text.startsWith('gl_') || text.includes('__'))
      this.fail(`Names that begin with gl_ or hold __ are kept for the language. Call the input something else`, token);
    if (text.length > 64) this.fail('This name is longer than 64 letters', token);
    if (type !== null && this.inputs.has(text)) this.fail(`${text} is declared twice`, token);
    if (!this.inputs.has(text)) this.inputs.set(text, type);
    if (this.inputs.size > MAX_INPUTS) this.fail(`A formula takes ${MAX_INPUTS} inputs at most. Make two of it`, token);
  }

  whole(): Expression {
    const body = this.expression();
    this.take(';');
    if (this.token.kind !== 'end') {
      if (this.token.text === '=') this.fail('A formula is one expression: it sets no variables. Write what they stand for');
      this.fail(`An operator is missing before "${this.token.text}"`);
    }
    return body;
  }

  private deeper<T>(work: () => T): T {
    if (++this.depth > MAX_DEPTH) this.fail(`More than ${MAX_DEPTH} brackets within each other. Make two formulas of it`);
    const made = work();
    this.depth--;
    return made;
  }

  private expression = (): Expression =>
    this.deeper(() => {
      const test = this.pairs(0);
      if (!this.take('?')) return test;
      const yes = this.expression();
      this.want(':', 'after what is taken where the test holds');
      const no = this.expression();
      return { kind: 'choice', test, yes, no, from: test.from, to: no.to };
    });

  private pairs(least: number): Expression {
    let left = this.signed();
    for (;;) {
      const { kind, text } = this.token;
      if (kind === 'sign' && text === '%') this.fail('% is for whole numbers. Write mod(a, b)');
      const binds = kind === 'sign' ? (BINDS[text] ?? 0) : 0;
      if (binds <= least) return left;
      this.at++;
      const right = this.deeper(() => this.pairs(binds));
      left = { kind: 'pair', sign: text, left, right, from: left.from, to: right.to };
    }
  }

  private signed(): Expression {
    const { text, from, kind } = this.token;
    if (kind === 'sign' && (text === '-' || text === '+' || text === '!')) {
      this.at++;
      const of = this.deeper(() => this.signed());
      return { kind: 'sign', sign: text, of, from, to: of.to };
    }
    let value = this.single();
    for (;;) {
      if (this.take('.')) {
        const parts = this.token;
        if (parts.kind !== 'name') this.fail('After the point come components: x y z w, or r g b a');
        this.at++;
        value = { kind: 'part', of: value, parts: parts.text, from: value.from, to: parts.to };
      } else if (this.take('[')) {
        const index = this.token;
        if (index.kind !== 'number' || !/^\d+$/.test(index.text)) this.fail('Between [ and ] stands the number of a component, from 0');
        this.at++;
        this.want(']', 'after the number of a component');
        value = { kind: 'index', of: value, index: Number(index.text), from: value.from, to: this.list[this.at - 1].to };
      } else return value;
    }
  }

  private single(): Expression {
    const token = this.token;
    const { from, to, text } = token;
    if (token.kind === 'end') this.fail('Something is missing at the end');
    this.at++;
    if (token.kind === 'number') {
      if (/[uU]$/.test(text)) this.fail('Whole numbers without a sign have no place here. Leave the u away', token);
      const value = Number(text.replace(/[fF]$/, ''));
      if (!Number.isFinite(value) || Math.abs(value) > 3.4e38) this.fail('This number is larger than a float holds', token);
      return { kind: 'number', value, from, to };
    }
    if (token.kind === 'name') {
      if (text === 'true' || text === 'false') return { kind: 'truth', value: text === 'true', from, to };
      if (this.take('(')) return this.call(token);
      if (isType(text)) this.fail(`${text} is a type: write ${text}(…)`, token);
      this.named(token, null);
      return { kind: 'name', name: text, from, to };
    }
    if (text === '(') {
      const inside = this.expression();
      if (this.token.text === ',') this.fail('A comma outside a call has no use in a formula');
      this.want(')', 'that closes the bracket');
      return { ...inside, from, to: this.list[this.at - 1].to };
    }
    return this.fail(`A number, an input or a function is expected here, not "${text}"`, token);
  }

  private call({ text, from }: Token): Expression {
    const args: Expression[] = [];
    const open = this.list[this.at - 1].from;
    if (!this.take(')')) {
      do args.push(this.expression());
      while (this.take(','));
      this.want(')', `that ends ${text}(…)`);
    }
    return { kind: 'call', name: text, args, open, from, to: this.list[this.at - 1].to };
  }
}

/** @throws FormulaError that names the characters */
export function parseFormula(text: string): ParsedFormula {
  if (text.length > MAX_FORMULA)
    throw new FormulaError(`A formula has ${MAX_FORMULA} characters at most, this one ${text.length}. Make several of it`, MAX_FORMULA, text.length);
  if (!text.trim()) throw new FormulaError('Write an expression, such as clamp((mask - level) * steps, 0.0, 1.0)', 0, 0);
  const parser = new Parser(text);
  parser.declarations();
  const body = parser.whole();
  return { body, inputs: [...parser.inputs].map(([name, type]) => ({ name, type })) };
}
