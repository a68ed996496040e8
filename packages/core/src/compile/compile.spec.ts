import * as fc from 'fast-check';
import type { DagNode, Domain, ImageChannel, Sources, CompileError } from '../index';
import {
  ANY,
  Builder,
  CpuProgram,
  allOperations,
  emitGlsl,
  evaluate,
  evaluateOnce,
  flatDomain,
  fractalNoise,
  frameValues,
  hoistedText,
  makeImage,
  optimise,
  priceOf,
  register,
  sourcesOfMaps,
} from '../index';

const once = (build: (b: Builder) => DagNode) => evaluateOnce({ x: build(new Builder()) })['x'];

describe('the registry', () => {
  it('holds about thirty operations, each complete', () => {
    expect(allOperations().length).toBeGreaterThanOrEqual(25);
    for (const op of allOperations()) {
      expect(op.help.length).withContext(op.name).toBeGreaterThan(3);
      expect(op.materialx)
        .withContext(op.name)
        .toMatch(/^[A-Za-z_0-9]{2,}$/);
    }
  });
  it('refuses an operation without its parts and a name that is taken', () => {
    const add = allOperations().find((op) => op.name === 'add')!;
    expect(() => register(add)).toThrowError(/twice/);
    expect(() => register({ ...add, name: 'new', price: undefined as never })).toThrowError(/lacks its price/);
    expect(() => register({ ...add, name: 'new', glsl: undefined, lanes: undefined, kernel: () => undefined })).toThrowError(/lacks its glsl/);
    expect(() => register({ ...add, name: 'new', lanes: undefined })).toThrowError(/lanes or a kernel/);
  });
});

describe('the builder', () => {
  it('makes equal nodes once', () => {
    const b = new Builder();
    expect(b.add(b.constant(1), b.value('x'))).toBe(b.add(b.constant(1), b.value('x')));
    expect(b.value('x')).not.toBe(b.value('y'));
  });
  it('names operation and port of a mistake', () => {
    const b = new Builder();
    const caught = (f: () => unknown) => {
      try {
        f();
      } catch (e) {
        return e as CompileError;
      }
      return fail('nothing thrown');
    };
    expect(caught(() => b.node('nothing'))).toEqual(jasmine.objectContaining({ code: 'unknown-operation', operation: 'nothing' }));
    expect(caught(() => b.node('add', [b.constant(1)]))).toEqual(jasmine.objectContaining({ code: 'wrong-arity', operation: 'add' }));
    expect(caught(() => b.node('place2d', [b.constant(1), b.constant(1, 1), b.constant(0, 0)]))).toEqual(
      jasmine.objectContaining({ code: 'type-mismatch', port: 'texcoord' }),
    );
    expect(caught(() => b.add(b.constant(1, 2), b.constant(1, 2, 3)))).toEqual(jasmine.objectContaining({ code: 'type-mismatch', operation: 'add' }));
  });
  it('derives texture coordinates through place2d and arithmetic', () => {
    const b = new Builder();
    const uv = b.node('place2d', [b.texcoord(), b.constant(3, 2), b.constant(0.5, 0)]);
    const d = b.derivative(b.multiply(uv, b.constant(2)), 'x');
    expect(evaluateOnce({ d }, { footprint_x: [0.25, 0], footprint_y: [0, 0.25] })['d']).toEqual([1.5, 0]);
  });
});

describe('kernels', () => {
  it('match closed forms', () => {
    expect(once((b) => b.mix(b.constant(1, 2), b.constant(3, 6), b.constant(0.25)))).toEqual([1.5, 3]);
    expect(once((b) => b.divide(b.constant(3), b.constant(0)))).toEqual([0]);
    expect(once((b) => b.node('smoothstep', [b.constant(0.25), b.constant(0), b.constant(1)]))[0]).toBeCloseTo(0.15625, 6);
    expect(once((b) => b.node('ramp', [b.constant(0.5), b.constant(0.5), b.constant(0)], { shape: 'smooth' }))).toEqual([1]);
    expect(once((b) => b.node('bend', [b.constant(0.3), b.constant(0.3)]))[0]).toBeCloseTo(0.5, 6);
    expect(once((b) => b.node('remap', [b.constant(5), b.constant(0), b.constant(10), b.constant(1), b.constant(3)]))).toEqual([2]);
    expect(once((b) => b.node('fractal2d', [b.constant(1.25, 2.5), b.constant(4), b.constant(9), b.constant(3)]))[0]).toBeCloseTo(
      fractalNoise(1.25, 2.5, 4, 9, 3),
      6,
    );
    expect(once((b) => b.node('dotproduct', [b.constant(1, 2, 3), b.constant(4, 5, 6)]))).toEqual([32]);
  });
  it('mix normals half way to half the slope and keep them unit', () => {
    const n = once((b) => b.node('mixnormal', [b.constant(0, 0, 1), b.constant(0.6, 0, 0.8), b.constant(0.5)]));
    expect(n[0] / n[2]).toBeCloseTo(0.375, 6);
    expect(Math.hypot(...n)).toBeCloseTo(1, 6);
  });
});

describe('the crossover', () => {
  const w = (c: number, hT: number, hB: number, soft: number, far = 0) =>
    once((b) =>
      b.node('crossover', [b.constant(hT), b.constant(hB), b.constant(0.1), b.constant(c), b.constant(soft), b.constant(far), b.constant(0)]),
    )[0];
  const unit = fc.double({ min: 0, max: 1, noNaN: true });
  const height = fc.double({ min: -0.3, max: 0.3, noNaN: true });
  it('is 0 without coverage and 1 with all of it, whatever heights and softness', () => {
    fc.assert(
      fc.property(height, height, unit, (a, b, s) => {
        expect(w(0, a, b, s)).toBe(0);
        expect(w(1, a, b, s)).toBe(1);
      }),
      { numRuns: 60 },
    );
  });
  it('never falls when coverage or height rises', () => {
    fc.assert(
      fc.property(unit, unit, height, height, height, unit, (c1, c2, a, a2, b, s) => {
        expect(w(Math.max(c1, c2), a, b, s)).toBeGreaterThanOrEqual(w(Math.min(c1, c2), a, b, s) - 1e-6);
        expect(w(c1, Math.max(a, a2), b, s)).toBeGreaterThanOrEqual(w(c1, Math.min(a, a2), b, s) - 1e-6);
      }),
      { numRuns: 100 },
    );
  });
  it('is the plain smooth mix at softness 1 and a hard edge at 0', () => {
    for (const c of [0.1, 0.4, 0.9]) expect(w(c, 0.2, -0.1, 1)).toBeCloseTo(c * c * (3 - 2 * c), 5);
    expect(w(0.5, 0.001, 0, 0)).toBe(1);
    expect(w(0.5, -0.001, 0, 0)).toBe(0);
  });
  it('grows softer where a mip hides relief', () => {
    expect(w(0.5, 0.02, 0, 0.05, 0.05)).toBeLessThan(w(0.5, 0.02, 0, 0.05, 0));
  });
});

/** Random expressions over constants, a value and the texture coordinate. */
function randomDag(b: Builder, choose: () => number, depth: number): DagNode {
  const pick = Math.floor(choose() * (depth > 0 ? 14 : 4));
  const sub = () => randomDag(b, choose, depth - 1);
  if (pick === 0) return b.constant(Math.round(choose() * 8) / 4 - 1);
  if (pick === 1) return b.value('x', 'float', { lo: 0, hi: 1 });
  if (pick === 2) return b.extract(b.texcoord(), 0);
  if (pick === 3) return b.constant(choose() < 0.5 ? 0 : 1);
  const two = ['add', 'subtract', 'multiply', 'divide', 'min', 'max'];
  if (pick < 10) return b.node(two[pick - 4], [sub(), sub()]);
  if (pick === 10) return b.mix(sub(), sub(), sub());
  if (pick === 11) return b.clamp(sub(), b.constant(-0.5), b.constant(0.75));
  if (pick === 12) return b.invert(sub());
  return b.node('sqrt', [b.node('absval', [sub()])]);
}

describe('passes', () => {
  it('change nothing on random graphs past 1e-5 and never make them larger', () => {
    fc.assert(
      fc.property(fc.infiniteStream(fc.double({ min: 0, max: 1, maxExcluded: true, noNaN: true })), (stream) => {
        const b = new Builder();
        const node = randomDag(b, () => stream.next().value as number, 5);
        const plain = { y: node };
        const { outputs, hoisted } = optimise(plain, { hoist: true });
        const domain = flatDomain(5, 3);
        const before = evaluate(plain, { domain, values: { x: [0.3] } })['y'][0];
        const after = evaluate(outputs, { domain, values: frameValues(hoisted, { x: [0.3] }) })['y'][0];
        before.forEach((v, i) => expect(Math.abs(v - after[i])).toBeLessThanOrEqual(1e-5 * Math.max(1, Math.abs(v))));
        expect(priceOf(outputs).operations).toBeLessThanOrEqual(priceOf(plain).operations);
        before.forEach((v) => {
          if (v < node.range.lo - 1e-4 || v > node.range.hi + 1e-4) fail(`${v} outside the proved range`);
        });
      }),
      { numRuns: 150 },
    );
  });
  it('drop channels nobody reads before they are sampled', () => {
    const b = new Builder();
    const image = b.node('image', [b.texcoord(), b.constant(0)], { slot: 0, channel: 'baseColor' });
    const { outputs } = optimise({ y: b.mix(b.constant(0, 0, 0), image, b.constant(0)) });
    expect(priceOf(outputs).samples).toBe(0);
  });
  it('tell apart what works the same names out of other values', () => {
    const of = (name: string, extra = 0) => {
      const b = new Builder();
      for (let i = 0; i < extra; i++) b.constant(i + 50);
      return hoistedText(optimise({ y: b.multiply(b.extract(b.texcoord(), 0), b.add(b.value(name), b.constant(1))) }, { hoist: true }).hoisted);
    };
    expect(of('x')).toBe(of('x', 3));
    expect(of('x')).not.toBe(of('z'));
  });
  it('compute what depends on values alone once a frame', () => {
    const b = new Builder();
    const node = b.multiply(b.extract(b.texcoord(), 0), b.add(b.value('x'), b.constant(1)));
    const { outputs, hoisted } = optimise({ y: node }, { hoist: true });
    expect(hoisted.length).toBe(1);
    expect(priceOf(outputs).operations).toBe(1);
  });
});

describe('tile-wise evaluation', () => {
  it('gives the same as one whole tile, for odd sizes and bands of rows', () => {
    const b = new Builder();
    const outputs = { y: b.node('fractal2d', [b.multiply(b.texcoord(), b.constant(4)), b.constant(4), b.constant(2), b.constant(3)]) };
    const domain = flatDomain(203, 71);
    const whole = evaluate(outputs, { domain })['y'][0];
    const parts = new Float32Array(whole.length);
    const program = new CpuProgram(outputs, 512);
    for (const rows of [
      [0, 30],
      [30, 71],
    ] as const)
      program.run({ domain, rows }, (tile, planes) => {
        for (let y = 0; y < tile.height; y++) parts.set(planes('y')[0].subarray(y * tile.width, (y + 1) * tile.width), (tile.y + y) * 203 + tile.x);
      });
    expect(parts).toEqual(whole);
  });
  it('is the same however far its loops were built in pieces before it runs', () => {
    const b = new Builder();
    // Maps that are read where others say: loops on either side of each.
    const look = (at: DagNode) => b.node('image', [at, b.constant(0)], { slot: 0, channel: 'roughness' });
    const first = look(b.multiply(b.texcoord(), b.constant(3)));
    const again = look(b.combine(b.multiply(first, b.constant(3)), b.multiply(first, b.constant(2))));
    const outputs = { y: b.add(b.multiply(again, first), b.constant(0.25)) };
    const roughness = makeImage({ width: 4, height: 4, channels: 1, data: Uint8Array.from({ length: 16 }, (_, i) => (i * 37) % 256) });
    const sources: Sources = (_, channel) => sourcesOfMaps({ roughness })(channel)!;
    const domain = flatDomain(32, 4);
    const whole = evaluate(outputs, { domain, sources })['y'][0];
    expect(new Set(whole).size).toBeGreaterThan(20);
    const pieces = [...new CpuProgram(outputs, 512, true).pieces()].length;
    expect(pieces).toBeGreaterThan(1);
    for (let built = 0; built <= pieces; built++) {
      const program = new CpuProgram(outputs, 512, true);
      const left = program.pieces();
      for (let k = 0; k < built; k++) expect(left.next().done).toBeFalse();
      const out = new Float32Array(whole.length);
      program.run({ domain, sources }, (tile, planes) => out.set(planes('y')[0].subarray(0, tile.width * tile.height), tile.y * 32));
      expect(out).withContext(`${built} of ${pieces}`).toEqual(whole);
      expect(program.pieces().next().done).toBeTrue();
    }
  });
  it('sees every value that moves between two runs of one program, and those made of it', () => {
    const b = new Builder();
    const scale = b.add(b.multiply(b.value('x'), b.constant(2)), b.value('y'));
    const program = new CpuProgram({ r: b.multiply(b.extract(b.texcoord(), 0), scale) }, 64);
    const run = (x: number, y: number) => {
      let last = NaN;
      program.run({ domain: flatDomain(4, 1), values: { x: [x], y: [y] } }, (_, planes) => (last = planes('r')[0][3]));
      return last;
    };
    for (const [x, y] of [
      [1, 0],
      [1, 0],
      [2, 0],
      [2, 3],
      [0, 3],
      [-0, 3],
      [0.1, 0.2],
      [1, 0],
    ])
      expect(run(x, y)).toBeCloseTo(0.875 * (2 * x + y), 5);
  });
  it('keeps its memory small, whatever the picture', () => {
    const b = new Builder();
    let node: DagNode = b.extract(b.texcoord(), 0);
    for (let i = 0; i < 200; i++) node = b.add(b.multiply(node, b.constant(0.99)), b.extract(b.texcoord(), 1));
    const program = new CpuProgram(optimise({ y: node }).outputs);
    expect(program.scratchBytes).toBeLessThan(64 * 2 ** 20);
    // Two coordinates, one constant, two intermediates and the spare: planes are given back.
    expect(program.scratchBytes / (4096 * 4)).toBeLessThan(10);
  });
});

describe('image sampling', () => {
  const image = makeImage({ width: 4, height: 2, channels: 1, data: Uint8Array.of(0, 51, 102, 153, 204, 255, 0, 51) });
  const at = (points: number[], options: { mips?: boolean; level?: number } = {}) => {
    const b = new Builder();
    const node = b.node('image', [b.texcoord(), b.constant(options.level ?? 0)], { slot: 0, channel: 'roughness' });
    const find = sourcesOfMaps({ roughness: image }, options.mips);
    const sources: Sources = (_, channel: ImageChannel) => find(channel)!;
    const domain: Domain = flatDomain(points.length / 2, 1, 1, { texcoord: Float32Array.from(points) });
    return [...evaluate({ y: node }, { domain, sources })['y'][0]];
  };
  it('gives texels at their centres and means between them, wrapping at the border', () => {
    expect(at([0.375, 0.25])[0]).toBeCloseTo(0.2, 6);
    expect(at([0.25, 0.25])[0]).toBeCloseTo(0.1, 6);
    expect(at([0, 0.25])[0]).toBeCloseTo((0 + 0.6) / 2, 6);
    expect(at([-0.625, 3.25])[0]).toBeCloseTo(0.2, 5);
  });
  it('mixes two mip levels that differ from pixel to pixel, beside other work on the same tile', () => {
    const b = new Builder();
    const [u, v] = [0, 1].map((i) => b.extract(b.texcoord(), i));
    const level = b.multiply(u, b.constant(2));
    const find = sourcesOfMaps({ roughness: image }, true);
    const sources: Sources = (_, channel: ImageChannel) => find(channel)!;
    const y = b.node('image', [b.texcoord(), level], { slot: 0, channel: 'roughness' });
    const domain = flatDomain(33, 5);
    const all = evaluate({ sum: b.add(b.multiply(v, b.constant(0)), y), v }, { domain, sources });
    for (let i = 0; i < 33 * 5; i++) {
      const point = [((i % 33) + 0.5) / 33, (Math.floor(i / 33) + 0.5) / 5];
      expect(all['sum'][0][i]).toBeCloseTo(at(point, { mips: true, level: 2 * point[0] })[0], 5);
    }
  });
  it('mixes two mip levels', () => {
    const mean = [...image.data].reduce((a, v) => a + v, 0) / 8 / 255;
    expect(at([0.5, 0.5], { mips: true, level: 2 })[0]).toBeCloseTo(mean, 2);
    const near = at([0.3, 0.6], { mips: true, level: 0 })[0];
    const next = at([0.3, 0.6], { mips: true, level: 1 })[0];
    expect(at([0.3, 0.6], { mips: true, level: 0.5 })[0]).toBeCloseTo((near + next) / 2, 6);
  });
});

describe('GLSL', () => {
  const b = new Builder();
  const uv = b.node('place2d', [b.texcoord(), b.value('repeats', 'vec2'), b.constant(0, 0)]);
  const image = (channel: ImageChannel) => b.node('image', [uv, b.constant(0)], { slot: 1, channel });
  it('shares one fetch between the channels of one packed texture', () => {
    const program = emitGlsl({ n: image('normal'), r: image('roughness'), o: image('occlusion'), h: image('height') }, 'live');
    expect(program.fetches).toBe(2);
    expect(program.units).toEqual(['shape', 'height']);
    expect(program.values).toEqual([{ name: 'repeats', type: 'vec2' }]);
    expect(program.vertex.outputs.length).toBe(1);
  });
  it('moves what is linear in the texture coordinate to the vertex stage in live mode, and nothing else', () => {
    const cells = b.value('cells');
    const noise = b.node('fractal2d', [b.multiply(b.texcoord(), cells), cells, b.constant(1), b.constant(2)]);
    const bent = b.multiply(b.texcoord(), b.texcoord());
    const outputs = { r: image('roughness'), noise, bent };
    const live = emitGlsl(outputs, 'live');
    expect(live.vertex.outputs.length).toBe(2);
    expect(live.vertex.values.map((v) => v.name).sort()).toEqual(['cells', 'repeats']);
    expect(live.source).not.toContain('* u_repeats');
    expect(live.source).toContain('in_texcoord * in_texcoord');
    expect(emitGlsl(outputs, 'exact').vertex.outputs).toEqual([]);
  });
  it('works out the height alone for a place that is looked for, with nothing left to the vertex stage', () => {
    const program = emitGlsl({ r: image('roughness'), height: image('height') }, 'live', 0, true);
    const [evaluate, height] = program.source.split('void pb_evaluate')[1].split('void pb_height');
    expect(evaluate.match(/pb_fetch/g)?.length).toBe(2);
    expect(height.match(/pb_fetch\(t_\w+/g)).toEqual(['pb_fetch(t_height']);
    expect(program.vertex.outputs).toEqual([]);
    expect(emitGlsl({ height: image('height') }, 'live').source).not.toContain('pb_height');
  });
  it('refuses more than sixteen texture units', () => {
    expect(() => emitGlsl({ h: image('height') }, 'live', 16)).toThrowError(/17 texture units/);
  });
  it('has no output that may be NaN declared without a guard', () => {
    expect(emitGlsl({ y: b.divide(b.value('a', 'float', ANY), b.value('b', 'float', ANY)) }, 'live').source).toContain('pb_divide');
  });
});
