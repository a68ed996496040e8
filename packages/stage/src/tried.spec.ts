import { frameBounds } from '@pebble/core';
import { vec4 } from 'gl-matrix';
import { thrown } from './tried';

describe('what is thrown onto a specimen', () => {
  it('has its middle where one looks, its sides where half of it reaches, and its top up, from wherever it is thrown', () => {
    for (const [yaw, pitch] of [
      [0, 0],
      [0.9, 0.3],
      [-2.4, 1.1],
    ]) {
      const orbit = { ...frameBounds({ lo: [-1, 0, -1], hi: [1, 2, 1] }), yaw, pitch, target: [0.3, 0.8, -0.2] as [number, number, number] };
      const { matrix, from } = thrown(orbit, 0.5);
      const at = (p: readonly number[]) => [...vec4.transformMat4(vec4.create(), [p[0], p[1], p[2], 1], matrix)].slice(0, 3);
      const close = (given: readonly number[], wanted: readonly number[]) => given.forEach((v, i) => expect(v).toBeCloseTo(wanted[i], 5));
      close(at(orbit.target), [0, 0, 0]);
      expect(Math.hypot(...from)).toBeCloseTo(1, 6);
      // Level and to the right of who looks; the third axis completes a right-handed frame.
      const right = [Math.cos(yaw), 0, -Math.sin(yaw)];
      const up = [from[1] * right[2] - from[2] * right[1], from[2] * right[0] - from[0] * right[2], from[0] * right[1] - from[1] * right[0]];
      expect(up[1]).toBeGreaterThan(0);
      const off = (d: readonly number[], m: number) => orbit.target.map((v, c) => v + d[c] * m);
      close(at(off(right, 0.25)), [1, 0, 0]);
      close(at(off(up, 0.25)), [0, 1, 0]);
      close(at(off(from, 1)), [0, 0, 1]);
    }
  });
});
