import type { LaneDefinition, Lanes } from './lanes';
import { literal } from './operations/literal';
import type { DagNode, ValueType } from './types';
import { COMPONENTS } from './types';

interface Term {
  text: string;
  kind: 'float' | 'uint' | 'bool';
}
const XYZW = 'xyzw';

/** Lanes as GLSL statements, one variable a step: what an operation that is written in lanes alone draws on the GPU. */
class GlslLanes implements Lanes<Term> {
  readonly lines: string[] = [];
  private count = 0;

  private put(kind: Term['kind'], expression: string): Term {
    const text = `t${this.count++}`;
    this.lines.push(`${kind} ${text} = ${expression};`);
    return { text, kind };
  }
  private binary =
    (kind: Term['kind'], sign: string) =>
    (a: Term, b: Term): Term =>
      this.put(kind, `${a.text} ${sign} ${b.text}`);
  private call =
    (name: string) =>
    (...args: Term[]): Term =>
      this.put('float', `${name}(${args.map((a) => a.text).join(', ')})`);

  number = (value: number): Term => ({ text: value < 0 ? `(${literal(value)})` : literal(value), kind: 'float' });
  whole = (value: number): Term => ({ text: `${value >>> 0}u`, kind: 'uint' });
  add = this.binary('float', '+');
  subtract = this.binary('float', '-');
  multiply = this.binary('float', '*');
  divide = this.binary('float', '/');
  min = this.call('min');
  max = this.call('max');
  sqrt = this.call('sqrt');
  abs = this.call('abs');
  floor = this.call('floor');
  less = this.binary('bool', '<');
  equal = this.binary('bool', '==');
  both = this.binary('bool', '&&');
  select = (mask: Term, yes: Term, no: Term): Term => this.put(yes.kind, `${mask.text} ? ${yes.text} : ${no.text}`);
  whereAny(mask: Term, work: () => Term[], otherwise: readonly Term[]): Term[] {
    const results = otherwise.map((o) => this.put(o.kind, o.text));
    this.lines.push(`if (${mask.text}) {`);
    work().forEach((value, i) => this.lines.push(`${results[i].text} = ${value.text};`));
    this.lines.push('}');
    return results;
  }
  /** A loop: written out, eight octaves take a rasteriser half as long again as three in a loop. */
  repeat(times: Term, least: number, most: number, start: readonly Term[], step: (index: Term, state: readonly Term[]) => Term[]): Term[] {
    const state = start.map((s) => this.put(s.kind, s.text));
    const index: Term = { text: `t${this.count++}`, kind: 'float' };
    const end = this.put('float', `clamp(${times.text}, ${literal(least)}, ${literal(most)})`);
    this.lines.push(`for (float ${index.text} = 0.0; ${index.text} < ${end.text}; ${index.text} += 1.0) {`);
    // All of the next state is worked out before any of it is set.
    const next = step(index, state).map((value) => this.put(value.kind, value.text));
    next.forEach((value, i) => this.lines.push(`${state[i].text} = ${value.text};`));
    this.lines.push('}');
    return state;
  }
  toWhole = (a: Term): Term => this.put('uint', `uint(int(${a.text}))`);
  toFloat = (a: Term): Term => this.put('float', `float(${a.text})`);
  addWhole = this.binary('uint', '+');
  multiplyWhole = this.binary('uint', '*');
  xor = this.binary('uint', '^');
  shift = (a: Term, by: number): Term => this.put('uint', `${a.text} >> ${by}u`);
  toBits = (a: Term): Term => this.put('uint', `floatBitsToUint(${a.text})`);
  fromBits = (a: Term): Term => this.put('float', `uintBitsToFloat(${a.text})`);
}

/** A short name for a text. Source: FNV-1a, 32 bit. */
function nameOf(text: string): string {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return (hash >>> 0).toString(36);
}

/** A GLSL function for one application of an operation written in lanes, and the name to call it by. */
export function laneFunction(name: string, define: LaneDefinition, node: DagNode): { name: string; text: string } {
  const lanes = new GlslLanes();
  const types = node.args.map((a) => a.type);
  const components = (type: ValueType, variable: string): Term[] =>
    Array.from({ length: COMPONENTS[type] }, (_, c) => ({ text: type === 'float' ? variable : `${variable}.${XYZW[c]}`, kind: 'float' }));
  const out = define(
    lanes,
    types.map((type, i) => components(type, `a${i}`)),
    node,
  ).map((t) => t.text);
  const result = out.length === 1 ? out[0] : `${node.type}(${out.join(', ')})`;
  const parameters = types.map((type, i) => `${type} a${i}`).join(', ');
  const body = `(${parameters}) {\n  ${lanes.lines.join('\n  ')}\n  return ${result}; }`;
  // One operation may come in several bodies, by types, attributes and what is known of its inputs.
  const full = `pb_${name}_${nameOf(body)}`;
  return { name: full, text: `${node.type} ${full}${body}` };
}
