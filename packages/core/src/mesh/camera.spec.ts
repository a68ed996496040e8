import fc from 'fast-check';
import type { Mesh, Orbit } from '../index';
import { boundsOf, eyeOf, fieldMesh, frameBounds, frameOrbit, hillside, HILLSIDE, moved, nearest, viewOf } from '../index';

/** Metres that an eye stays over the ground, less what vertices apart may hide. */
const EYE_M = 1.6;
const hill: Mesh = fieldMesh(hillside(257), 4, HILLSIDE.footM) as Mesh;
const bounds = boundsOf(hill);
/** The altitude of the vertex that is nearest to a place, read straight off the mesh. */
function groundAt(x: number, z: number): number {
  let [best, y] = [Infinity, 0];
  for (let i = 0; i < hill.position.length; i += 3) {
    const away = Math.hypot(hill.position[i] - x, hill.position[i + 2] - z);
    if (away < best) [best, y] = [away, hill.position[i + 1]];
  }
  return y;
}
const inside = (v: number, c: number) => Math.min(bounds.hi[c], Math.max(bounds.lo[c], v));
const overGround = (view: Orbit) => {
  const [x, y, z] = eyeOf(view);
  return y - groundAt(inside(x, 0), inside(z, 2));
};

describe('a look at what is walked over', () => {
  it('never comes under the ground by turns, moves and the wheel, and comes to look at it from near', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            yaw: fc.double({ min: -1, max: 1, noNaN: true }),
            pitch: fc.double({ min: -0.4, max: 0.4, noNaN: true }),
            times: fc.double({ min: 0.5, max: 1.2, noNaN: true }),
            dx: fc.integer({ min: -30, max: 30 }),
          }),
          { minLength: 1, maxLength: 12 },
        ),
        (moves) => {
          let view = frameBounds(bounds);
          for (const { yaw, pitch, times, dx } of moves) {
            const distance = Math.max(nearest(540), view.distance * times);
            const next: Orbit = {
              ...view,
              yaw: view.yaw + yaw,
              pitch: Math.min(1.5, Math.max(-0.3, view.pitch + pitch)),
              distance,
              target: [view.target[0] + dx, view.target[1], view.target[2]],
            };
            view = moved(hill, bounds, view, next);
            // A steep place straight over the eye may want more than looking down gives.
            if (view.pitch < 1.2) expect(overGround(view)).toBeGreaterThanOrEqual(EYE_M - 0.01);
          }
        },
      ),
      { numRuns: 40 },
    );
    let view = frameBounds(bounds);
    for (let k = 0; k < 40; k++) view = moved(hill, bounds, view, { ...view, distance: Math.max(nearest(540), view.distance * 0.85) });
    expect(Math.abs(view.target[1] - groundAt(view.target[0], view.target[2]))).toBeLessThan(2);
  });
  it('is left alone while one stays where one is, and for what is held in the hand', () => {
    const far = frameBounds(bounds);
    expect(moved(hill, bounds, far, { ...far, yaw: far.yaw + 0.3 }).target).toEqual(far.target);
    const small = { position: hill.position.map((v) => v / 100) };
    const low: Orbit = { ...frameOrbit(4), pitch: -0.3 };
    expect(moved(small, boundsOf(small), low, low)).toBe(low);
  });
  it('stays over the ground where it is asked for from near', () => {
    for (const x of [-200, -60, 0, 90, 210]) {
      const view = viewOf(hill, { ...frameBounds(bounds), target: [x, 0, x / 2] }, 'near');
      expect(overGround(view))
        .withContext(`${x}`)
        .toBeGreaterThanOrEqual(EYE_M - 0.01);
    }
  });
});
