import type { Lanes } from '@pebble/core';
import type { Node } from './xml';
import { element } from './xml';

/** Something that MaterialX's standard nodes cannot say: whole numbers and the bits of floats. */
export class NotStandard extends Error {}

interface Float {
  kind: 'float';
  /** A number, or the name of the node that gives it. */
  value?: number;
  node?: string;
}
interface Mask {
  kind: 'mask';
  choose: (yes: Float, no: Float) => Float;
}
export type Term = Float | Mask;

const refuse = (): never => {
  throw new NotStandard();
};

/** Lanes as standard nodes on floats: what an operation of ours is made of, for readers that do not know it. */
export class StandardLanes implements Lanes<Term> {
  readonly nodes: Node[] = [];
  constructor(private readonly prefix = 'k') {}

  /** An input of a float that is a number or the output of a node. */
  readonly input = (name: string, term: Term): Node => {
    const { value, node } = term as Float;
    return element('input', { name, type: 'float', ...(node === undefined ? { value: String(value) } : { nodename: node }) });
  };
  readonly put = (category: string, inputs: readonly Node[], type = 'float'): Float => {
    const node = `${this.prefix}${this.nodes.length}`;
    this.nodes.push(element(category, { name: node, type }, inputs));
    return { kind: 'float', node };
  };
  private readonly pair =
    (category: string) =>
    (a: Term, b: Term): Term =>
      this.put(category, [this.input('in1', a), this.input('in2', b)]);
  private readonly one =
    (category: string) =>
    (a: Term): Term =>
      this.put(category, [this.input('in', a)]);
  private readonly compare = (category: string, a: Term, b: Term): Mask => ({
    kind: 'mask',
    choose: (yes, no) => this.put(category, [this.input('value1', a), this.input('value2', b), this.input('in1', yes), this.input('in2', no)]),
  });

  number = (value: number): Term => ({ kind: 'float', value: Math.fround(value) });
  add = this.pair('add');
  subtract = this.pair('subtract');
  multiply = this.pair('multiply');
  divide = this.pair('divide');
  min = this.pair('min');
  max = this.pair('max');
  sqrt = this.one('sqrt');
  abs = this.one('absval');
  floor = this.one('floor');
  less = (a: Term, b: Term): Term => this.compare('ifgreater', b, a);
  equal = (a: Term, b: Term): Term => this.compare('ifequal', a, b);
  both = (a: Term, b: Term): Term => ({ kind: 'mask', choose: (yes, no) => (a as Mask).choose((b as Mask).choose(yes, no), no) });
  select = (mask: Term, yes: Term, no: Term): Term => (yes.kind === 'mask' || no.kind === 'mask' ? refuse() : (mask as Mask).choose(yes, no));
  whereAny = (mask: Term, work: () => Term[], otherwise: readonly Term[]): Term[] => work().map((value, i) => this.select(mask, value, otherwise[i]));
  repeat = refuse;
  toWhole = refuse;
  toFloat = refuse;
  whole = refuse;
  addWhole = refuse;
  multiplyWhole = refuse;
  xor = refuse;
  shift = refuse;
  toBits = refuse;
  fromBits = refuse;
}
