import type { Lanes } from './lanes';
import type { DagNode } from './types';
import { COMPONENTS } from './types';
import { operation } from './registry';

/** Arithmetic by class, in the units of the price. */
const [PLAIN, ROOT] = [1, 2];

/** Lanes that count what is done in them. A value is a number where it is known, else NaN. */
class CountingLanes implements Lanes<number> {
  total = 0;
  private readonly counted =
    (cost: number, work: (...given: number[]) => number = () => Number.NaN) =>
    (...given: number[]): number => {
      this.total += cost;
      return work(...given);
    };

  number = (value: number): number => value;
  whole = (value: number): number => value;
  add = this.counted(PLAIN, (a, b) => a + b);
  subtract = this.counted(PLAIN, (a, b) => a - b);
  multiply = this.counted(PLAIN, (a, b) => a * b);
  divide = this.counted(ROOT);
  min = this.counted(PLAIN);
  max = this.counted(PLAIN);
  sqrt = this.counted(ROOT);
  abs = this.counted(PLAIN);
  floor = this.counted(PLAIN, Math.floor);
  less = this.counted(PLAIN);
  equal = this.counted(PLAIN);
  both = this.counted(PLAIN);
  select = this.counted(PLAIN);
  toWhole = this.counted(PLAIN);
  toFloat = this.counted(PLAIN);
  addWhole = this.counted(PLAIN);
  multiplyWhole = this.counted(PLAIN);
  xor = this.counted(PLAIN);
  shift = this.counted(PLAIN);
  // The same register, looked at otherwise.
  toBits = this.counted(0);
  fromBits = this.counted(0);

  /** Some pixel of a group wants it. */
  whereAny = (_: number, work: () => number[]): number[] => work();

  /** As often as it will run; as often as it may where that is not known. */
  repeat(
    times: number,
    least: number,
    most: number,
    start: readonly number[],
    step: (index: number, state: readonly number[]) => number[],
  ): number[] {
    const before = this.total;
    const state = step(Number.NaN, start);
    const once = this.total - before;
    const runs = Number.isNaN(times) ? most : Math.min(most, Math.max(least, times));
    this.total = before + once * runs;
    return state;
  }
}

/** What one application of an operation written in lanes costs, as often as its loops run. @param valueOf a number that is known, else NaN */
export function countedCost(node: DagNode, valueOf: (input: DagNode) => number): number {
  const lanes = new CountingLanes();
  const args = node.args.map((a) => Array.from({ length: COMPONENTS[a.type] }, () => valueOf(a)));
  operation(node.op).lanes?.(lanes, args, node);
  return lanes.total;
}
