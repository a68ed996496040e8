import type { Cue, CueInput, CueKind } from '../document';

/** In what a cue measures: metres, degrees, parts of one, one over metres, distance between colours. */
export type CueUnit = 'm' | '°' | '' | '1/m';

export interface CueFacts {
  /** How lists call it. */
  title: string;
  help: string;
  unit: CueUnit;
  /** Ends of its input, for histograms and fields. */
  least: number;
  most: number;
}

const facts = (title: string, help: string, unit: CueUnit, least: number, most: number): CueFacts => ({ title, help, unit, least, most });

/** What there is to know of every kind of cue: menus, histograms and tests go over this list. */
export const CUES: Record<CueKind, CueFacts> = {
  vertexColour: facts('vertex colour', 'a channel painted on the vertices', '', 0, 1),
  mask: facts('map', 'a channel of a map of any surface', '', 0, 1),
  painted: facts('painted mask', 'painted over the extent', '', 0, 1),
  altitude: facts('altitude', 'metres above the sea, or above the origin of the object', 'm', -10, 10),
  slope: facts('slope', 'degrees from level', '°', 0, 180),
  direction: facts('direction faced', 'degrees away from a direction', '°', 0, 180),
  convexity: facts('edges', 'how sharply the mesh bends outwards', '1/m', -100, 100),
  concavity: facts('hollows', 'how sharply the mesh bends inwards', '1/m', -100, 100),
  occlusion: facts('occlusion', 'how much of the sky is open: 1 is all of it', '', 0, 1),
  low: facts('low places', 'how far what lies below is under its middle', 'm', -0.1, 0.1),
  ground: facts('distance from the ground', 'metres above the lowest place', 'm', 0, 10),
  noise: facts('noise', 'random, at a size in metres', '', 0, 1),
  stripes: facts('stripes', 'bands at even distances', '', 0, 1),
  grid: facts('grid', 'crossing lines at even distances', '', 0, 1),
  id: facts('ID colour', 'distance from a colour of an ID map', '', 0, Math.sqrt(3)),
  part: facts('part', 'a part of the object', '', 0, 1),
  constant: facts('even', 'the same everywhere', '', 0, 1),
};

/** A picture that cues read: a channel of a map, a painted mask (grey), or the colours of an ID map. */
export type CuePicture =
  | { kind: 'map'; surface: string; role: Extract<CueInput, { kind: 'mask' }>['role']; channel: 0 | 1 | 2 | 3 }
  | { kind: 'painted'; picture: string }
  | { kind: 'id'; surface: string };

/** The picture that a cue needs; null when it needs none, or none was chosen. */
export function pictureOf(cue: Cue): CuePicture | null {
  if (cue.kind === 'mask') return cue.surface ? { kind: 'map', surface: cue.surface, role: cue.role, channel: cue.channel } : null;
  if (cue.kind === 'painted') return cue.picture ? { kind: 'painted', picture: cue.picture } : null;
  if (cue.kind === 'id') return cue.surface ? { kind: 'id', surface: cue.surface } : null;
  return null;
}
export const pictureKey = (picture: CuePicture): string =>
  picture.kind === 'map'
    ? `${picture.surface}/${picture.role}/${picture.channel}`
    : picture.kind === 'painted'
      ? `painted/${picture.picture}`
      : `${picture.surface}/id`;

/** Degrees clockwise from north to the direction in which a compass bearing points: x east, z south (glTF: −Z is north). */
export function bearingVector(bearing: number, rise: number): [number, number, number] {
  const [b, r] = [(bearing * Math.PI) / 180, (rise * Math.PI) / 180];
  return [Math.sin(b) * Math.cos(r), Math.sin(r), -Math.cos(b) * Math.cos(r)];
}
