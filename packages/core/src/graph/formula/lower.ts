import type { Builder, DagNode, ValueType } from '../../compile';
import { COMPONENTS } from '../../compile';
import { swizzleOf } from '../steps/swizzle';
import { FORMULA_FUNCTIONS } from './functions';
import type { Expression, FormulaType } from './parse';
import { FORMULA_TYPES, FormulaError } from './parse';

/** A value of a formula: a truth is a number that is 0 or 1. */
interface Typed {
  node: DagNode;
  truth: boolean;
}
const XYZW = 'xyzw';
const called = ({ node, truth }: Typed): string => (truth ? 'bool' : node.type);

/**
 * An expression as nodes, with GLSL's types: vectors of one size, or a vector and a float; nothing else converts. Whole
 * numbers are taken for floats.
 * @param input what an input is
 * @throws FormulaError that names the characters
 */
export function lowerFormula(b: Builder, body: Expression, input: (name: string) => DagNode): DagNode {
  const result = new Lowering(b, input).of(body);
  return result.node;
}

class Lowering {
  constructor(
    private readonly b: Builder,
    private readonly input: (name: string) => DagNode,
  ) {}

  private fail(message: string, { from, to }: Pick<Expression, 'from' | 'to'>): never {
    throw new FormulaError(message, from, to);
  }
  private number(e: Expression): DagNode {
    const value = this.of(e);
    if (value.truth) this.fail('This is a bool where a number is wanted. Write test ? 1.0 : 0.0', e);
    return value.node;
  }
  private truth(e: Expression): DagNode {
    const value = this.of(e);
    if (!value.truth) this.fail(`This is a ${value.node.type} where a test is wanted, such as a > b`, e);
    return value.node;
  }
  private holds = (node: DagNode): Typed => ({ node, truth: true });
  private is = (node: DagNode): Typed => ({ node, truth: false });

  of(e: Expression): Typed {
    const { b } = this;
    if (e.kind === 'number') return this.is(b.constant(e.value));
    if (e.kind === 'truth') return this.holds(b.constant(e.value ? 1 : 0));
    if (e.kind === 'name') return this.is(this.input(e.name));
    if (e.kind === 'part') return this.is(this.parts(this.number(e.of), e.parts, e));
    if (e.kind === 'index') {
      const of = this.number(e.of);
      if (of.type === 'float') this.fail('A float has no components', e);
      if (e.index >= COMPONENTS[of.type]) this.fail(`A ${of.type} has components 0 to ${COMPONENTS[of.type] - 1}`, e);
      return this.is(b.extract(of, e.index));
    }
    if (e.kind === 'sign') {
      if (e.sign === '!') return this.holds(b.invert(this.truth(e.of)));
      const of = this.number(e.of);
      return this.is(e.sign === '-' ? b.subtract(b.zero(of.type), of) : of);
    }
    if (e.kind === 'choice') {
      const test = this.truth(e.test);
      const [yes, no] = [this.of(e.yes), this.of(e.no)];
      if (called(yes) !== called(no)) this.fail(`Both sides of : have to be of one type, not ${called(yes)} and ${called(no)}`, e);
      return { node: b.node('ifgreater', [test, b.constant(0.5), yes.node, no.node]), truth: yes.truth };
    }
    if (e.kind === 'pair') return this.pair(e);
    return this.is(this.call(e));
  }

  private parts(of: DagNode, text: string, e: Expression): DagNode {
    const { b } = this;
    const picked = swizzleOf(text);
    if (!picked) this.fail(`.${text} names no components: one to four of x y z w, or of r g b a`, e);
    if (of.type === 'float') this.fail(`A float has no component .${text}. Feed a vector, or declare the input: in vec3 name;`, e);
    const beyond = picked.find((i) => i >= COMPONENTS[of.type]);
    if (beyond !== undefined) this.fail(`A ${of.type} has no component ${XYZW[beyond]}`, e);
    const nodes = picked.map((i) => b.extract(of, i));
    return nodes.length === 1 ? nodes[0] : b.combine(...nodes);
  }

  private pair(e: Extract<Expression, { kind: 'pair' }>): Typed {
    const { b } = this;
    const { sign, left, right } = e;
    if (sign === '&&') return this.holds(b.multiply(this.truth(left), this.truth(right)));
    if (sign === '||') return this.holds(b.max(this.truth(left), this.truth(right)));
    if (sign === '^^') return this.holds(b.node('absval', [b.subtract(this.truth(left), this.truth(right))]));
    const [one, zero] = [b.constant(1), b.constant(0)];
    if (sign === '==' || sign === '!=') {
      const [x, y] = [this.of(left), this.of(right)];
      if (called(x) !== called(y)) this.fail(`${sign} compares two of one type, not ${called(x)} and ${called(y)}`, e);
      const parts = Array.from({ length: COMPONENTS[x.node.type] }, (_, i) =>
        b.node('ifequal', [b.extract(x.node, i), b.extract(y.node, i), one, zero]),
      );
      const same = parts.reduce((p, q) => b.multiply(p, q));
      return this.holds(sign === '==' ? same : b.invert(same));
    }
    const [x, y] = [this.number(left), this.number(right)];
    if (['<', '>', '<=', '>='].includes(sign)) {
      if (x.type !== 'float' || y.type !== 'float')
        this.fail(`${sign} compares floats, not ${x.type} and ${y.type}. Compare components or lengths`, e);
      const [high, low] = sign.startsWith('<') ? [y, x] : [x, y];
      return this.holds(b.node(sign.length > 1 ? 'ifgreatereq' : 'ifgreater', [high, low, one, zero]));
    }
    if (x.type !== y.type && x.type !== 'float' && y.type !== 'float') this.fail(`${x.type} ${sign} ${y.type}: sizes differ`, e);
    const name = { '+': 'add', '-': 'subtract', '*': 'multiply', '/': 'divide' }[sign] as string;
    return this.is(b.node(name, [x, y]));
  }

  private call(e: Extract<Expression, { kind: 'call' }>): DagNode {
    const { b } = this;
    const { name } = e;
    const place = { from: e.from, to: e.from + name.length };
    if ((FORMULA_TYPES as readonly string[]).includes(name)) return this.made(e, name as FormulaType);
    const found = Object.hasOwn(FORMULA_FUNCTIONS, name) ? FORMULA_FUNCTIONS[name] : undefined;
    if (!found) this.fail(`There is no function ${name}${nearest(name)}`, place);
    const args = e.args.map((a) => this.number(a));
    const types = args.map((a) => a.type);
    if (!found.calls.some((call) => fits(call, types)))
      this.fail(
        found.calls.every((c) => c.length !== args.length)
          ? `${name} takes ${[...new Set(found.calls.map((c) => c.length))].join(' or ')} ${found.calls[0].length === 1 && found.calls.length === 1 ? 'value' : 'values'}, not ${args.length}`
          : `${name}(${types.join(', ')}) does not fit: ${found.calls.map((c) => `${name}(${spelled(c)})`).join(' or ')}`,
        args.length ? e : place,
      );
    return found.lower(b, args);
  }

  /** vec3(1.0), vec4(rgb, a), float(v). */
  private made(e: Extract<Expression, { kind: 'call' }>, type: FormulaType): DagNode {
    const { b } = this;
    const wanted = COMPONENTS[type];
    const values = e.args.map((a) => this.of(a).node);
    const parts = values.flatMap((v) => Array.from({ length: COMPONENTS[v.type] }, (_, i) => b.extract(v, i)));
    if (!parts.length) this.fail(`${type}() needs a value`, e);
    if (values.length === 1 && parts.length === 1) return wanted === 1 ? parts[0] : b.combine(...new Array<DagNode>(wanted).fill(parts[0]));
    if (parts.length < wanted) this.fail(`${type} needs ${wanted} numbers, here are ${parts.length}`, e);
    // A longer vector gives its first components, but no argument may be left over.
    const before = parts.length - COMPONENTS[values[values.length - 1].type];
    if (before >= wanted) this.fail(`${type} takes ${wanted} numbers, here are ${parts.length}`, e);
    return wanted === 1 ? parts[0] : b.combine(...parts.slice(0, wanted));
  }
}

const spelled = (call: string): string => [...call].map((c) => ({ G: 'float or vector', F: 'float', V: 'vec3' })[c]).join(', ');

function fits(call: string, types: readonly ValueType[]): boolean {
  if (call.length !== types.length) return false;
  const general = new Set(types.filter((_, i) => call[i] === 'G'));
  return general.size <= 1 && types.every((t, i) => call[i] === 'G' || t === (call[i] === 'F' ? 'float' : 'vec3'));
}

/** A function that is spelled almost so. */
function nearest(name: string): string {
  const known = Object.keys(FORMULA_FUNCTIONS);
  const found = known.find((k) => k.toLowerCase() === name.toLowerCase() || distance(k, name) === 1);
  return found ? `. Did you mean ${found}?` : '';
}
/** Letters to change, add or leave out, as far as it matters. Source: Levenshtein, 1966. */
function distance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) next[j] = Math.min(row[j] + 1, next[j - 1] + 1, row[j - 1] + (a[i - 1] === b[j - 1] ? 0 : 1));
    row = next;
  }
  return row[b.length];
}
