// Cameras around things, and what they make of positions.
import { mat4, vec3 } from 'gl-matrix';

/** A camera that looks at a point from around it. Angles in radians, distance in metres. */
export interface Orbit {
  yaw: number;
  pitch: number;
  distance: number;
  target: [number, number, number];
  /** Vertical field of view in radians. */
  field: number;
}

/** The usual look at flat ground of `extentM` metres. */
export const frameOrbit = (extentM: number): Orbit => ({
  yaw: 0.32,
  pitch: 0.74,
  distance: extentM * 1.62,
  target: [0, -0.03 * extentM, 0.04 * extentM],
  field: 0.62,
});

/** Share of half the picture that a framed box reaches at most, in pictures at least this many times as wide as high. */
const FRAMED = { share: 0.86, aspect: 1.6 };
/** The usual look at what fills a box, all of it in the picture: the flatter it lies, the more from above. */
export function frameBounds({ lo, hi }: { lo: readonly number[]; hi: readonly number[] }): Orbit {
  const [w, h, d] = hi.map((v, c) => v - lo[c]);
  const lying = Math.min(1, Math.max(w, d) / Math.max(h, 1e-6) / 5);
  const target = [0, 1, 2].map((c) => (lo[c] + hi[c]) / 2) as Orbit['target'];
  const orbit = { ...frameOrbit(1), pitch: 0.28 + 0.46 * lying, distance: 1, target };
  const turned = mat4.lookAt(mat4.create(), eyeOf(orbit), target, [0, 1, 0]);
  const reach = Math.tan(orbit.field / 2) * FRAMED.share;
  let distance = 0;
  for (let k = 0; k < 8; k++) {
    const corner = [0, 1, 2].map((c) => ((k >> c) & 1 ? hi[c] : lo[c])) as [number, number, number];
    const [x, y, z] = vec3.transformMat4(vec3.create(), corner, turned);
    // The eye is one away here: a corner is z + 1 nearer than the target, which is at the middle of the picture.
    distance = Math.max(distance, z + 1 + Math.max(Math.abs(y), Math.abs(x) / FRAMED.aspect) / reach);
  }
  return { ...orbit, distance };
}

/** The part of a picture that nothing lies over: edges from −1 to 1, x to the right and y up, and the picture's width over its height. */
export interface Window {
  left: number;
  right: number;
  bottom: number;
  top: number;
  aspect: number;
}

/** How often a camera is set right until a box fills its window: each time it misses by a tenth of what it did. */
const ROUNDS = 12;
/** The usual look at what fills a box, as large as it can be in a part of the picture and in its middle. */
export function frameWithin(bounds: { lo: readonly number[]; hi: readonly number[] }, window: Window, field: number): Orbit {
  const orbit: Orbit = { ...frameBounds(bounds), field };
  const { lo, hi } = bounds;
  const corners = Array.from({ length: 8 }, (_, k) => [0, 1, 2].map((c) => ((k >> c) & 1 ? hi[c] : lo[c])) as [number, number, number]);
  const [width, height] = [Math.max(0.1, window.right - window.left), Math.max(0.1, window.top - window.bottom)];
  for (let round = 0; round < ROUNDS; round++) {
    const view = mat4.lookAt(mat4.create(), eyeOf(orbit), orbit.target, [0, 1, 0]);
    const reach = Math.tan(field / 2);
    let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
    for (const corner of corners) {
      const [x, y, z] = vec3.transformMat4(vec3.create(), corner, view);
      const depth = Math.max(-z, 0.05 * orbit.distance);
      [x0, x1] = [Math.min(x0, x / (depth * reach * window.aspect)), Math.max(x1, x / (depth * reach * window.aspect))];
      [y0, y1] = [Math.min(y0, y / (depth * reach)), Math.max(y1, y / (depth * reach))];
    }
    // The middle of what is seen goes to the middle of the window, along the picture.
    const across = ((x0 + x1) / 2 - (window.left + window.right) / 2) * orbit.distance * reach * window.aspect;
    const up = ((y0 + y1) / 2 - (window.bottom + window.top) / 2) * orbit.distance * reach;
    orbit.target = [0, 1, 2].map((c) => orbit.target[c] + across * view[c * 4] + up * view[c * 4 + 1]) as Orbit['target'];
    orbit.distance *= Math.max((x1 - x0) / width, (y1 - y0) / height, 1e-3);
  }
  return orbit;
}

export function eyeOf(o: Orbit): vec3 {
  const c = Math.cos(o.pitch);
  return vec3.fromValues(
    o.target[0] + o.distance * c * Math.sin(o.yaw),
    o.target[1] + o.distance * Math.sin(o.pitch),
    o.target[2] + o.distance * c * Math.cos(o.yaw),
  );
}

export function clipMatrix(o: Orbit, aspect: number): mat4 {
  const projection = mat4.perspective(mat4.create(), o.field, aspect, o.distance * 0.02, o.distance * 12);
  const view = mat4.lookAt(mat4.create(), eyeOf(o), o.target, [0, 1, 0]);
  return mat4.multiply(projection, projection, view);
}

/** Direction from the eye through a place of the picture, x and y from 0 to 1 from the top-left. */
export function rayThrough(o: Orbit, aspect: number, x: number, y: number): [number, number, number] {
  const inverse = mat4.invert(mat4.create(), clipMatrix(o, aspect)) as mat4;
  const far = vec3.transformMat4(vec3.create(), [2 * x - 1, 1 - 2 * y, 1], inverse);
  const [dx, dy, dz] = vec3.normalize(far, vec3.subtract(far, far, eyeOf(o)));
  return [dx, dy, dz];
}
