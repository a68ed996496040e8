import fc from 'fast-check';
import { makeCue } from '../coverage';
import { makeBlend, makeLayer } from '../document';
import type { Brush } from './index';
import { DEFAULT_BRUSH, MaskPainter, falloffAt, maskWells, paintedCueAt } from './index';

const SIDE = 48;
const EXTENT = 2.4;
const brush = (over: Partial<Brush> = {}): Brush => ({ ...DEFAULT_BRUSH, radiusM: 0.3, ...over });
const blank = (value = 0) => new MaskPainter(SIDE, SIDE, new Uint8Array(SIDE * SIDE).fill(value));
const at = (u: number, v: number, pressure = 1) => ({ u, v, pressure });
/** What a stroke through points makes of a mask. */
function stroked(
  points: readonly (readonly [number, number])[],
  over: Partial<Brush> = {},
  painter = blank(),
  aim: 'add' | 'erase' | 'smooth' = 'add',
) {
  painter.begin(brush(over), aim, EXTENT);
  for (const [u, v] of points) painter.to(at(u, v));
  painter.end();
  return painter.bytes() as Uint8Array<ArrayBuffer>;
}
/** The picture moved by whole pixels, what leaves it coming in again. */
const rolled = (bytes: Uint8Array, dx: number, dy: number) =>
  bytes.map((_, i) => bytes[((((i / SIDE) | 0) - dy + SIDE) % SIDE) * SIDE + (((i % SIDE) - dx + SIDE) % SIDE)]);
const place = fc.double({ min: -1, max: 2, noNaN: true });
const path = fc.array(fc.tuple(place, place), { minLength: 1, maxLength: 5 });
const shape = fc.record({
  radiusM: fc.double({ min: 0.02, max: 3, noNaN: true }),
  strength: fc.double({ min: 0.05, max: 1, noNaN: true }),
  falloff: fc.double({ min: 0, max: 1, noNaN: true }),
});

describe('a mask under the brush', () => {
  it('takes other values as if it had begun with them', () => {
    const others = stroked([[0.2, 0.7]]);
    const painter = blank(40);
    painter.begin(brush(), 'add', EXTENT);
    painter.to(at(0.8, 0.3));
    painter.sheet.replace(others);
    // Nothing of the stroke before is left, nor is anything to be passed on or kept.
    expect([painter.sheet.takeShown(), painter.sheet.takeUnkept()]).toEqual([[], []]);
    painter.sheet.cancel();
    expect(painter.bytes()).toEqual(others);
    const next: (readonly [number, number])[] = [[0.5, 0.5]];
    expect(stroked(next, {}, painter)).toEqual(stroked(next, {}, new MaskPainter(SIDE, SIDE, others)));
    expect(() => painter.sheet.replace(new Uint8Array(3))).toThrowError(/48 × 48 pixels holds 3 values/);
  });
  it('takes a dab by its distance in metres, to the nearest repetition', () => {
    fc.assert(
      fc.property(place, place, shape, (u, v, over) => {
        const bytes = stroked([[u, v]], over);
        for (let i = 0; i < bytes.length; i += 7) {
          const away = (x: number, c: number) => {
            const d = Math.abs((x + 0.5) / SIDE - (c - Math.floor(c)));
            return Math.min(d, 1 - d) * EXTENT;
          };
          const want = over.strength * falloffAt(brush(over), Math.hypot(away(i % SIDE, u), away((i / SIDE) | 0, v)));
          // A pixel may lie just on the radius of a hard brush.
          if (over.falloff < 0.02 && Math.abs(Math.hypot(away(i % SIDE, u), away((i / SIDE) | 0, v)) - over.radiusM) < 0.02) continue;
          expect(Math.abs(bytes[i] / 255 - want)).toBeLessThan(0.51 / 255 + 1e-4);
        }
      }),
      { numRuns: 40 },
    );
  });
  it('repeats with the extent: a stroke elsewhere is the same stroke, moved', () => {
    fc.assert(
      fc.property(path, shape, fc.integer({ min: 0, max: SIDE - 1 }), fc.integer({ min: 0, max: SIDE - 1 }), (points, over, dx, dy) => {
        const moved = points.map(([u, v]) => [u + dx / SIDE, v + dy / SIDE] as const);
        const [here, there] = [rolled(stroked(points, over), dx, dy), stroked(moved, over)];
        // Edges of hard dabs may round to the other side.
        const other = here.reduce((n, v, i) => n + Number(Math.abs(v - there[i]) > 1), 0);
        expect(other).toBeLessThanOrEqual(over.falloff < 0.02 ? 8 * points.length * 20 : 0);
      }),
      { numRuns: 40 },
    );
  });
  it('does not care how often the pointer reports a place, and goes further with a second stroke', () => {
    const [once, often] = [stroked([[0.4, 0.6]]), stroked([...Array(9)].map(() => [0.4, 0.6]))];
    expect(often).toEqual(once);
    const painter = blank();
    stroked([[0.4, 0.6]], { strength: 0.5 }, painter);
    expect(painter.bytes()[Math.floor(0.6 * SIDE) * SIDE + Math.floor(0.4 * SIDE)]).toBe(128);
    stroked([[0.4, 0.6]], { strength: 0.5 }, painter);
    expect(painter.bytes()[Math.floor(0.6 * SIDE) * SIDE + Math.floor(0.4 * SIDE)]).toBeGreaterThan(190);
  });
  it('leaves no gap along a quick stroke', () => {
    const bytes = stroked(
      [
        [0.1, 0.5],
        [0.9, 0.5],
      ],
      { radiusM: 0.1, falloff: 0 },
    );
    for (let x = 5; x < 43; x++)
      expect(bytes[(SIDE / 2) * SIDE + x])
        .withContext(String(x))
        .toBe(255);
  });
  it('only ever goes toward its aim, and erasing undoes a whole stroke', () => {
    fc.assert(
      fc.property(path, shape, fc.integer({ min: 0, max: 255 }), (points, over, value) => {
        expect(stroked(points, over, blank(value)).every((v) => v >= value)).toBeTrue();
        expect(stroked(points, over, blank(value), 'erase').every((v) => v <= value)).toBeTrue();
        expect(new Set(stroked(points, over, blank(value), 'smooth'))).toEqual(new Set([value]));
      }),
      { numRuns: 30 },
    );
    const painter = blank();
    stroked([[0.2, 0.2]], {}, painter);
    expect(stroked([[0.2, 0.2]], { falloff: 0 }, painter, 'erase').every((v) => v === 0)).toBeTrue();
  });
  it('smooths a step into a slope with the same mean', () => {
    const step = Uint8Array.from({ length: SIDE * SIDE }, (_, i) => (i % SIDE < SIDE / 2 ? 0 : 255));
    const painter = new MaskPainter(SIDE, SIDE, step);
    const bytes = stroked([[0.5, 0.5]], { radiusM: 5, falloff: 0 }, painter, 'smooth');
    const mean = (list: Uint8Array) => list.reduce((a, b) => a + b, 0) / list.length;
    expect(mean(bytes)).toBeCloseTo(mean(step), 0);
    const row = [...bytes.subarray(0, SIDE)];
    expect(row.filter((v) => v > 0 && v < 255).length).toBeGreaterThan(20);
    for (let x = SIDE / 4; x < (SIDE * 3) / 4 - 1; x++) expect(row[x + 1]).toBeGreaterThanOrEqual(row[x]);
  });
  it('is as before when a stroke is lost, and when it is inverted twice', () => {
    fc.assert(
      fc.property(path, shape, (points, over) => {
        const painter = blank();
        const before = stroked([[0.7, 0.1]], { strength: 0.6 }, painter);
        painter.begin(brush(over), 'add', EXTENT);
        for (const [u, v] of points) painter.to(at(u, v));
        painter.cancel();
        expect(painter.bytes()).toEqual(before);
        expect(painter.to(at(0.5, 0.5))).toBe(0);
        painter.sheet.invert();
        expect(painter.bytes()).toEqual(before.map((v) => 255 - v));
        painter.sheet.invert();
        expect(painter.bytes()).toEqual(before);
        painter.sheet.fill(0.25);
        expect(painter.bytes().every((v) => v === 64)).toBeTrue();
      }),
      { numRuns: 20 },
    );
  });
  it('is broken up by patches that go on over the edges of the extent', () => {
    const bytes = stroked([[0.5, 0.5]], { radiusM: 9, falloff: 0, broken: { by: 1, atM: 0.6, seed: 4 } });
    const step = (from: number, to: number) => {
      let most = 0;
      for (let y = 0; y < SIDE; y++) most = Math.max(most, Math.abs(bytes[y * SIDE + from] - bytes[y * SIDE + to]));
      return most;
    };
    const inside = Math.max(...Array.from({ length: SIDE - 1 }, (_, x) => step(x, x + 1)));
    expect(Math.min(...bytes)).toBe(0);
    expect(Math.max(...bytes)).toBe(255);
    expect(step(SIDE - 1, 0)).toBeLessThanOrEqual(inside);
  });
  it('is weakened by the pressure of a pen, and refuses bytes of another size', () => {
    const painter = blank();
    painter.begin(brush({ falloff: 0 }), 'add', EXTENT);
    painter.to(at(0.5, 0.5, 0.25));
    expect(painter.bytes()[(SIDE / 2) * SIDE + SIDE / 2]).toBe(64);
    expect(() => new MaskPainter(4, 4, new Uint8Array(15))).toThrowError(RangeError, 'A mask of 4 × 4 pixels holds 15 values');
  });
});

describe('painted masks of a blend', () => {
  it('are found where they count, each once, with the layers that they feed', () => {
    const painted = makeCue('painted', {});
    const blend = makeBlend('Step', {
      groups: { g: { name: 'Growth', on: true, coverage: { m: painted } } },
      coverages: { s: { name: 'Trodden', coverage: { k: makeCue('constant', { value: 1 }), p: painted } } },
      layers: {
        stone: makeLayer('stone', 'Stone', 1),
        clay: makeLayer('clay', 'Clay', 2, { shared: 's', coverage: { old: painted } }),
        leaves: makeLayer('leaves', 'Leaves', 3, { shared: 's' }),
        moss: makeLayer('moss', 'Moss', 4, { group: 'g', coverage: { a: painted, b: makeCue('slope') } }),
      },
    });
    expect(maskWells(blend).map(({ path, feeds }) => [path.of, path.id, path.cue, feeds.join()])).toEqual([
      ['coverages', 's', 'p', 'Clay,Leaves'],
      ['groups', 'g', 'm', 'Moss'],
      ['layers', 'moss', 'a', 'Moss'],
    ]);
    expect(paintedCueAt(blend, { of: 'layers', id: 'moss', cue: 'b' })).toBeNull();
    expect(paintedCueAt(blend, { of: 'groups', id: 'none', cue: 'm' })).toBeNull();
  });
});
