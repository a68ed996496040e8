import fc from 'fast-check';
import { decodeTable } from '../image';
import { Builder } from './builder';
import { CpuProgram } from './cpu';
import type { Domain } from './domain';
import { signedTable } from './sources';
import type { ChannelLevel } from './sources';

const f = Math.fround;

/** The plain way: one texel after the other, every step rounded to float32 as the GPU does it. */
function reference(
  { width, height, data, stride, offset }: ChannelLevel,
  table: Float32Array | null,
  component: number,
  u: number,
  v: number,
): number {
  const texel = (x: number, y: number) => {
    const wrapped = (((y % height) + height) % height) * width + (((x % width) + width) % width);
    const sample = data[wrapped * stride + offset + component];
    return table ? table[sample] : sample;
  };
  const place = (t: number, size: number) => f(f(f(t - Math.floor(t)) * size) - 0.5);
  const [x, y] = [place(u, width), place(v, height)];
  const [cx, cy] = [Math.floor(x), Math.floor(y)];
  const mix = (a: number, b: number, t: number) => f(a + f(f(b - a) * t));
  const row = (k: number) => mix(texel(cx, cy + k), texel(cx + 1, cy + k), f(x - cx));
  return mix(row(0), row(1), f(y - cy));
}

describe('texels', () => {
  /** Coordinates by pixel; the derivative does not matter, as there is one level. */
  const domainOf = (width: number, height: number, at: (i: number) => [number, number]): Domain => ({
    width,
    height,
    footprint: { x: [0, 0], y: [0, 0] },
    fill: (_, tile, memory, out) => {
      for (let i = 0; i < tile.width * tile.height; i++) {
        const [u, v] = at((tile.y + Math.floor(i / tile.width)) * width + tile.x + (i % tile.width));
        [memory[out[0] + i], memory[out[1] + i]] = [u, v];
      }
    },
  });
  const kinds = {
    bytes: {
      make: (n: number, s: (i: number) => number) => Uint8Array.from({ length: n }, (_, i) => s(i) * 255),
      tables: [decodeTable(8, false), decodeTable(8, true), signedTable(8)],
    },
    words: {
      make: (n: number, s: (i: number) => number) => Uint16Array.from({ length: n }, (_, i) => s(i) * 65535),
      tables: [decodeTable(16, false), decodeTable(16, true), signedTable(16)],
    },
    floats: { make: (n: number, s: (i: number) => number) => Float32Array.from({ length: n }, (_, i) => s(i) * 9 - 3), tables: [null] },
  };
  const ways = {
    'one behind the other': (i: number, w: number, h: number) => [((i % w) + 0.5) / w, (Math.floor(i / w) + 0.5) / h] as [number, number],
    'one behind the other, from the middle of a row on': (i: number, w: number, h: number) =>
      [(((i + 3) % w) + 0.5) / w, (Math.floor((i + 3) / w) + 0.5) / h] as [number, number],
    'between texels': (i: number, w: number) => [f((i * 0.317) / w), 0.41] as [number, number],
    'down a column': (i: number, w: number, h: number) => [f(0.3 / w), f((i * 0.7) / h)] as [number, number],
    'all over the place': (i: number) => [f(Math.sin(i * 12.9898) * 43.7), f(Math.cos(i * 78.233) * 43.7)] as [number, number],
  };
  for (const [kind, { make, tables }] of Object.entries(kinds))
    for (const [way, at] of Object.entries(ways))
      it(`of ${kind}, ${way}, are those of the plain loop, bit for bit`, () =>
        fc.assert(
          fc.property(
            fc.constantFrom(...tables),
            fc.constantFrom(1, 2, 3, 4),
            fc.integer({ min: 0, max: 3 }),
            fc.constantFrom(1, 2, 3),
            fc.integer({ min: 1, max: 40 }),
            fc.integer({ min: 1, max: 40 }),
            fc.integer({ min: 1, max: 130 }),
            fc.integer({ min: 1, max: 9 }),
            (table, stride, first, wanted, w, h, width, height) => {
              const components = Math.min(wanted, stride) as 1 | 2 | 3;
              const offset = Math.min(first, stride - components);
              const level = { width: w, height: h, stride, offset, data: make(w * h * stride, (i) => (Math.sin(i * 91.7) + 1) / 2) };
              const channel = ({ 1: 'mask', 2: 'normal', 3: 'baseColor' } as const)[components];
              const b = new Builder();
              const node = b.node('image', [b.texcoord(), b.constant(0)], { slot: 0, channel });
              const domain = domainOf(width, height, (i) => at(i, w, h));
              let wrong = 0;
              new CpuProgram({ x: node }, 64).run({ domain, sources: () => ({ levels: [level], table }) }, (tile, planes) => {
                for (let i = 0; i < tile.width * tile.height; i++) {
                  const pixel = (tile.y + Math.floor(i / tile.width)) * width + tile.x + (i % tile.width);
                  const [u, v] = at(pixel, w, h);
                  for (let c = 0; c < components; c++) if (planes('x')[c][i] !== f(reference(level, table, c, f(u), f(v)))) wrong++;
                }
              });
              expect(wrong).toBe(0);
            },
          ),
          { numRuns: 40 },
        ));
});
