import type { Builder, DagNode, Values } from '../compile';
import { UNIT } from '../compile';
import type { Coverage, Cue, UvSet } from '../document';
import { inOrder } from '../document';
import type { CuePicture } from './cues';
import { bearingVector, pictureKey, pictureOf } from './cues';

/** Where a coverage is worked out. */
export interface Site {
  /** Texture coordinate, one repetition of the extent a unit. */
  uv: DagNode;
  /** Height of what lies below, in metres. */
  below: DagNode;
  /** Mip level that a coordinate asks for of a picture; null reads the finest. */
  level: ((uv: DagNode, slot: number) => DagNode) | null;
  /** Slots of the pictures that cues read, by `pictureKey`. A cue whose picture is not there gives 0. */
  pictures: ReadonlyMap<string, number>;
}

/** What values need to know of the place beside the document. */
export interface CuePlace {
  extentM: number;
  /** Altitude of the object's origin; height of its lowest place over its origin, in metres. */
  standsAtM: number;
  groundM: number;
  /** Names of the object's parts, by number. */
  parts: readonly string[];
}

const at = (prefix: string, index: number) => `${prefix}c${index}_`;

/** Cells of a periodic noise of about `sizeM` over the extent: at least one, always a whole number. */
export const noiseCells = (extentM: number, sizeM: number): number => Math.max(1, Math.round(extentM / Math.max(sizeM, 1e-4)));

/** Whole stripes along u and v that come nearest to a size and a bearing: any pair of whole numbers repeats over the extent. */
export function stripeCells(extentM: number, sizeM: number, bearing: number): [number, number] {
  const n = extentM / Math.max(sizeM, 1e-4);
  const turn = (bearing * Math.PI) / 180;
  const cells: [number, number] = [Math.round(n * Math.cos(turn)), Math.round(n * Math.sin(turn))];
  return cells[0] || cells[1] ? cells : [1, 0];
}

const UP = [0, 1, 0] as const;
const DEGREES = 180 / Math.PI;

/** 1 at whole numbers, 0 half way between. */
const wave = (b: Builder, t: DagNode): DagNode => b.node('absval', [b.subtract(b.multiply(b.constant(2), b.node('fract', [t])), b.constant(1))]);

const angle = (b: Builder, cosine: DagNode): DagNode => b.multiply(b.node('acos', [cosine]), b.constant(DEGREES));

/** What a cue looks at, in its unit; null for a picture that is not there. */
function inputOf(b: Builder, cue: Cue, p: string, site: Site): DagNode | null {
  const facing = () => b.node('normalize', [b.node('normal')]);
  const bend = () => b.node('curvature');
  /** Over the extent, or as the mesh has it. */
  const laid = (set: UvSet | undefined): DagNode => (set ? b.node(`uv${set}`) : site.uv);
  const sampled = (channel: 'mask' | 'id', uv: DagNode): DagNode | null => {
    const picture = pictureOf(cue);
    const slot = picture ? site.pictures.get(pictureKey(picture)) : undefined;
    if (slot === undefined) return null;
    const level = channel === 'mask' && site.level ? site.level(uv, slot) : b.constant(0);
    return b.node('image', [uv, level], { slot, channel });
  };
  switch (cue.kind) {
    case 'constant':
      return b.value(`${p}value`, 'float', UNIT);
    case 'vertexColour':
      return b.extract(b.node('geomcolor'), 'rgba'.indexOf(cue.channel));
    case 'mask':
      return sampled('mask', b.multiply(laid(cue.set), b.value(`${p}repeats`)));
    case 'painted':
      return sampled('mask', site.uv);
    case 'altitude':
    case 'ground':
      return b.add(b.extract(b.node('position'), 1), b.value(`${p}above`));
    case 'slope':
      return angle(b, b.node('dotproduct', [facing(), b.constant(...UP)]));
    case 'direction':
      return angle(b, b.node('dotproduct', [facing(), b.value(`${p}toward`, 'vec3', { lo: -1, hi: 1 })]));
    case 'convexity':
      return bend();
    case 'concavity':
      return b.subtract(b.constant(0), bend());
    case 'occlusion':
      return b.node('occlusion');
    case 'low':
      return b.subtract(b.constant(0), site.below);
    case 'noise': {
      const cells = b.value(`${p}cells`);
      const [uv, seed] = [b.multiply(site.uv, cells), b.value(`${p}seed`)];
      if (cue.noise === 'fractal') return b.node('fractal2d', [uv, cells, seed, b.value(`${p}octaves`)]);
      return b.node({ value: 'noise2d', gradient: 'gradient2d', cellular: 'worleynoise2d' }[cue.noise], [uv, cells, seed]);
    }
    case 'stripes':
      return wave(b, b.node('dotproduct', [site.uv, b.value(`${p}cells`, 'vec2')]));
    case 'grid': {
      const across = b.multiply(site.uv, b.value(`${p}cells`));
      return b.max(wave(b, b.extract(across, 0)), wave(b, b.extract(across, 1)));
    }
    case 'id': {
      const found = sampled('id', laid(cue.set));
      if (!found) return null;
      const away = b.subtract(found, b.value(`${p}colour`, 'vec3', UNIT));
      return b.node('sqrt', [b.node('dotproduct', [away, away])]);
    }
    case 'part': {
      const away = b.node('absval', [b.subtract(b.node('part'), b.value(`${p}part`))]);
      return b.max(b.constant(0), b.invert(away));
    }
  }
}

/** One cue as a number in [0, 1]. */
function lowerCue(b: Builder, cue: Cue, p: string, site: Site): DagNode {
  const x = inputOf(b, cue, p, site);
  if (!x) return b.constant(0);
  const c = cue.kind === 'constant' ? x : b.node('ramp', [x, b.value(`${p}centre`), b.value(`${p}width`)], { shape: cue.shape });
  return cue.inverted ? b.invert(c) : c;
}

/**
 * An ordered list of cues folded from 1: *and* a·b, *or* 1 − (1−a)(1−b), *but not* a·(1−b), *at most* min, *at least* max.
 * A cue's amount mixes it toward what leaves the coverage as it was.
 */
export function lowerCoverage(b: Builder, coverage: Readonly<Coverage>, prefix: string, site: Site): DagNode {
  let a = b.constant(1);
  inOrder(coverage).forEach((cue, i) => {
    const p = at(prefix, i);
    const amount = b.value(`${p}amount`, 'float', UNIT);
    const without = cue.join === 'and' || cue.join === 'atMost' ? 1 : 0;
    const c = b.mix(b.constant(without), lowerCue(b, cue, p, site), amount);
    if (cue.join === 'and') a = b.multiply(a, c);
    else if (cue.join === 'or') a = b.invert(b.multiply(b.invert(a), b.invert(c)));
    else if (cue.join === 'butNot') a = b.multiply(a, b.invert(c));
    else a = cue.join === 'atMost' ? b.min(a, c) : b.max(a, c);
  });
  return a;
}

/** What every cue looks at, null where its picture is not there, and what it gives: for histograms, previews and accounts. */
export const lowerCues = (
  b: Builder,
  coverage: Readonly<Coverage>,
  prefix: string,
  site: Site,
): { id: string; input: DagNode | null; value: DagNode }[] =>
  inOrder(coverage).map((cue, i) => ({ id: cue.id, input: inputOf(b, cue, at(prefix, i), site), value: lowerCue(b, cue, at(prefix, i), site) }));

const rgb = (hex: string): number[] => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255);

/** Adds the runtime values of a coverage to others. */
export function coverageValues(
  coverage: Readonly<Coverage>,
  prefix: string,
  place: CuePlace,
  values: Record<string, readonly number[]> = {},
): Values {
  inOrder(coverage).forEach((cue, i) => {
    const p = at(prefix, i);
    values[`${p}amount`] = [cue.amount];
    values[`${p}centre`] = [cue.centre];
    values[`${p}width`] = [cue.width];
    if (cue.kind === 'constant') values[`${p}value`] = [cue.value];
    else if (cue.kind === 'mask') values[`${p}repeats`] = [cue.repeats];
    else if (cue.kind === 'altitude') values[`${p}above`] = [cue.from === 'world' ? place.standsAtM : 0];
    else if (cue.kind === 'ground') values[`${p}above`] = [-place.groundM];
    else if (cue.kind === 'direction') values[`${p}toward`] = bearingVector(cue.bearing, cue.rise);
    else if (cue.kind === 'id') values[`${p}colour`] = rgb(cue.colour);
    else if (cue.kind === 'part') values[`${p}part`] = [place.parts.indexOf(cue.part)];
    else if (cue.kind === 'stripes') values[`${p}cells`] = stripeCells(place.extentM, cue.sizeM, cue.bearing);
    else if (cue.kind === 'grid') values[`${p}cells`] = [noiseCells(place.extentM, cue.sizeM)];
    else if (cue.kind === 'noise') {
      values[`${p}cells`] = [noiseCells(place.extentM, cue.sizeM)];
      values[`${p}seed`] = [cue.seed];
      values[`${p}octaves`] = [cue.octaves];
    }
  });
  return values;
}

/** What decides the shape of the lowered coverage: as long as it stays the same, only values change. */
export const coverageShape = (coverage: Readonly<Coverage>, pictures: ReadonlyMap<string, number>): string =>
  inOrder(coverage)
    .map((c) => {
      const picture = pictureOf(c);
      const own = c.kind === 'vertexColour' ? c.channel : c.kind === 'noise' ? c.noise : picture ? pictures.get(pictureKey(picture)) : '';
      const set = (c.kind === 'mask' || c.kind === 'id') && c.set ? `/${c.set}` : '';
      return `${c.join}:${c.kind}:${own ?? 'none'}${set}:${c.shape}:${c.inverted}`;
    })
    .join(';');

/** Every picture that a coverage reads. */
export const picturesOf = (coverage: Readonly<Coverage>): CuePicture[] => Object.values(coverage).flatMap((c) => pictureOf(c) ?? []);
