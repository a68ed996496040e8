// How looks at the specimen and the flat move by hand.
import type { Orbit } from '@pebble/core';
import { nearest } from '@pebble/core';
import type { FlatView } from '@pebble/stage';

/** The usual look at the flat. */
export const WHOLE: FlatView = { u: 0.5, v: 0.5, span: 1.06 };
/** How far the middle of the flat goes, and how much of it is seen. */
const REACH = [-0.4, 1.4] as const;
const SPANS = [0.02, 2] as const;
/** Radians that one looks up and down at most. */
const PITCHES = [-0.3, 1.5] as const;
/** Radians by which a pixel and an arrow key turn the specimen; share of what is seen by which an arrow key moves the flat. */
const TURN = { pixel: 0.008, yaw: 0.1, pitch: 0.08 };
const STEP = 0.05;
/** Times its size that one goes away at most. */
const FARTHEST = 9.6;
const ZOOM = 0.001;
/** What an arrow key goes by: to the right and down. */
const ARROWS: Readonly<Record<string, readonly [right: number, down: number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

export const held = (v: number, [least, most]: readonly [number, number]): number => Math.min(most, Math.max(least, v));
/** What an arrow key goes by, which then does nothing else; null for other keys. */
export function arrowOf(event: KeyboardEvent): readonly [right: number, down: number] | null {
  const by = (ARROWS[event.key] as (typeof ARROWS)[string] | undefined) ?? null;
  if (by) event.preventDefault();
  return by;
}

const turnedBy = (o: Orbit, yaw: number, pitch: number): Orbit => ({ ...o, yaw: o.yaw + yaw, pitch: held(o.pitch + pitch, PITCHES) });
/** Turned by a drag, in pixels. */
export const dragTurned = (o: Orbit, dx: number, dy: number): Orbit => turnedBy(o, -dx * TURN.pixel, dy * TURN.pixel);
/** Turned by an arrow key. */
export const keyTurned = (o: Orbit, [right, down]: readonly [number, number]): Orbit => turnedBy(o, -right * TURN.yaw, -down * TURN.pitch);
/** Moved along the ground by a drag, in pixels. */
export function dragMoved(o: Orbit, dx: number, dy: number): Orbit {
  const k = o.distance / 700;
  const { target: t } = o;
  const [sin, cos] = [Math.sin(o.yaw), Math.cos(o.yaw)];
  return { ...o, target: [t[0] - dx * k * cos - dy * k * sin, t[1], t[2] + dx * k * sin - dy * k * cos] };
}
/** Nearer, or away, by what a wheel turned. @param size of what is looked at, in metres */
export function nearer(o: Orbit, wheel: number, size: number): Orbit {
  return { ...o, distance: held(o.distance * Math.exp(wheel * ZOOM), [nearest(size), size * FARTHEST]) };
}

/** The flat moved by shares of the extent. */
export const flatMoved = (f: FlatView, du: number, dv: number): FlatView => ({ ...f, u: held(f.u + du, REACH), v: held(f.v + dv, REACH) });
/** The flat moved by an arrow key. */
export const flatKeyMoved = (f: FlatView, [right, down]: readonly [number, number]): FlatView =>
  flatMoved(f, right * f.span * STEP, down * f.span * STEP);
/** The flat nearer, or farther, where a place of it stays where it is. */
export function flatNearer(f: FlatView, wheel: number, [u, v]: readonly [number, number]): FlatView {
  const span = held(f.span * Math.exp(wheel * ZOOM), SPANS);
  const k = span / f.span;
  return { u: u + (f.u - u) * k, v: v + (f.v - v) * k, span };
}
