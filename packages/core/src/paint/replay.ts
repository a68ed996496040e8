import type { Component } from '../coverage';
import type { Mesh } from '../mesh/mesh';
import { Bvh } from '../mesh/bvh';
import type { Brush, StrokeAim } from './brush';
import { DEFAULT_BRUSH } from './brush';
import { Brushing } from './brushing';
import type { MeshMaskPainter } from './mesh-mask';
import { CHANNEL_ORDER } from './painter';
import type { VertexPainter } from './painter';

/** A stroke that was written down: places in metres on the mesh, with the pressure of a pen where that is not 1. */
export interface WrittenStroke {
  brush: Partial<Brush>;
  aim: StrokeAim;
  /** Channel of vertex colours; masks have none. */
  channel?: Component;
  points: readonly (readonly [x: number, y: number, z: number, pressure?: number])[];
}
/** Strokes as a file. */
export interface StrokesFile {
  kind: 'strokes';
  version: 1;
  strokes: readonly WrittenStroke[];
}

const AIMS: readonly StrokeAim[] = ['add', 'erase', 'set', 'smooth'];
const isNumber = (v: unknown): v is number => typeof v === 'number' && Number.isFinite(v);

/** Reads strokes. @throws RangeError that says which part of them is wrong */
export function parseStrokes(text: string): StrokesFile {
  let body: Partial<StrokesFile>;
  try {
    body = (JSON.parse(text) ?? {}) as Partial<StrokesFile>;
  } catch (error) {
    throw new RangeError(`It is not JSON: ${(error as Error).message}`);
  }
  if (body.kind !== 'strokes' || body.version !== 1) throw new RangeError('It holds no strokes: its kind is to be "strokes", its version 1');
  if (!Array.isArray(body.strokes) || !body.strokes.length) throw new RangeError('It has no strokes');
  for (const [i, stroke] of (body.strokes as Partial<WrittenStroke>[]).entries()) {
    const refuse = (message: string): never => {
      throw new RangeError(`Stroke ${i + 1}: ${message}`);
    };
    if (!stroke || typeof stroke !== 'object') refuse('it is none');
    if (!AIMS.includes(stroke.aim as StrokeAim)) refuse(`its aim is one of ${AIMS.join(', ')}, not "${String(stroke.aim)}"`);
    if (stroke.channel !== undefined && !CHANNEL_ORDER.includes(stroke.channel)) refuse(`its channel is one of ${CHANNEL_ORDER.join(', ')}`);
    const { radiusM, strength, falloff, value, mirror } = { ...DEFAULT_BRUSH, ...stroke.brush };
    if (!isNumber(radiusM) || !(radiusM > 0)) refuse('the radius of its brush is metres over 0');
    for (const [name, share] of Object.entries({ strength, falloff, value }))
      if (!isNumber(share) || share < 0 || share > 1) refuse(`the ${name} of its brush is from 0 to 1`);
    if (mirror !== null && mirror !== 'x' && mirror !== 'z') refuse('its brush is mirrored in x, in z, or null');
    if (!Array.isArray(stroke.points) || !stroke.points.length) refuse('it has no points');
    for (const [k, point] of (stroke.points as unknown[]).entries())
      if (!Array.isArray(point) || point.length < 3 || point.length > 4 || !point.every(isNumber))
        refuse(`point ${k + 1} is [x, y, z] in metres, with the pressure of a pen from 0 to 1 behind it if there was one`);
  }
  return body as StrokesFile;
}

/** Paints strokes as they were written down. Gives how many of their points lay beside the mesh. */
export function replayStrokes(
  { strokes }: Pick<StrokesFile, 'strokes'>,
  painter: VertexPainter | MeshMaskPainter,
  mesh: Pick<Mesh, 'position' | 'index'>,
): { beside: number } {
  const tree = new Bvh(mesh);
  let beside = 0;
  for (const { brush, aim, channel = 'r', points } of strokes) {
    const whole: Brush = { ...DEFAULT_BRUSH, ...brush, broken: { ...DEFAULT_BRUSH.broken, ...brush.broken } };
    if ('sheet' in painter) painter.begin(whole, aim);
    else painter.begin(whole, channel, aim);
    const going = new Brushing(painter, mesh, tree, whole);
    for (const [x, y, z, pressure = 1] of points) if (going.toPlace([x, y, z], pressure) === null) beside++;
    if ('sheet' in painter) painter.sheet.end();
    else painter.end();
  }
  return { beside };
}
