import * as fc from 'fast-check';
import type { Image } from '../image';
import { makeImage, mipChain } from '../image';
import { makeRandom } from '../noise';
import { cutoutMipChain, idMipChain, roleMipChain, roughnessMipChain } from './mips';

/** A bumpy ground as unit normals at 16 bit, from waves of seeded directions; `steep` is its mean slope. */
function bumps(size: number, seed: number, steep: number): Image {
  const random = makeRandom(seed);
  const waves = Array.from({ length: 24 }, () => ({
    x: Math.round((random() - 0.5) * size * 0.8),
    y: Math.round((random() - 0.5) * size * 0.8),
    at: random() * 2 * Math.PI,
  }));
  const data = new Uint16Array(size * size * 3);
  for (let i = 0; i < size * size; i++) {
    let [sx, sy] = [0, 0];
    for (const w of waves) {
      const c = Math.cos((2 * Math.PI * (w.x * (i % size) + w.y * Math.floor(i / size))) / size + w.at);
      const k = Math.hypot(w.x, w.y) || 1;
      sx += (c * w.x) / k;
      sy += (c * w.y) / k;
    }
    const scale = steep / Math.sqrt(waves.length / 2);
    const n = [-sx * scale, -sy * scale, 1];
    const length = Math.hypot(...n);
    n.forEach((v, c) => (data[i * 3 + c] = Math.round((v / length / 2 + 0.5) * 65535)));
  }
  return makeImage({ width: size, height: size, channels: 3, depth: 16, data });
}
const normalAt = ({ data }: Image, i: number): [number, number, number] => {
  const n = [0, 1, 2].map((c) => (data[i * 3 + c] / 65535) * 2 - 1);
  const length = Math.hypot(...n);
  return [n[0] / length, n[1] / length, n[2] / length];
};
/** Walter et al. 2007, eq. 33: how many facets of a surface of roughness² = α face `h`. */
const facets = (n: readonly number[], h: readonly number[], alpha: number): number => {
  const cos = Math.max(0, n[0] * h[0] + n[1] * h[1] + n[2] * h[2]);
  return alpha ** 2 / (Math.PI * (cos ** 2 * (alpha ** 2 - 1) + 1) ** 2);
};
/** Directions that are spread over the upper half. */
const ABOVE = Array.from({ length: 600 }, (_, k) => {
  const z = 1 - (k + 0.5) / 600;
  const turn = k * Math.PI * (3 - Math.sqrt(5));
  const r = Math.sqrt(1 - z * z);
  return [r * Math.cos(turn), r * Math.sin(turn), z];
});

describe('levels of roughness under a normal map', () => {
  it('reflect as all texels below them do: the energy is off by less than half of what plain levels are', () => {
    const size = 32;
    for (const [seed, steep] of [
      [1, 0.2],
      [2, 0.35],
      [3, 0.5],
    ])
      for (const rough of [0.15, 0.3, 0.45]) {
        const normal = bumps(size, seed, steep);
        const roughness = makeImage({ width: size, height: size, channels: 1, depth: 16, data: new Uint16Array(size * size).fill(rough * 65535) });
        const levels = roughnessMipChain(roughness, normal);
        for (const level of [3, 4, 5]) {
          const across = size >> level;
          const wide = 1 << level;
          let [plain, widened] = [0, 0];
          for (let t = 0; t < across * across; t++) {
            const texels = Array.from({ length: wide * wide }, (_, k) => {
              const [x, y] = [(t % across) * wide + (k % wide), Math.floor(t / across) * wide + Math.floor(k / wide)];
              return normalAt(normal, y * size + x);
            });
            const sum = [0, 1, 2].map((c) => texels.reduce((s, n) => s + n[c], 0));
            const length = Math.hypot(...sum);
            const mean = sum.map((v) => v / length);
            const found = levels[level].data[t] / 65535;
            for (const h of ABOVE) {
              const truth = texels.reduce((s, n) => s + facets(n, h, rough ** 2), 0) / texels.length;
              plain += (facets(mean, h, rough ** 2) - truth) ** 2;
              widened += (facets(mean, h, found ** 2) - truth) ** 2;
            }
          }
          expect(widened)
            .withContext(`steep ${steep}, roughness ${rough}, level ${level}`)
            .toBeLessThan(plain / 2);
        }
      }
  });
  it('are as they were where the ground is flat, and never smoother than that', () => {
    const flat = makeImage({
      width: 16,
      height: 16,
      channels: 3,
      depth: 16,
      data: new Uint16Array(16 * 16 * 3).map((_, i) => (i % 3 === 2 ? 65535 : 32768)),
    });
    const random = makeRandom(4);
    const data = new Uint16Array(256).map(() => random() * 65535);
    const roughness = makeImage({ width: 16, height: 16, channels: 1, depth: 16, data });
    const levels = roughnessMipChain(roughness, flat);
    for (const [l, level] of levels.entries()) {
      const side = 1 << l;
      for (let t = 0; t < level.data.length && l > 0; t++) {
        // The mean of what GGX adds up by: α².
        let sum = 0;
        for (let k = 0; k < side * side; k++)
          sum += (data[(Math.floor(t / level.width) * side + Math.floor(k / side)) * 16 + (t % level.width) * side + (k % side)] / 65535) ** 4;
        expect(Math.abs(level.data[t] / 65535 - (sum / side ** 2) ** 0.25)).toBeLessThan(2e-4);
      }
    }
    const bumpy = roughnessMipChain(roughness, bumps(16, 5, 0.4));
    for (let l = 1; l < levels.length; l++)
      for (let t = 0; t < levels[l].data.length; t++) expect(bumpy[l].data[t]).toBeGreaterThanOrEqual(levels[l].data[t]);
  });
  it('read a normal map of another size at the same places', () => {
    const roughness = makeImage({ width: 64, height: 64, channels: 1, data: new Uint8Array(4096).fill(60) });
    const levels = roughnessMipChain(roughness, bumps(16, 6, 0.5));
    expect(levels.map((l) => l.width)).toEqual([64, 32, 16, 8, 4, 2, 1]);
    // Down to the texels of the normal map nothing is lost, below them more and more.
    const means = levels.map((l) => [...l.data].reduce((s, v) => s + v, 0) / l.data.length);
    expect(means.slice(0, 3)).toEqual([60, 60, 60]);
    for (let l = 3; l < 7; l++) expect(means[l]).toBeGreaterThan(means[l - 1] - 1e-9);
    expect(means[6]).toBeGreaterThan(90);
  });
});

describe('levels of IDs', () => {
  it('hold no value that the image does not, at any size, and what most of it is', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 21 }), fc.integer({ min: 1, max: 21 }), fc.integer({ min: 0, max: 1e6 }), (width, height, seed) => {
        const random = makeRandom(seed);
        const colours = [0x10ff20, 0x2030ff, 0xff8000, 0x808080];
        const data = new Uint8Array(width * height * 3);
        for (let i = 0; i < width * height; i++) {
          const c = colours[Math.floor(random() * 4)];
          data.set([c >> 16, (c >> 8) & 255, c & 255], i * 3);
        }
        const chain = idMipChain(makeImage({ width, height, channels: 3, data }));
        expect(chain.at(-1)?.width).toBe(1);
        expect(chain.at(-1)?.height).toBe(1);
        for (const level of chain)
          for (let i = 0; i < level.data.length; i += 3)
            if (!colours.includes((level.data[i] << 16) | (level.data[i + 1] << 8) | level.data[i + 2]))
              throw new Error(`${width} × ${height}: a new colour`);
      }),
      { numRuns: 60 },
    );
    const three = makeImage({ width: 2, height: 2, channels: 1, data: Uint8Array.of(9, 200, 200, 200) });
    expect([...idMipChain(three)[1].data]).toEqual([200]);
  });
});

describe('levels of cut-outs', () => {
  it('cover what the first one covers, where plain levels thin out', () => {
    const size = 64;
    for (const [cutoff, seed] of [
      [0.5, 1],
      [0.3, 2],
      [0.7, 3],
    ]) {
      const random = makeRandom(seed);
      // Thin stalks on nothing, and noise at their edges.
      const data = new Uint16Array(size * size * 4);
      for (let i = 0; i < size * size; i++) {
        data.set([9000, 30000, 5000], i * 4);
        data[i * 4 + 3] = (i % size) % 7 < 2 ? 50000 + random() * 15000 : random() * 12000;
      }
      const image = makeImage({ width: size, height: size, channels: 4, depth: 16, data });
      const cover = ({ data: d, width, height }: Image) => {
        let n = 0;
        for (let i = 3; i < d.length; i += 4) if (d[i] / 65535 >= cutoff) n++;
        return n / (width * height);
      };
      const kept = cutoutMipChain(image, cutoff);
      const plain = mipChain(image);
      const wanted = cover(image);
      for (let l = 1; l < 5; l++) {
        expect(Math.abs(cover(kept[l]) - wanted))
          .withContext(`level ${l} at ${cutoff}`)
          .toBeLessThanOrEqual(1 / (kept[l].width * kept[l].height) + 1e-9);
        // Colours are those of plain levels.
        expect([...kept[l].data].filter((_, i) => i % 4 < 3)).toEqual([...plain[l].data].filter((_, i) => i % 4 < 3));
      }
      expect(Math.abs(cover(plain[4]) - wanted)).toBeGreaterThan(0.1);
    }
  });
});

describe('levels by what a map holds', () => {
  it('take the way of their role', () => {
    const image = makeImage({ width: 4, height: 4, channels: 3, data: new Uint8Array(48).map((_, i) => (i * 37) % 256) });
    const grey = makeImage({ width: 4, height: 4, channels: 1, data: new Uint8Array(16).map((_, i) => (i * 37) % 256) });
    expect(roleMipChain('baseColor', image)).toEqual(mipChain(image));
    expect(roleMipChain('id', image)).toEqual(idMipChain(image));
    expect(roleMipChain('roughness', grey)).toEqual(mipChain(grey));
    expect(roleMipChain('roughness', grey, { normal: image })).toEqual(roughnessMipChain(grey, image));
    expect(roleMipChain('opacity', grey, { cutoff: 0.5 })).toEqual(cutoutMipChain(grey, 0.5));
    const [, half] = roleMipChain('normal', image);
    for (let i = 0; i < half.data.length; i += 3)
      expect(Math.abs(Math.hypot(...[0, 1, 2].map((c) => (half.data[i + c] / 255) * 2 - 1)) - 1)).toBeLessThan(0.012);
  });
});
