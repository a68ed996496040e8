// Degrees between the ground and a direction.
import type { Builder, DagNode } from '../../compile';

const DEGREES = 180 / Math.PI;

/** Degrees between the ground's normal and a direction of length 1. */
export function degreesFrom(b: Builder, toward: DagNode): DagNode {
  const cosine = b.node('dotproduct', [b.node('normalize', [b.node('normal')]), toward]);
  return b.multiply(b.node('acos', [cosine]), b.constant(DEGREES));
}

/** Where a bearing points, degrees clockwise from north, and so many above the horizon: x east, z south (glTF: −Z is north). */
export function bearingVector(bearing: number, rise: number): [number, number, number] {
  const [b, r] = [(bearing * Math.PI) / 180, (rise * Math.PI) / 180];
  return [Math.sin(b) * Math.cos(r), Math.sin(r), -Math.cos(b) * Math.cos(r)];
}
