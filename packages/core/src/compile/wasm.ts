// The second half of the CPU back end: fused loops in WebAssembly, four pixels a step. A run of operations becomes one
// loop in which what only they need never leaves the registers. Encoding: WebAssembly Core Specification 2.0, 5 (binary
// format) and its vector instructions.
import type { Lanes } from './lanes';

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
const sized = (bytes: readonly number[]): number[] => [...unsigned(bytes.length), ...bytes];
const text = (name: string): number[] => sized([...name].map((c) => c.charCodeAt(0)));

const V128 = 0x7b;
const I32 = 0x7f;
const simd = (opcode: number): number[] => [0xfd, ...unsigned(opcode)];
const SIMD = {
  load: 0,
  loadSplat: 9,
  store: 11,
  constant: 12,
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
  toFloat: 251,
} as const;

/** A value in a local of the loop. */
type Local = number;

/**
 * The body of one loop in the making. Offsets are in bytes from the start of the memory, or from a pointer (numbered from
 * 1) that is given at every run.
 */
export class LoopEmitter implements Lanes<Local> {
  private readonly code: number[] = [];
  private locals: number;
  private readonly constants = new Map<string, Local>();
  private readonly prelude: number[] = [];

  constructor(private readonly pointers = 0) {
    this.locals = 2 + pointers;
  }

  private set(...code: number[]): Local {
    this.code.push(...code, 0x21, ...unsigned(this.locals));
    return this.locals++;
  }
  private apply(opcode: number, ...args: Local[]): Local {
    return this.set(...args.flatMap((a) => [0x20, ...unsigned(a)]), ...simd(opcode));
  }
  /** Made once before the loop. */
  private once(key: string, code: number[]): Local {
    let local = this.constants.get(key);
    if (local === undefined) {
      local = this.locals++;
      this.prelude.push(...code, 0x21, ...unsigned(local));
      this.constants.set(key, local);
    }
    return local;
  }
  private literal(words: Uint8Array): Local {
    const four = [...words, ...words, ...words, ...words];
    return this.once(four.join(), [...simd(SIMD.constant), ...four]);
  }

  private address = (pointer: number): number[] => (pointer ? [0x20, 0, 0x20, ...unsigned(pointer), 0x6a] : [0x20, 0]);
  /** Four pixels of a plane. */
  load = (offset: number, pointer = 0): Local => this.set(...this.address(pointer), ...simd(SIMD.load), 4, ...unsigned(offset));
  /** One number for all pixels, read once before the loop. */
  loadSteady = (offset: number): Local => this.once(`@${offset}`, [0x41, 0, ...simd(SIMD.loadSplat), 2, ...unsigned(offset)]);
  store(offset: number, value: Local, pointer = 0): void {
    this.code.push(...this.address(pointer), 0x20, ...unsigned(value), ...simd(SIMD.store), 4, ...unsigned(offset));
  }
  /** Puts a whole 1 at a place when the mask holds for any pixel. */
  note(offset: number, mask: Local): void {
    this.code.push(0x20, ...unsigned(mask), ...simd(SIMD.anyTrue), 0x04, 0x40);
    this.code.push(0x41, 0, 0x41, 1, 0x36, 2, ...unsigned(offset), 0x0b);
  }

  number = (value: number) => this.literal(new Uint8Array(Float32Array.of(value).buffer));
  whole = (value: number) => this.literal(new Uint8Array(Int32Array.of(value).buffer));
  add = (a: Local, b: Local) => this.apply(SIMD.add, a, b);
  subtract = (a: Local, b: Local) => this.apply(SIMD.subtract, a, b);
  multiply = (a: Local, b: Local) => this.apply(SIMD.multiply, a, b);
  divide = (a: Local, b: Local) => this.apply(SIMD.divide, a, b);
  min = (a: Local, b: Local) => this.apply(SIMD.pmin, a, b);
  max = (a: Local, b: Local) => this.apply(SIMD.pmax, a, b);
  sqrt = (a: Local) => this.apply(SIMD.sqrt, a);
  abs = (a: Local) => this.apply(SIMD.abs, a);
  floor = (a: Local) => this.apply(SIMD.floor, a);
  less = (a: Local, b: Local) => this.apply(SIMD.less, a, b);
  equal = (a: Local, b: Local) => this.apply(SIMD.equal, a, b);
  both = (a: Local, b: Local) => this.apply(SIMD.and, a, b);
  select = (mask: Local, yes: Local, no: Local) => this.apply(SIMD.bitselect, yes, no, mask);
  toWhole = (a: Local) => this.apply(SIMD.toWhole, a);
  toFloat = (a: Local) => this.apply(SIMD.toFloat, a);
  addWhole = (a: Local, b: Local) => this.apply(SIMD.wholeAdd, a, b);
  multiplyWhole = (a: Local, b: Local) => this.apply(SIMD.wholeMultiply, a, b);
  xor = (a: Local, b: Local) => this.apply(SIMD.xor, a, b);
  shift = (a: Local, count: number) => this.set(0x20, ...unsigned(a), 0x41, ...unsigned(count), ...simd(SIMD.wholeShift));
  whereAny(mask: Local, work: () => Local[], otherwise: readonly Local[]): Local[] {
    const results = otherwise.map((value) => this.set(0x20, ...unsigned(value)));
    this.code.push(0x20, ...unsigned(mask), ...simd(SIMD.anyTrue), 0x04, 0x40);
    work().forEach((value, i) => {
      const chosen = this.select(mask, value, results[i]);
      this.code.push(0x20, ...unsigned(chosen), 0x21, ...unsigned(results[i]));
    });
    this.code.push(0x0b);
    return results;
  }

  build(memory: WasmMemory): Loop {
    const end = 1 + this.pointers;
    const vectors = this.locals - end - 1;
    const body = [
      ...unsigned(2),
      ...[1, I32],
      ...[...unsigned(vectors), V128],
      ...this.prelude,
      // Local 0, the count, becomes the end in bytes; local 0 then runs from 0 in steps of 16.
      ...[0x20, 0, 0x41, 4, 0x74, 0x21, end, 0x41, 0, 0x21, 0],
      ...[0x02, 0x40, 0x03, 0x40, 0x20, 0, 0x20, end, 0x4f, 0x0d, 1],
      ...this.code,
      ...[0x20, 0, 0x41, 16, 0x6a, 0x21, 0, 0x0c, 0, 0x0b, 0x0b],
      0x0b,
    ];
    const section = (id: number, content: readonly number[]) => [id, ...sized(content)];
    const bytes = Uint8Array.from([
      ...[0x00, 0x61, 0x73, 0x6d, 1, 0, 0, 0],
      ...section(1, [1, 0x60, ...sized(new Array<number>(end).fill(I32)), 0]),
      ...section(2, [1, ...text('a'), ...text('m'), 2, 0, 1]),
      ...section(3, [1, 0]),
      ...section(7, [1, ...text('run'), 0, 0]),
      ...section(10, [1, ...sized(body)]),
    ]);
    return new api.Instance(new api.Module(bytes), { a: { m: memory } }).exports.run;
  }
}
