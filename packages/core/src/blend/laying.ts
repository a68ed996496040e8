// Ways in which a surface lies that hide how it repeats, and that it is stretched where ground is steep. Each has its price.
import type { Builder, DagNode } from '../compile';
import { noiseCells } from '../coverage';
import type { LayerLaying } from '../document';
import type { Shading } from './shading';
import { mixedShading } from './shading';

/** Cells after which noise over the world repeats. */
const WORLD_CELLS = 4096;
/** How wide the change is from one laying to the other, about a half. */
const CHANGE = { centre: 0.5, width: 0.16 };
const OCTAVES = 3;

/** Where a second laying of a surface begins, in repetitions: nowhere near the first. */
const SECOND_LAYING = [0.37, 0.61] as const;
/**
 * Triangles whose rows are this high lie on whole cells of a square, so that they repeat with the extent; corners count more the
 * nearer they are, to this power. Cells are two at least each way.
 */
const TRIANGLE = { high: 0.8660254, power: 3 };

/** Text that tells layings apart that compile to other programs. */
export const layingShape = ({ far, turns, cells, macro, sides }: LayerLaying = {}): string =>
  [
    far ? 'f' : '',
    turns ? `t${turns.over ?? ''}` : '',
    cells ? `c${cells.over ?? ''}` : '',
    macro ? `m${macro.over ?? ''}` : '',
    sides ? 's' : '',
  ].join('');

type InPatches = 'turns' | 'cells' | 'macro';
/** Patches of a size over the extent, a whole number of them, or over the world. */
function patchValues(
  p: string,
  name: InPatches,
  { atM, seed, over }: NonNullable<LayerLaying[InPatches]>,
  cells: number,
  values: Record<string, readonly number[]>,
): void {
  values[`${p}${name}Cells`] = [over ? WORLD_CELLS : cells];
  values[`${p}${name}Seed`] = [seed];
  if (over) values[`${p}${name}PerM`] = [1 / Math.max(atM, 1e-4)];
}
/** Where a place lies among them, how many there are, and what their chance begins with. */
function patchesAt(
  b: Builder,
  p: string,
  name: InPatches,
  over: 'world' | undefined,
  uv: DagNode,
): { where: DagNode; cells: DagNode; seed: DagNode } {
  const [cells, seed] = [b.value(`${p}${name}Cells`), b.value(`${p}${name}Seed`)];
  const place = over && b.node('position');
  const where = place ? b.multiply(b.combine(b.extract(place, 0), b.extract(place, 2)), b.value(`${p}${name}PerM`)) : b.multiply(uv, cells);
  return { where, cells, seed };
}

/** Numbers of a laying that may change at runtime. @param perM repetitions a metre */
export function layingValues(
  { far, turns, cells, macro, sides }: LayerLaying,
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
  if (turns) patchValues(p, 'turns', turns, noiseCells(extentM, turns.atM), values);
  if (cells) {
    patchValues(p, 'cells', cells, evenCells(extentM, cells.atM), values);
    values[`${p}cellsTurn`] = [cells.turn];
  }
  if (macro) {
    patchValues(p, 'macro', macro, noiseCells(extentM, macro.atM), values);
    values[`${p}macroBy`] = [macro.by];
  }
  if (sides) values[`${p}sidesPerM`] = [perM];
}

/** Cells across an extent, an even number of them: every second row of triangles is moved by half of one. */
const evenCells = (extentM: number, atM: number): number => 2 * Math.max(1, Math.round(extentM / Math.max(atM, 1e-4) / 2));

const withNormal = (look: Shading, normal: DagNode): Shading => ({ ...look, channels: { ...look.channels, normal } });

/**
 * What a surface looks like as it is laid: in cells, in two layings that take turns in patches, larger from afar, from the sides where
 * ground is steep, lighter and darker in patches. @param uv of the extent; @param toAt where that is on the surface; @param look what it looks like at a coordinate
 */
export function laidLook(
  b: Builder,
  laying: LayerLaying,
  p: string,
  uv: DagNode,
  toAt: (uv: DagNode) => DagNode,
  look: (at: DagNode) => Shading,
): Shading {
  const zero = b.constant(0);
  const at = toAt(uv);
  let shown = look(at);
  const { far, turns, cells, macro, sides } = laying;
  if (cells) shown = inCells(b, cells.over, p, uv, toAt, look);
  if (turns) {
    const [u, v] = [b.extract(at, 0), b.extract(at, 1)];
    // Turned by a quarter it still repeats with the extent.
    const other = look(b.add(b.combine(b.subtract(zero, v), u), b.constant(...SECOND_LAYING)));
    const [x, y, z] = [0, 1, 2].map((i) => b.extract(other.channels.normal, i));
    const turned = withNormal(other, b.combine(b.subtract(zero, y), x, z));
    const { where, cells, seed } = patchesAt(b, p, 'turns', turns.over, uv);
    const noise = b.node('fractal2d', [where, cells, seed, b.constant(OCTAVES)]);
    const w = b.node('ramp', [noise, b.constant(CHANGE.centre), b.constant(CHANGE.width)], { shape: 'smooth' });
    shown = mixedShading(b, shown, turned, w, zero);
  }
  if (far) {
    const w = b.node('ramp', [b.node('viewdistance'), b.value(`${p}farAt`), b.value(`${p}farOver`)], { shape: 'smooth' });
    shown = mixedShading(b, shown, look(b.multiply(at, b.value(`${p}farTimes`))), w, zero);
  }
  if (sides) shown = fromSides(b, p, shown, look);
  if (macro) {
    const { where, cells, seed } = patchesAt(b, p, 'macro', macro.over, uv);
    const noise = b.node('fractal2d', [where, cells, seed, b.constant(OCTAVES)]);
    const lighter = b.add(b.constant(1), b.multiply(b.value(`${p}macroBy`), b.subtract(b.multiply(noise, b.constant(2)), b.constant(1))));
    const { baseColor } = shown.channels;
    shown = { ...shown, channels: { ...shown.channels, baseColor: b.clamp(b.multiply(baseColor, lighter), zero, b.constant(1)) } };
  }
  return shown;
}

/**
 * Three cells around every place, each with the surface turned and moved by chance, mixed by how near their middles are.
 * Source: Heitz & Neyret, "High-Performance By-Example Noise", 2018; mixed as layers are, so that normals and heights stay what they are.
 */
function inCells(
  b: Builder,
  over: 'world' | undefined,
  p: string,
  uv: DagNode,
  toAt: (uv: DagNode) => DagNode,
  look: (at: DagNode) => Shading,
): Shading {
  const { where, cells, seed } = patchesAt(b, p, 'cells', over, uv);
  const half = b.constant(0.5);
  const place = b.combine(b.extract(where, 0), b.multiply(b.extract(where, 1), b.constant(TRIANGLE.high)));
  // An extent down lies half of its cells to the left: counted back, cells are the same again after an extent either way.
  const asCounted = (i: DagNode, j: DagNode) => b.combine(b.add(i, b.multiply(b.multiply(cells, half), b.node('floor', [b.divide(j, cells)]))), j);
  const corners = [0, 1, 2].map((index) => {
    const corner = b.node('trianglecell2d', [place], { index });
    const [i, j] = [b.extract(corner, 0), b.extract(corner, 1)];
    const random = b.node('cellrandom2d', [asCounted(i, j), cells, seed]);
    const [r, s, t] = [0, 1, 2].map((i) => b.extract(random, i));
    const angle = b.multiply(b.value(`${p}cellsTurn`), b.subtract(b.multiply(t, b.constant(2)), b.constant(1)));
    // Turned about its own middle a cell is the same again an extent on.
    const middle = b.divide(b.combine(b.add(i, b.multiply(j, half)), j), cells);
    const local = over ? toAt(uv) : b.subtract(toAt(uv), toAt(middle));
    const own = look(b.add(b.node('rotate2d', [local, angle]), b.combine(r, s)));
    const [x, y, z] = [0, 1, 2].map((i) => b.extract(own.channels.normal, i));
    // What was turned with the map is turned back; v points down, the normal's y up.
    const flat = b.node('rotate2d', [b.combine(x, y), angle]);
    return {
      shown: withNormal(own, b.combine(b.extract(flat, 0), b.extract(flat, 1), z)),
      weight: b.node('power', [b.extract(corner, 2), b.constant(TRIANGLE.power)]),
    };
  });
  const [first, second, third] = corners;
  const two = b.add(first.weight, second.weight);
  const tiny = b.constant(1e-6);
  const zero = b.constant(0);
  const pair = mixedShading(b, first.shown, second.shown, b.divide(second.weight, b.node('max', [two, tiny])), zero);
  return mixedShading(b, pair, third.shown, b.divide(third.weight, b.node('max', [b.add(two, third.weight), tiny])), zero);
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
