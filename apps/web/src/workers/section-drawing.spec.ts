import type { Section } from '@pebble/core';
import { contendersOf, drawSection, fitSection, seamOf } from './section-drawing';
import { alongCut } from '../views/blend/stage/stage-cut';
import { lifted } from '../views/blend/layers/layer-tone';

const section = (winner: number[]): Section => ({
  lengthM: 2,
  height: Float32Array.from(winner, (_, i) => i * 0.001),
  winner: Uint8Array.from(winner),
  layers: [0, 1].map((l) => ({
    id: `l${l}`,
    profile: Float32Array.from(winner, () => l * 0.01),
    coverage: new Float32Array(winner.length).fill(1),
    weight: new Float32Array(winner.length),
    share: Float32Array.from(winner, (w) => (w === l ? 1 : 0)),
  })),
});

describe('drawing a section', () => {
  const s = section([0, 0, 0, 1, 1, 1, 1, 0, 0, 0]);
  it('fits all heights above the bands, in true proportion to the exaggeration it states', () => {
    const scale = fitSection(s, 1000, 220);
    const y = (h: number) => scale.zero - h * scale.rise;
    expect(y(scale.hi)).toBeGreaterThan(0);
    expect(y(scale.lo)).toBeLessThan(scale.bands);
    expect(scale.exaggeration).toBeCloseTo(scale.rise / 500, 6);
  });
  it('draws a metre upward as long as one along when it is asked to, what is there in the middle', () => {
    const scale = fitSection(s, 1000, 220, undefined, true);
    expect(scale.exaggeration).toBeCloseTo(1, 9);
    expect(scale.rise).toBe(500);
    const middle = scale.zero - ((scale.lo + scale.hi) / 2) * scale.rise;
    expect(middle).toBeGreaterThan(60);
    expect(middle).toBeLessThan(scale.bands - 60);
  });
  it('gives no room to layers that do not contend', () => {
    const far = section([0, 0, 0, 0]);
    far.layers[1].profile.fill(9);
    expect(contendersOf(far, 0)).toEqual([true, false]);
    expect(contendersOf(far, 1)).toEqual([true, true]);
    expect(fitSection(far, 1000, 220, [true, false]).hi).toBeLessThan(1);
    expect(fitSection(far, 1000, 220, [true, true]).hi).toBe(9);
  });
  it('knows where along the cut a place lies, and when it is away from it', () => {
    const cut = { ax: 0, ay: 0.5, bx: 1, by: 0.5 };
    expect(alongCut(cut, 0.25, 0.51)).toBeCloseTo(0.25, 9);
    expect(alongCut(cut, 0.25, 0.6)).toBeNull();
    expect(alongCut(cut, 1.2, 0.5)).toBeNull();
    expect(alongCut(null, 0, 0)).toBeNull();
  });
  it('finds the seam of the chosen layer nearest the middle', () => {
    expect(seamOf(s, 1)).toBe(3);
    expect(seamOf(section([1, 1, 1]), 1)).toBeNull();
  });
  it('fills with the winner and draws bands by share', () => {
    const canvas = new OffscreenCanvas(1060, 220);
    const context = canvas.getContext('2d')!;
    const scale = fitSection(s, 1000, 220);
    drawSection(context, s, scale, { tones: ['#ff0000', '#00ff00'], selected: 1, shown: [true, true], ink: '#000', line: '#ccc', panel: '#fff' });
    const at = (x: number, y: number) => [...context.getImageData(x, y, 1, 1).data];
    expect(at(250, scale.bands - 8)[0]).toBeGreaterThan(200);
    expect(at(500, scale.bands - 8)[1]).toBeGreaterThan(120);
    const band = scale.bands + 4 + 3;
    expect(at(500, band)).toEqual([0, 255, 0, 255]);
    expect(at(50, band)[3]).toBe(0);
    expect(at(50, band + 8)).toEqual([255, 0, 0, 255]);
  });
  it('goes on faintly where a layer may not be', () => {
    const inkOf = (coverage: number) => {
      const one = section([0, 0, 0, 0, 0, 0, 0, 0, 0, 0]);
      one.layers[1].coverage.fill(coverage);
      const context = new OffscreenCanvas(1000, 220).getContext('2d')!;
      drawSection(context, one, fitSection(one, 1000, 220), {
        tones: ['#ff0000', '#00ff00'],
        selected: 1,
        shown: [true, true],
        ink: '#000',
        line: '#ccc',
        panel: '#fff',
      });
      const { data } = context.getImageData(0, 0, 1000, 100);
      let green = 0;
      for (let i = 0; i < data.length; i += 4) if (data[i + 1] > 90 && data[i] < 90) green += data[i + 3];
      return green;
    };
    expect(inkOf(1)).toBeGreaterThan(5 * inkOf(0));
    expect(inkOf(0)).toBeGreaterThan(0);
  });
  it('raises tones that are too dark to be seen', () => {
    expect(lifted('#201000')).toBe('rgb(110 55 0)');
    expect(lifted('#c08040')).toBe('rgb(192 128 64)');
  });
});
