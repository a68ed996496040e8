import fc from 'fast-check';
import type { Brush } from '../index';
import { Brushing, Bvh, DEFAULT_BRUSH, MeshMaskPainter, falloffAt, nearestOn } from '../index';
import type { Unwrapped, Vector } from './testing/unwrapped';
import { cube, lump, quads, square, tube } from './testing/unwrapped';

const brush = (over: Partial<Brush> = {}): Brush => ({ ...DEFAULT_BRUSH, radiusM: 0.2, ...over });
const SIDE = 256;
const painterOf = (mesh: Unwrapped, side = SIDE, depth: 8 | 16 = 8) => new MeshMaskPainter(mesh, side, side, new Uint8Array(side * side), depth);
/** Strokes through places in metres. */
function stroke(painter: MeshMaskPainter, mesh: Unwrapped, places: readonly Vector[], over: Partial<Brush> = {}, aim: 'add' | 'smooth' = 'add') {
  const made = brush(over);
  painter.begin(made, aim);
  const going = new Brushing(painter, mesh, new Bvh(mesh), made);
  for (const at of places) going.toPlace(at, 1);
  painter.sheet.end();
}
/** What bilinear reading gives at a coordinate, as the stage and targets read. */
function read(painter: MeshMaskPainter, u: number, v: number): number {
  const { width, height, now, full } = painter.sheet;
  const [x, y] = [u * width - 0.5, v * height - 0.5];
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const at = (a: number, b: number) => now[((b + height) % height) * width + ((a + width) % width)] / full;
  const row = (b: number) => at(i, b) * (1 - x + i) + at(i + 1, b) * (x - i);
  return row(j) * (1 - y + j) + row(j + 1) * (y - j);
}
/** Edges that two triangles share in space but not on the texture: pairs of ends on either. */
function seams({ position, index, uv }: Unwrapped): { a: [number, number]; b: [number, number] }[] {
  const name = (v: number) => [0, 1, 2].map((c) => Math.round(position[v * 3 + c] * 1e4)).join();
  const known = new Map<string, [number, number]>();
  const out: { a: [number, number]; b: [number, number] }[] = [];
  for (let k = 0; k < index.length; k++) {
    const [p, q] = [index[k], index[k % 3 === 2 ? k - 2 : k + 1]];
    const other = known.get(`${name(q)} ${name(p)}`);
    if (other && [0, 1].some((c) => Math.abs(uv[other[1] * 2 + c] - uv[p * 2 + c]) + Math.abs(uv[other[0] * 2 + c] - uv[q * 2 + c]) > 1e-6))
      out.push({ a: [p, q], b: [other[1], other[0]] });
    known.set(`${name(p)} ${name(q)}`, [p, q]);
  }
  return out;
}
const percentile = (list: number[], share: number) => list.sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))];
/** Steps across the seams of a painted mesh, and as far apart inside its islands, a texel being the measure: what 99 in 100 stay within. */
function steps(painter: MeshMaskPainter, mesh: Unwrapped): { across: number; inside: number } {
  const { uv } = mesh;
  const along = ([p, q]: [number, number], t: number) => [
    uv[p * 2] + (uv[q * 2] - uv[p * 2]) * t,
    uv[p * 2 + 1] + (uv[q * 2 + 1] - uv[p * 2 + 1]) * t,
  ];
  const across = seams(mesh).flatMap(({ a, b }) =>
    Array.from({ length: 24 }, (_, k) => {
      const t = (k + 0.5) / 24;
      const [ua, va] = along(a, t);
      const [ub, vb] = along(b, t);
      return Math.abs(read(painter, ua, va) - read(painter, ub, vb));
    }),
  );
  const { width, now, full } = painter.sheet;
  const inside: number[] = [];
  for (let t = 0; t < mesh.index.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => mesh.index[t + k]);
    const u = (uv[a * 2] + uv[b * 2] + uv[c * 2]) / 3;
    const v = (uv[a * 2 + 1] + uv[b * 2 + 1] + uv[c * 2 + 1]) / 3;
    for (let k = 0; k < 24; k++) {
      const s = k / 24;
      const at = Math.floor((v + (uv[a * 2 + 1] - v) * s * 0.9) * width) * width + Math.floor((u + (uv[a * 2] - u) * s * 0.9) * width);
      inside.push(Math.abs(now[at] - now[at + 1]) / full, Math.abs(now[at] - now[at + width]) / full);
    }
  }
  return {
    across: percentile(across.filter((v) => v > 0).length ? across : [0], 0.99),
    inside: percentile(
      inside.filter((v) => v > 0),
      0.99,
    ),
  };
}

describe('a mask on a mesh', () => {
  it('takes a dab by the distance in metres, as its falloff says, on every texel', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.9, max: 0.9, noNaN: true }),
        fc.double({ min: -0.9, max: 0.9, noNaN: true }),
        fc.double({ min: 0.05, max: 0.6, noNaN: true }),
        fc.double({ min: 0.1, max: 1, noNaN: true }),
        fc.constantFrom(8 as const, 16 as const),
        (x, z, radiusM, falloff, depth) => {
          const painter = painterOf(square, 128, depth);
          const made = brush({ radiusM, falloff });
          stroke(painter, square, [[x, 0, z]], made);
          const { now, full } = painter.sheet;
          for (let i = 0; i < now.length; i += 13) {
            const [px, pz] = [((i % 128) + 0.5) / 64 - 1, (Math.floor(i / 128) + 0.5) / 64 - 1];
            const away = Math.hypot(px - x, pz - z);
            // The steepest place of the falloff is 1.5 over its width; the raster rounds corners to a 256th of a texel.
            expect(Math.abs(now[i] / full - falloffAt(made, away))).toBeLessThan(0.51 / full + (1e-4 * 1.5) / (radiusM * falloff));
          }
        },
      ),
      { numRuns: 30 },
    );
  });
  it('paints the area of the disk', () => {
    const painter = painterOf(square, 1024);
    stroke(painter, square, [[0.1, 0, -0.2]], { radiusM: 0.4, falloff: 0 });
    const painted = (painter.sheet.now as Uint8Array).reduce((n, v) => n + Number(v > 0), 0) * (2 / 1024) ** 2;
    expect(Math.abs(painted / (Math.PI * 0.16) - 1)).toBeLessThan(0.01);
  });
  for (const [name, mesh, at] of [
    [
      'a cube',
      cube(),
      [
        [0.5, 0.1, 0.5],
        [0.45, 0.5, -0.2],
        [-0.3, 0.5, 0.5],
      ],
    ],
    [
      'a tube',
      tube(),
      [
        [0.34, 0.4, 0.02],
        [0.3, 0.7, -0.1],
      ],
    ],
    [
      'a lump',
      lump(),
      [
        [0.5, 0.1, 0.5],
        [0.45, 0.5, -0.2],
        [-0.3, 0.5, 0.5],
      ],
    ],
  ] as const)
    it(`crosses the seams of ${name} with steps no larger than inside`, () => {
      const painter = painterOf(mesh, 512, 16);
      stroke(painter, mesh, at as unknown as Vector[], { radiusM: 0.35, falloff: 1 });
      expect(seams(mesh).length).toBeGreaterThan(0);
      const { across, inside } = steps(painter, mesh);
      expect(inside).toBeGreaterThan(0);
      expect(across).toBeLessThanOrEqual(inside);
      // Smoothing meets there too.
      stroke(painter, mesh, [at[0] as unknown as Vector], { radiusM: 0.3, falloff: 1 }, 'smooth');
      const smoothed = steps(painter, mesh);
      expect(smoothed.across).toBeLessThanOrEqual(smoothed.inside);
    });
  it('does not reach through a wall, nor what is not joined within the radius', () => {
    const gap = 0.05;
    const two = quads(
      [0, gap].map((y, i) => ({
        at: [
          [0, y, 0],
          [0, y, 1],
          [1, y, 1],
          [1, y, 0],
        ] as Vector[],
        uv: [
          [0.5 * i, 0],
          [0.5 * i, 1],
          [0.5 * i + 0.5, 1],
          [0.5 * i + 0.5, 0],
        ] as [number, number][],
      })),
    );
    const painter = painterOf(two);
    stroke(painter, two, [[0.5, gap + 0.01, 0.5]], { radiusM: 0.3, falloff: 0 });
    const half = (first: number) => painter.sheet.now.filter((v, i) => v > 0 && Math.floor((i % SIDE) / (SIDE / 2)) === first).length;
    expect(half(1)).toBeGreaterThan(1000);
    expect(half(0)).toBe(0);
  });
  it('repeats where coordinates leave the picture', () => {
    const there = { ...square, uv: square.uv.map((v) => v + 3) };
    const [here, moved] = [painterOf(square), painterOf(there)];
    for (const [painter, mesh] of [
      [here, square],
      [moved, there],
    ] as const)
      stroke(painter, mesh, [[0.3, 0, 0.1]]);
    expect(moved.sheet.now).toEqual(here.sheet.now);
  });
  it('keeps to a limit, goes to a value, and falls across the middle as well', () => {
    const painter = painterOf(square, 128);
    const limited = brush({ radiusM: 0.3, falloff: 0, value: 0.4, mirror: 'x' });
    // Corners 0 and 1 lie at x = −1: nothing may be painted there, all of it at x = 1.
    painter.begin(limited, 'set', Float32Array.of(0, 0, 1, 1));
    painter.sheet.now.fill(0);
    new Brushing(painter, square, new Bvh(square), limited).toPlace([0.5, 0, 0], 1);
    painter.sheet.end();
    const at = (x: number) => painter.sheet.now[64 * 128 + Math.round(((x + 1) / 2) * 128)] / 255;
    expect(at(0.5)).toBeCloseTo(0.4 * 0.75, 1);
    expect(at(-0.5)).toBeCloseTo(0.4 * 0.25, 1);
    expect(at(0)).toBe(0);
  });
  it('gives a stroke up, and puts kept pieces back, byte for byte', () => {
    const mesh = cube();
    const painter = painterOf(mesh, 200, 16);
    stroke(painter, mesh, [[0.5, 0, 0.5]]);
    painter.sheet.takeUnkept();
    const before = painter.bytesNow();
    painter.begin(brush({ radiusM: 0.4 }), 'add');
    const going = new Brushing(painter, mesh, new Bvh(mesh), brush({ radiusM: 0.4 }));
    going.toPlace([-0.5, 0.2, 0.1], 1);
    const halfway = painter.sheet.takeUnkept();
    going.toPlace([-0.5, -0.2, 0.4], 1);
    const rest = painter.sheet.takeUnkept();
    const whole = painter.bytesNow();
    expect(whole).not.toEqual(before);
    painter.sheet.cancel();
    expect(painter.bytesNow()).toEqual(before);
    const again = new MeshMaskPainter(mesh, 200, 200, before, 16);
    for (const { piece, bytes } of [...halfway, ...rest]) again.sheet.takePiece(piece, bytes);
    expect(again.bytesNow()).toEqual(whole);
  });
  it('ends a stroke upon what somebody else painted meanwhile: both are there', () => {
    const mesh = cube();
    const [mine, other] = [painterOf(mesh, 200), painterOf(mesh, 200)];
    stroke(other, mesh, [[-0.5, 0, -0.5]]);
    const made = brush({ radiusM: 0.2 });
    mine.begin(made, 'add');
    new Brushing(mine, mesh, new Bvh(mesh), made).toPlace([0.5, 0.1, 0.2], 1);
    const own = mine.bytesNow();
    mine.sheet.endOnto(other.bytesNow());
    const both = mine.bytesNow();
    const theirs = other.bytesNow();
    for (let i = 0; i < both.length; i++) expect(both[i]).toBe(own[i] || theirs[i]);
    expect(() => mine.sheet.endOnto([1, 2])).toThrowError(RangeError);
    // What goes on from there knows both.
    mine.begin(made, 'erase');
    mine.sheet.cancel();
    expect(mine.bytesNow()).toEqual(both);
  });
  it('passes little on beside what was touched, and all of it', () => {
    const mesh = cube();
    const painter = painterOf(mesh, 1024);
    painter.sheet.takeShown();
    let [touched, passed] = [0, 0];
    const made = brush({ radiusM: 0.15, falloff: 0.5 });
    painter.begin(made, 'add');
    const going = new Brushing(painter, mesh, new Bvh(mesh), made);
    for (let k = 0; k < 12; k++) {
      const before = painter.bytesNow();
      going.toPlace([0.5, Math.sin(k) * 0.4, Math.cos(k) * 0.4], 1);
      const rects = painter.sheet.takeShown();
      const inside = (x: number, y: number) => rects.some((r) => x >= r.x0 && x < r.x1 && y >= r.y0 && y < r.y1);
      painter.sheet.now.forEach((v, i) => {
        if (v === before[i]) return;
        touched++;
        if (!inside(i % 1024, Math.floor(i / 1024))) fail(`pixel ${i} was not passed on`);
      });
      for (const { x0, y0, x1, y1 } of rects) passed += (x1 - x0) * (y1 - y0);
    }
    // With a third more for smaller levels it stays under three times.
    expect(passed / touched).toBeLessThan(2.2);
  });
  it('finds the nearest place of a mesh', () => {
    const mesh = tube(12);
    const tree = new Bvh(mesh);
    const place = fc.double({ min: -1, max: 1.5, noNaN: true });
    fc.assert(
      fc.property(place, place, place, (x, y, z) => {
        let best = Infinity;
        for (let t = 0; t < mesh.index.length / 3; t++) best = Math.min(best, nearestOn(mesh.position, mesh.index, t, x, y, z).away2);
        expect(tree.nearest([x, y, z])?.away).toBeCloseTo(Math.sqrt(best), 9);
        expect(tree.nearest([x, y, z], Math.sqrt(best) * 0.99)).toBeNull();
        // Not nearer than any of many places of it, either.
        for (let k = 0; k < 8; k++) {
          const a = (k / 8) * 2 * Math.PI;
          const r = Math.cos(Math.PI / 12) / 3;
          expect(Math.sqrt(best)).toBeLessThanOrEqual(
            Math.hypot(Math.cos(a + Math.PI / 12) * r - x, 0.5 - y, Math.sin(a + Math.PI / 12) * r - z) + 1e-6,
          );
        }
      }),
    );
  });
});
