// Ways in which a surface lies that hide how it repeats, and that it is stretched where ground is steep. Each has its price.
import type { Builder, DagNode } from '../compile';
import { noiseCells } from '../coverage';
import type { LayerLaying } from '../document';
import { SECOND_LAYING } from '../image';
import { fractalNoise } from '../noise';
import type { Shading } from './shading';
import { mixedShading } from './shading';

/** Cells after which noise over the world repeats. */
const WORLD_CELLS = 4096;
/** How wide the change is from one laying to the other, about a half. */
const CHANGE = { centre: 0.5, width: 0.16 };
const OCTAVES = 3;

/** Share of the second laying at a place of a picture that is so many metres wide, in shares of it. */
export function turnsOver({ atM, seed }: NonNullable<LayerLaying['turns']>, widthM: number): (u: number, v: number) => number {
  const cells = noiseCells(widthM, atM);
  return (u, v) => {
    const t = Math.min(1, Math.max(0, (fractalNoise(u * cells, v * cells, cells, seed, OCTAVES) - CHANGE.centre) / CHANGE.width + 0.5));
    return t * t * (3 - 2 * t);
  };
}

/** Text that tells layings apart that compile to other programs. */
export const layingShape = ({ far, turns, sides }: LayerLaying = {}): string =>
  [far ? 'f' : '', turns ? `t${turns.over ?? ''}` : '', sides ? 's' : ''].join('');

/** Numbers of a laying that may change at runtime. @param perM repetitions a metre */
export function layingValues(
  { far, turns, sides }: LayerLaying,
  p: string,
  extentM: number,
  perM: number,
  values: Record<string, readonly number[]>,
): void {
  if (far) {
    values[`${p}farTimes`] = [1 / far.times];
    values[`${p}farAt`] = [(far.fromM + far.toM) / 2];
    values[`${p}farOver`] = [Math.max(1e-3, far.toM - far.fromM)];
  }
  if (turns) {
    values[`${p}turnsCells`] = [turns.over ? WORLD_CELLS : noiseCells(extentM, turns.atM)];
    values[`${p}turnsSeed`] = [turns.seed];
    if (turns.over) values[`${p}turnsPerM`] = [1 / Math.max(turns.atM, 1e-4)];
  }
  if (sides) values[`${p}sidesPerM`] = [perM];
}

const withNormal = (look: Shading, normal: DagNode): Shading => ({ ...look, channels: { ...look.channels, normal } });

/**
 * What a surface looks like as it is laid: in two layings that take turns in patches, larger from afar, from the sides where ground is
 * steep. @param uv of the extent; @param at of the surface; @param look what it looks like at a coordinate
 */
export function laidLook(b: Builder, laying: LayerLaying, p: string, uv: DagNode, at: DagNode, look: (at: DagNode) => Shading): Shading {
  const zero = b.constant(0);
  let shown = look(at);
  const { far, turns, sides } = laying;
  if (turns) {
    const [u, v] = [b.extract(at, 0), b.extract(at, 1)];
    // Turned by a quarter it still repeats with the extent.
    const other = look(b.add(b.combine(b.subtract(zero, v), u), b.constant(...SECOND_LAYING)));
    const [x, y, z] = [0, 1, 2].map((i) => b.extract(other.channels.normal, i));
    const turned = withNormal(other, b.combine(b.subtract(zero, y), x, z));
    const [cells, seed] = [b.value(`${p}turnsCells`), b.value(`${p}turnsSeed`)];
    const place = turns.over && b.node('position');
    const where = place ? b.multiply(b.combine(b.extract(place, 0), b.extract(place, 2)), b.value(`${p}turnsPerM`)) : b.multiply(uv, cells);
    const noise = b.node('fractal2d', [where, cells, seed, b.constant(OCTAVES)]);
    const w = b.node('ramp', [noise, b.constant(CHANGE.centre), b.constant(CHANGE.width)], { shape: 'smooth' });
    shown = mixedShading(b, shown, turned, w, zero);
  }
  if (far) {
    const w = b.node('ramp', [b.node('viewdistance'), b.value(`${p}farAt`), b.value(`${p}farOver`)], { shape: 'smooth' });
    shown = mixedShading(b, shown, look(b.multiply(at, b.value(`${p}farTimes`))), w, zero);
  }
  return sides ? fromSides(b, p, shown, look) : shown;
}

/** Steep ground looked up from the sides: along x and along z, each as far as it looks that way. */
function fromSides(b: Builder, p: string, top: Shading, look: (at: DagNode) => Shading): Shading {
  const [position, normal, tangent] = [b.node('position'), b.node('normal'), b.node('tangent')];
  const [px, py, pz] = [0, 1, 2].map((i) => b.extract(position, i));
  const [nx, ny, nz] = [0, 1, 2].map((i) => b.extract(normal, i));
  const [tx, ty, tz, sign] = [0, 1, 2, 3].map((i) => b.extract(tangent, i));
  const zero = b.constant(0);
  const minus = (v: DagNode) => b.subtract(zero, v);
  const per = b.value(`${p}sidesPerM`);
  // The fourth power keeps most places to one way of looking.
  const fourth = (v: DagNode) => b.multiply(b.multiply(v, v), b.multiply(v, v));
  const [ax, ay, az] = [fourth(nx), fourth(ny), fourth(nz)];
  const bitangent = [
    b.subtract(b.multiply(ny, tz), b.multiply(nz, ty)),
    b.subtract(b.multiply(nz, tx), b.multiply(nx, tz)),
    b.subtract(b.multiply(nx, ty), b.multiply(ny, tx)),
  ].map((v) => b.multiply(v, sign));
  /** A patch whose right is an axis, whose up is up, and which looks out along the other, as a normal of the mesh's own tangents. */
  const side = (along: 0 | 2, out: DagNode): Shading => {
    const shown = look(b.multiply(b.combine(along === 0 ? px : pz, minus(py)), per));
    const [x, y, z] = [0, 1, 2].map((i) => b.extract(shown.channels.normal, i));
    const outward = b.multiply(z, b.node('sign', [out]));
    const world = along === 0 ? [x, y, outward] : [outward, y, x];
    const dot = (of: readonly DagNode[]) => b.add(b.add(b.multiply(world[0], of[0]), b.multiply(world[1], of[1])), b.multiply(world[2], of[2]));
    return withNormal(shown, b.combine(dot([tx, ty, tz]), dot(bitangent), b.max(dot([nx, ny, nz]), b.constant(0.05))));
  };
  const [alongX, alongZ] = [side(2, nx), side(0, nz)];
  const least = b.constant(1e-6);
  const sides = b.add(ax, az);
  const both = mixedShading(b, alongX, alongZ, b.divide(az, b.add(sides, least)), zero);
  return mixedShading(b, top, both, b.divide(sides, b.add(b.add(sides, ay), least)), zero);
}
