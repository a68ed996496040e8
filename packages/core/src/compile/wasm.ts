// The second half of the CPU back end: fused loops in WebAssembly, four pixels a step. A run of operations becomes one
// loop in which what only they need never leaves the registers. Encoding: WebAssembly Core Specification 2.0, 5 (binary
// format) and its vector instructions.
import type { Lanes } from './lanes';
import { writtenOut } from './lanes';

/** Runs over so many groups of four pixels; pointers are bytes from the start of the memory. */
export type Loop = (groups: number, ...pointers: number[]) => void;

/** Just what is used, as the types of neither a browser nor Node belong here. */
interface WasmApi {
  Module: new (bytes: Uint8Array) => object;
  Instance: new (module: object, imports: object) => { exports: { run: Loop } };
  Memory: new (limits: { initial: number }) => { buffer: ArrayBuffer };
}
const api = (globalThis as unknown as { WebAssembly: WasmApi }).WebAssembly;
const PAGE = 65536;

export const makeMemory = (bytes: number) => new api.Memory({ initial: Math.max(1, Math.ceil(bytes / PAGE)) });
export type WasmMemory = ReturnType<typeof makeMemory>;

const unsigned = (value: number): number[] => {
  const out: number[] = [];
  do {
    const byte = value & 0x7f;
    value >>>= 7;
    out.push(value ? byte | 0x80 : byte);
  } while (value);
  return out;
};
const text = (name: string): number[] => [...unsigned(name.length), ...[...name].map((c) => c.charCodeAt(0))];

/** Bytes that grow at their end. */
class Bytes {
  private held = new Uint8Array(4096);
  length = 0;

  private room(count: number): void {
    if (this.length + count <= this.held.length) return;
    const larger = new Uint8Array(2 * (this.length + count));
    larger.set(this.held.subarray(0, this.length));
    this.held = larger;
  }
  add(bytes: ArrayLike<number>): this {
    const { length } = bytes;
    this.room(length);
    const { held, length: at } = this;
    // Instructions are a few bytes each, and there are tens of thousands: a loop is quicker than a copy.
    if (length < 32) for (let i = 0; i < length; i++) held[at + i] = bytes[i];
    else held.set(bytes, at);
    this.length = at + length;
    return this;
  }
  /** An instruction and the local it is about. */
  local(instruction: number, index: number): this {
    this.room(6);
    const { held } = this;
    let at = this.length;
    held[at++] = instruction;
    for (; index > 0x7f; index >>>= 7) held[at++] = (index & 0x7f) | 0x80;
    held[at++] = index;
    this.length = at;
    return this;
  }
  /** Bytes behind their number. */
  sized = (bytes: ArrayLike<number>): this => this.add(unsigned(bytes.length)).add(bytes);
  all = (): Uint8Array => this.held.subarray(0, this.length);
}

const V128 = 0x7b;
const I32 = 0x7f;
const SIMD_CODES: number[][] = [];
const simd = (opcode: number): number[] => (SIMD_CODES[opcode] ??= [0xfd, ...unsigned(opcode)]);
const SIMD = {
  load: 0,
  loadSplat: 9,
  store: 11,
  constant: 12,
  shuffle: 13,
  wholeSplat: 17,
  wholeLane: 27,
  wholeReplace: 28,
  bitselect: 82,
  anyTrue: 83,
  equal: 65,
  less: 67,
  and: 78,
  xor: 81,
  wholeShift: 173,
  wholeAdd: 174,
  wholeMultiply: 181,
  floor: 104,
  abs: 224,
  sqrt: 227,
  add: 228,
  subtract: 229,
  multiply: 230,
  divide: 231,
  pmin: 234,
  pmax: 235,
  toWhole: 248,
  toFloatSigned: 250,
  toFloat: 251,
} as const;

const float = new Float32Array(1);
const word = new Int32Array(float.buffer);
const bitsOf = (value: number): number => {
  float[0] = value;
  return word[0];
};

/** What lies at an address: its load instruction and its alignment, as a power of two. */
const CELLS = { byte: [0x2d, 0], word: [0x2f, 1], real: [0x28, 2] } as const;
export type CellKind = keyof typeof CELLS;

/** A value in the making: which local of the loop holds it is decided when all its uses are known. */
type Value = number;

/** Bytes, the values that are pushed after them, bytes that work on those, and the value that takes the result. */
interface Step {
  before: readonly number[];
  args: readonly Value[];
  after: readonly number[];
  out: Value | null;
}

/**
 * The body of one loop in the making. Offsets are in bytes from the start of the memory, or from a pointer (numbered from
 * 1) that is given at every run.
 */
export class LoopEmitter implements Lanes<Value> {
  private readonly steps: Step[] = [];
  /** Made once before the loop, and kept through it. */
  private readonly prelude: Step[] = [];
  private readonly constants = new Map<number, Value>();
  private readonly steadies = new Map<number, Value>();
  private values = 0;

  constructor(private readonly pointers = 0) {}

  private step(before: readonly number[], args: readonly Value[], after: readonly number[], out: Value | null = null): void {
    this.steps.push({ before, args, after, out });
  }
  private make(before: readonly number[], args: readonly Value[], after: readonly number[]): Value {
    this.step(before, args, after, this.values);
    return this.values++;
  }
  private apply = (opcode: number, ...args: Value[]): Value => this.make([], args, simd(opcode));
  private once(constants: Map<number, Value>, key: number, code: () => number[]): Value {
    let value = constants.get(key);
    if (value === undefined) {
      value = this.values++;
      this.prelude.push({ before: code(), args: [], after: [], out: value });
      constants.set(key, value);
    }
    return value;
  }
  private literal = (bits: number): Value =>
    this.once(this.constants, bits, () => {
      const word = [bits & 255, (bits >> 8) & 255, (bits >> 16) & 255, bits >>> 24];
      return [...simd(SIMD.constant), ...word, ...word, ...word, ...word];
    });

  private address = (pointer: number): number[] => (pointer ? [0x20, 0, 0x20, ...unsigned(pointer), 0x6a] : [0x20, 0]);
  /** Four pixels of a plane. */
  load = (offset: number, pointer = 0): Value => this.make([...this.address(pointer), ...simd(SIMD.load), 4, ...unsigned(offset)], [], []);
  /** One number for all pixels, read once before the loop. */
  loadSteady = (offset: number): Value => this.once(this.steadies, offset, () => [0x41, 0, ...simd(SIMD.loadSplat), 2, ...unsigned(offset)]);
  store(offset: number, value: Value, pointer = 0): void {
    this.step(this.address(pointer), [value], [...simd(SIMD.store), 4, ...unsigned(offset)]);
  }
  /** Sixteen bytes where the four pixels of a step begin, `cell` bytes a pixel, from a pointer on. */
  loadRow = (pointer: number, cell: number): Value =>
    this.make([0x20, 0, 0x41, 2, 0x76, 0x41, ...unsigned(cell), 0x6c, 0x20, ...unsigned(pointer), 0x6a, ...simd(SIMD.load), 0, 0], [], []);
  /** A whole number below 2³¹ as a float: many times faster than one that may be larger. */
  smallToFloat = (a: Value) => this.apply(SIMD.toFloatSigned, a);
  /** Bytes of a value by their numbers, 16 and above being zero. */
  pick = (value: Value, bytes: readonly number[]): Value => this.make([], [value, this.whole(0)], [...simd(SIMD.shuffle), ...bytes]);
  /** A pointer, as a whole number for all pixels. */
  pointer = (pointer: number): Value => this.make([0x20, ...unsigned(pointer), ...simd(SIMD.wholeSplat)], [], []);
  /** What lies at each pixel's own address, in bytes, and a fixed offset: bytes and words as whole numbers, floats as they are. */
  gather(kind: CellKind, addresses: Value, offset = 0): Value {
    const [load, alignment] = CELLS[kind];
    let gathered = this.whole(0);
    for (let lane = 0; lane < 4; lane++)
      gathered = this.make(
        [],
        [gathered, addresses],
        [...simd(SIMD.wholeLane), lane, load, alignment, ...unsigned(offset), ...simd(SIMD.wholeReplace), lane],
      );
    return gathered;
  }
  /** Puts a whole 1 at a place when the mask holds for any pixel. */
  note(offset: number, mask: Value): void {
    this.step([], [mask], [...simd(SIMD.anyTrue), 0x04, 0x40, 0x41, 0, 0x41, 1, 0x36, 2, ...unsigned(offset), 0x0b]);
  }

  number = (value: number) => this.literal(bitsOf(value));
  whole = (value: number) => this.literal(value | 0);
  add = (a: Value, b: Value) => this.apply(SIMD.add, a, b);
  subtract = (a: Value, b: Value) => this.apply(SIMD.subtract, a, b);
  multiply = (a: Value, b: Value) => this.apply(SIMD.multiply, a, b);
  divide = (a: Value, b: Value) => this.apply(SIMD.divide, a, b);
  min = (a: Value, b: Value) => this.apply(SIMD.pmin, a, b);
  max = (a: Value, b: Value) => this.apply(SIMD.pmax, a, b);
  sqrt = (a: Value) => this.apply(SIMD.sqrt, a);
  abs = (a: Value) => this.apply(SIMD.abs, a);
  floor = (a: Value) => this.apply(SIMD.floor, a);
  less = (a: Value, b: Value) => this.apply(SIMD.less, a, b);
  equal = (a: Value, b: Value) => this.apply(SIMD.equal, a, b);
  both = (a: Value, b: Value) => this.apply(SIMD.and, a, b);
  select = (mask: Value, yes: Value, no: Value) => this.apply(SIMD.bitselect, yes, no, mask);
  toWhole = (a: Value) => this.apply(SIMD.toWhole, a);
  toFloat = (a: Value) => this.apply(SIMD.toFloat, a);
  addWhole = (a: Value, b: Value) => this.apply(SIMD.wholeAdd, a, b);
  multiplyWhole = (a: Value, b: Value) => this.apply(SIMD.wholeMultiply, a, b);
  xor = (a: Value, b: Value) => this.apply(SIMD.xor, a, b);
  shift = (a: Value, count: number) => this.make([], [a], [0x41, ...unsigned(count), ...simd(SIMD.wholeShift)]);
  // A register holds bits, whatever they are taken for.
  toBits = (a: Value) => a;
  fromBits = (a: Value) => a;
  whereAny(mask: Value, work: () => Value[], otherwise: readonly Value[]): Value[] {
    const results = otherwise.map((value) => this.make([], [value], []));
    this.step([], [mask], [...simd(SIMD.anyTrue), 0x04, 0x40]);
    work().forEach((value, i) => this.step([], [this.select(mask, value, results[i])], [], results[i]));
    this.step([], [], [0x0b]);
    return results;
  }
  repeat: Lanes<Value>['repeat'] = writtenOut<Value>(this);

  /**
   * Gives every value a local, and locals on to later values once theirs was read for the last time: engines take long
   * over functions with many locals, and what is spilled then stays near the processor. A value lives from its first step
   * to its last, blocks included.
   */
  private place(first: number): { prelude: Uint8Array; code: Uint8Array; count: number } {
    const last = new Int32Array(this.values).fill(-1);
    this.steps.forEach(({ args, out }, at) => {
      for (const value of args) last[value] = at;
      if (out !== null) last[out] = at;
    });
    const places = new Int32Array(this.values).fill(-1);
    let count = 0;
    const prelude = new Bytes();
    for (const { before, out } of this.prelude) {
      places[out as Value] = first + count++;
      prelude.add(before).local(0x21, places[out as Value]);
    }
    const kept = first + count;
    const code = new Bytes();
    const free: number[] = [];
    for (let at = 0; at < this.steps.length; at++) {
      const { before, args, after, out } = this.steps[at];
      if (before.length) code.add(before);
      for (let i = 0; i < args.length; i++) code.local(0x20, places[args[i]]);
      if (after.length) code.add(after);
      for (let i = 0; i < args.length; i++) {
        const value = args[i];
        if (last[value] !== at || places[value] < kept) continue;
        free.push(places[value]);
        // Taken twice by one step, it is given back once.
        last[value] = -1;
      }
      if (out === null) continue;
      if (places[out] < 0) places[out] = free.pop() ?? first + count++;
      code.local(0x21, places[out]);
      if (last[out] === at) free.push(places[out]);
    }
    return { prelude: prelude.all(), code: code.all(), count };
  }

  build(memory: WasmMemory): Loop {
    const end = 1 + this.pointers;
    const { prelude, code, count } = this.place(end + 1);
    const body = new Bytes()
      .add([...unsigned(2), 1, I32, ...unsigned(count), V128])
      .add(prelude)
      // Local 0, the count, becomes the end in bytes; local 0 then runs from 0 in steps of 16.
      .add([0x20, 0, 0x41, 4, 0x74, 0x21, end, 0x41, 0, 0x21, 0])
      .add([0x02, 0x40, 0x03, 0x40, 0x20, 0, 0x20, end, 0x4f, 0x0d, 1])
      .add(code)
      .add([0x20, 0, 0x41, 16, 0x6a, 0x21, 0, 0x0c, 0, 0x0b, 0x0b, 0x0b]);
    const module = new Bytes().add([0x00, 0x61, 0x73, 0x6d, 1, 0, 0, 0]);
    const section = (id: number, content: ArrayLike<number>) => module.add([id]).sized(content);
    section(1, [1, 0x60, ...unsigned(end), ...new Array<number>(end).fill(I32), 0]);
    section(2, [1, ...text('a'), ...text('m'), 2, 0, 1]);
    section(3, [1, 0]);
    section(7, [1, ...text('run'), 0, 0]);
    section(10, new Bytes().add([1]).sized(body.all()).all());
    return new api.Instance(new api.Module(module.all()), { a: { m: memory } }).exports.run;
  }
}
