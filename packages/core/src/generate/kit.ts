// The vocabulary in which generated surfaces are written: sizes in metres, numbers and nodes mixed freely, everything
// tileable. It builds a DAG of registered operations, so a surface runs on the same evaluator as a blend.
import type { DagNode } from '../compile';
import { Builder } from '../compile';
import { linearOf } from '../image';

/** A node, or a number that becomes a constant. */
export type Term = DagNode | number;

/** Cells around scattered points (lengths in cells). */
export interface Cells {
  x: DagNode;
  y: DagNode;
  /** Distance between the nearest and the second nearest point: 0 on a border. */
  edge: DagNode;
  /** Distance to the nearest point. */
  near: DagNode;
  /** 0–1, the same all over a cell. */
  id: DagNode;
}
/** The topmost of pieces that lie over each other. */
export interface Pieces {
  /** Along the piece, −1 to 1. */
  along: DagNode;
  /** Across it, −1 to 1. */
  across: DagNode;
  /** Height 0–1; 0 where there is none. */
  top: DagNode;
  /** 1 on a piece, 0 beside it. */
  on: DagNode;
  id: DagNode;
}
/** Blocks laid in courses. */
export interface Courses {
  /** Metres from the middle of a block. */
  x: DagNode;
  y: DagNode;
  /** Metres to the nearest joint. */
  edgeM: DagNode;
  id: DagNode;
}

export class Kit {
  readonly b = new Builder();
  readonly uv = this.b.texcoord();

  constructor(
    /** Side of the tile in metres. */
    readonly sizeM: number,
    private readonly structures: readonly string[],
  ) {}

  node = (t: Term): DagNode => (typeof t === 'number' ? this.b.constant(t) : t);
  add = (...terms: Term[]): DagNode => terms.map(this.node).reduce((p, q) => this.b.add(p, q));
  sub = (p: Term, q: Term): DagNode => this.b.subtract(this.node(p), this.node(q));
  mul = (...terms: Term[]): DagNode => terms.map(this.node).reduce((p, q) => this.b.multiply(p, q));
  div = (p: Term, q: Term): DagNode => this.b.divide(this.node(p), this.node(q));
  min = (p: Term, q: Term): DagNode => this.b.min(this.node(p), this.node(q));
  max = (p: Term, q: Term): DagNode => this.b.max(this.node(p), this.node(q));
  mix = (p: Term, q: Term, t: Term): DagNode => this.b.mix(this.node(p), this.node(q), this.node(t));
  abs = (t: Term): DagNode => this.b.node('absval', [this.node(t)]);
  sqrt = (t: Term): DagNode => this.b.node('sqrt', [this.node(t)]);
  floor = (t: Term): DagNode => this.b.node('floor', [this.node(t)]);
  fract = (t: Term): DagNode => this.b.node('fract', [this.node(t)]);
  not = (t: Term): DagNode => this.b.invert(this.node(t));
  clamp = (t: Term, lo: Term = 0, hi: Term = 1): DagNode => this.b.clamp(this.node(t), this.node(lo), this.node(hi));
  square = (t: Term): DagNode => this.mul(t, t);
  /** Smooth rise from 0 at `lo` to 1 at `hi`; falls when `lo` is above `hi`. */
  rise(t: Term, lo: number, hi: number): DagNode {
    const smooth = (from: number, to: number) => this.b.node('smoothstep', [this.node(t), this.node(from), this.node(to)]);
    return lo <= hi ? smooth(lo, hi) : this.not(smooth(hi, lo));
  }
  /** 1 from `edge` on, else 0. */
  step = (t: Term, edge: Term): DagNode => this.b.node('ramp', [this.node(t), this.node(edge), this.node(0)], { shape: 'straight' });
  part = (t: DagNode, index: number): DagNode => this.b.extract(t, index);
  length = (x: Term, y: Term): DagNode => this.sqrt(this.add(this.square(x), this.square(y)));

  /** How strong a structure is: 0 without it, 1 as designed, 2 most. */
  amount(structure: string): DagNode {
    if (!this.structures.includes(structure)) throw new RangeError(`There is no structure ${structure}`);
    return this.b.value(`a_${structure}`, 'float', { lo: 0, hi: 2 });
  }
  private seed = (key: number): DagNode => this.add(this.b.value('seed'), key);
  /** Repetitions over the tile of something of a size: whole, so that it tiles. */
  private times = (sizeM: number): number => Math.max(1, Math.round(this.sizeM / sizeM));
  private lattice(sizeM: number | readonly [number, number], at: DagNode): { p: DagNode; period: DagNode } {
    const [x, y] = typeof sizeM === 'number' ? [sizeM, sizeM] : sizeM;
    const period = this.b.constant(this.times(x), this.times(y));
    return { p: this.mul(at, period), period };
  }

  /** Smooth noise 0–1 whose waves are of about a size; two sizes make strokes. */
  noise(sizeM: number | readonly [number, number], key: number, octaves = 1, at = this.uv): DagNode {
    const { p, period } = this.lattice(sizeM, at);
    return octaves === 1
      ? this.b.node('noise2d', [p, period, this.seed(key)])
      : this.b.node('fractal2d', [p, period, this.seed(key), this.node(octaves)]);
  }
  /** Noise about 0, −½ to ½. */
  sway = (sizeM: number | readonly [number, number], key: number, octaves = 1, at = this.uv): DagNode =>
    this.sub(this.noise(sizeM, key, octaves, at), 0.5);
  /** The place, pushed about by noise of a size, by up to half an amount. */
  warp(amountM: Term, sizeM: number, key: number, octaves = 2, at = this.uv): DagNode {
    const push = this.b.combine(this.sway(sizeM, key, octaves, at), this.sway(sizeM, key + 7, octaves, at));
    return this.add(at, this.mul(push, this.div(amountM, this.sizeM)));
  }

  cells(sizeM: number | readonly [number, number], key: number, jitter: number, at = this.uv): Cells {
    const { p, period } = this.lattice(sizeM, at);
    const c = this.b.node('cells2d', [p, period, this.seed(key), this.node(jitter)]);
    const [x, y, edge, id] = [0, 1, 2, 3].map((i) => this.part(c, i));
    return { x, y, edge, id, near: this.length(x, y) };
  }

  /** Shapes strewn about, one in each square of a size at most; `long` and `slim` in squares and as a share. */
  pieces(
    shape: 'pebble' | 'leaf' | 'disc',
    sizeM: number,
    key: number,
    { keep = 1, long = 0.6, slim = 0.8, stacking = 0.4 }: { keep?: Term; long?: number; slim?: number; stacking?: number },
    at = this.uv,
  ): Pieces {
    const { p, period } = this.lattice(sizeM, at);
    const c = this.b.node('scatter2d', [p, period, this.seed(key), ...[keep, long, slim, stacking].map(this.node)], { shape });
    const [along, across, top, id] = [0, 1, 2, 3].map((i) => this.part(c, i));
    return { along, across, top, id, on: this.step(top, 1e-6) };
  }

  /** A number 0–1 of a lattice square: value noise at whole places is the hash itself. */
  private draw = (x: Term, y: Term, nx: number, ny: number, key: number): DagNode =>
    this.b.node('noise2d', [this.b.combine(this.node(x), this.node(y)), this.b.constant(nx, ny), this.seed(key)]);

  /** Blocks in courses, each course shifted, each block of its own length. `uneven` 0–0.45 is how much lengths differ. */
  courses(heightM: number, lengthM: number, key: number, uneven: number, at = this.uv): Courses {
    const [nx, ny] = [this.times(lengthM), this.times(heightM)];
    const v = this.mul(this.part(at, 1), ny);
    const row = this.floor(v);
    const u = this.add(this.mul(this.part(at, 0), nx), this.mul(this.draw(0, row, 1, ny, key), 8));
    const joint = (column: Term) => this.mul(this.sub(this.draw(column, row, nx, ny, key + 1), 0.5), 2 * uneven);
    const first = this.floor(u);
    const past = this.step(u, this.add(first, 1, joint(this.add(first, 1))));
    const before = this.not(this.step(u, this.add(first, joint(first))));
    const column = this.add(first, this.sub(past, before));
    const [left, right] = [column, this.add(column, 1)].map((c) => this.add(c, joint(c)));
    const [perX, perY] = [this.sizeM / nx, this.sizeM / ny];
    const fromSides = this.mul(this.min(this.sub(u, left), this.sub(right, u)), perX);
    const y = this.mul(this.sub(this.sub(v, row), 0.5), perY);
    return {
      x: this.mul(this.sub(u, this.mul(this.add(left, right), 0.5)), perX),
      y,
      edgeM: this.min(fromSides, this.sub(perY / 2, this.abs(y))),
      id: this.draw(column, row, nx, ny, key + 2),
    };
  }

  /** Another number 0–1 made of one that names an element. */
  random = (id: DagNode, key: number): DagNode => this.fract(this.mul(id, 61 + 173 * key));
  /** Union of two heights with a rounded valley of a width. Source: polynomial smooth maximum, as used with distance fields. */
  over(p: Term, q: Term, width: number): DagNode {
    const h = this.clamp(this.div(this.sub(width, this.abs(this.sub(p, q))), width));
    return this.add(this.max(p, q), this.mul(this.square(h), width / 4));
  }

  /** A colour from its sRGB code, in linear light. */
  hex(code: string): DagNode {
    const parts = linearOf(code);
    return this.b.constant(...parts);
  }
  /** Colours one after the other as t goes from 0 to 1. */
  ramp(t: Term, codes: readonly string[]): DagNode {
    const span = 1 / (codes.length - 1);
    return codes
      .slice(1)
      .reduce((colour, code, i) => this.mix(colour, this.hex(code), this.clamp(this.div(this.sub(t, i * span), span))), this.hex(codes[0]));
  }

  private around = (index: number): DagNode => this.part(this.b.node('relief'), index);
  /** What stages after the height can read of the ground around. */
  readonly ground = {
    /** 0–1 over the relief. */
    height: () => this.around(0),
    slope: () => this.around(1),
    /** How far the place stands above (or, negative, below) its surroundings, over their radius. */
    convexity: () => this.around(2),
    occlusion: () => this.around(3),
  };
}
