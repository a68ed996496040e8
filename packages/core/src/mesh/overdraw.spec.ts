import { overdrawOf } from './overdraw';

/** Squares that face the eye, one behind the other. */
const cards = (count: number) => {
  const position: number[] = [];
  const index: number[] = [];
  for (let n = 0; n < count; n++) {
    for (const [x, y] of [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ])
      position.push(x * 0.3, y * 0.3, -n * 5e-4);
    index.push(...[0, 1, 2, 0, 2, 3].map((i) => n * 4 + i));
  }
  return { position: Float32Array.from(position), index: Uint32Array.from(index) };
};
const orbit = { target: [0, 0, 0] as [number, number, number], yaw: 0, pitch: 0, distance: 3, field: 0.6 };

describe('overdraw', () => {
  it('of cards one behind the other is as many as there are', () => {
    for (const n of [1, 2, 5]) {
      const { mean, most } = overdrawOf(cards(n), orbit);
      expect(most).toBe(n);
      expect(mean).toBeGreaterThan(n - 0.3);
      expect(mean).toBeLessThanOrEqual(n);
    }
  });
  it('of nothing is nothing', () => {
    expect(overdrawOf({ position: new Float32Array(0), index: new Uint32Array(0) }, orbit)).toEqual({ mean: 0, most: 0 });
  });
});
