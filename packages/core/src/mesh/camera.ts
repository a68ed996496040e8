// Cameras around things, and what they make of positions.
import { mat4, vec3 } from 'gl-matrix';
import type { Mesh } from './mesh';
import { boundsOf } from './mesh';

/** A camera that looks at a point from around it. Angles in radians, distance in metres. */
export interface Orbit {
  yaw: number;
  pitch: number;
  distance: number;
  target: [number, number, number];
  /** Vertical field of view in radians. */
  field: number;
  /** Metres from the eye that are in the picture at least; twelve distances unless more is asked for. */
  reach?: number;
}

/** From where something is looked at: as a walker sees it, from some way off, whole. */
export type ViewFrom = 'near' | 'middle' | 'far';
/** Shares of the whole that one stands away, and how far one looks down, in radians. What is larger than a house is walked over. */
const VIEWS = { walked: { near: [0.012, 0.17], middle: [0.12, 0.4] }, held: { near: [0.5, 0.34], middle: [1, 0.4] } } as const;
const WALKED_M = 20;
/** How near one comes to something of a size, in metres: to what is walked over nearer than a walker looks. */
export const nearest = (size: number): number => size * (size > WALKED_M ? VIEWS.walked.near[0] / 3 : 0.08);
/** Metres that an eye stays over the ground. */
const EYE_M = 1.6;

/** The highest of what lies at a place of a mesh, by its nearest vertex; places beside it are those at its rim. */
function groundAt(position: Float32Array, { lo, hi }: { lo: readonly number[]; hi: readonly number[] }, px: number, pz: number): number {
  const [x, z] = [Math.min(hi[0], Math.max(lo[0], px)), Math.min(hi[2], Math.max(lo[2], pz))];
  let [best, y] = [Infinity, lo[1]];
  for (let i = 0; i < position.length; i += 3) {
    const away = (position[i] - x) ** 2 + (position[i + 2] - z) ** 2;
    if (away < best || (away === best && position[i + 1] > y)) [best, y] = [away, position[i + 1]];
  }
  return y;
}

/** Looking straight down has no up. */
const STEEPEST = 1.5;
/** Times that an eye is raised at most: where it comes to stand then, the ground may be higher. */
const RAISES = 24;
/** A look at something that is walked over, its eye put as far over the ground as one who stands there, if it was not. */
function overGround(position: Float32Array, bounds: { lo: readonly number[]; hi: readonly number[] }, given: Orbit): Orbit {
  let view = given;
  for (let k = 0; k < RAISES; k++) {
    const [ex, ey, ez] = eyeOf(view);
    const least = groundAt(position, bounds, ex, ez) + EYE_M;
    if (ey >= least - 1e-6) return view;
    const pitch = Math.asin(Math.min(1, Math.max(-1, (least - view.target[1]) / view.distance)));
    // Never less than it was, and a little each time: straight up there is always room.
    view = { ...view, pitch: Math.min(STEEPEST, Math.max(pitch, view.pitch + 0.01)) };
    if (view.pitch === STEEPEST) return view;
  }
  return { ...view, pitch: STEEPEST };
}
const sizeOf = ({ lo, hi }: { lo: readonly number[]; hi: readonly number[] }): number => Math.hypot(hi[0] - lo[0], hi[1] - lo[1], hi[2] - lo[2]);

/** A look at a place of a mesh from near or from some way off; the eye stays over the ground. @param orbit where one looked from before */
export function viewOf({ position }: Pick<Mesh, 'position'>, orbit: Orbit, from: Exclude<ViewFrom, 'far'>): Orbit {
  const bounds = boundsOf({ position });
  const { lo, hi } = bounds;
  const size = sizeOf(bounds);
  const walked = size > WALKED_M;
  const [share, pitch] = VIEWS[walked ? 'walked' : 'held'][from];
  if (!walked) return { ...orbit, distance: size * share, pitch };
  const held = (v: number, c: number) => Math.min(hi[c], Math.max(lo[c], v));
  const [x, z] = [held(orbit.target[0], 0), held(orbit.target[2], 2)];
  return overGround(position, bounds, { ...orbit, distance: size * share, pitch, target: [x, groundAt(position, bounds, x, z) + EYE_M / 2, z] });
}

/**
 * A look after a move by hand: what is walked over is not seen from below, and whoever goes nearer comes to look at the ground
 * there, by as much of the way as is gone. Other things are turned as one likes.
 */
export function moved({ position }: Pick<Mesh, 'position'>, bounds: ReturnType<typeof boundsOf>, before: Orbit, view: Orbit): Orbit {
  if (sizeOf(bounds) <= WALKED_M) return view;
  const [x, y, z] = view.target;
  const ground = groundAt(position, bounds, x, z) + EYE_M / 2;
  const gone = Math.max(0, 1 - view.distance / before.distance);
  // Moved along the ground, it is the ground there that is looked at, as far as it was before.
  const along = Math.hypot(x - before.target[0], z - before.target[2]) > 0 ? Math.max(0, ground - y) : 0;
  return overGround(position, bounds, { ...view, target: [x, y + (ground - y) * gone + along, z] });
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
  const projection = mat4.perspective(mat4.create(), o.field, aspect, o.distance * 0.02, Math.max(o.distance * 12, o.reach ?? 0));
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
