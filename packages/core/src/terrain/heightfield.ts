// Heights on a square grid, in true metres.
import type { GBuffer } from '../compile';
import type { Image } from '../image';
import { fullScale } from '../image';
import type { Mesh } from '../mesh';

/** Samples along a side of a heightfield, at least and at most. */
export const FIELD_SIDES = { least: 2, most: 8193 } as const;

/** Metres that a terrain may have, at least and at most; its foot above the sea. */
export const TERRAIN_METRES = { acrossM: [0.01, 1e6], rangeM: [1e-3, 1e5], footM: [-12_000, 12_000] } as const;

/** How the numbers of a picture become metres: what is dear to change once layers lie on it. */
export interface FieldFacts {
  /** Metres from the first sample of a row to its last. */
  acrossM: number;
  /** Metres from black to white. */
  rangeM: number;
  /** Altitude of black above the sea, in metres. */
  footM: number;
}

/** Altitudes in metres, row by row from the north (−z): sample (x, y) stands at `x · spacing`, `y · spacing` metres. */
export interface Heightfield {
  width: number;
  height: number;
  /** Metres between samples, both ways. */
  spacingM: number;
  altitude: Float32Array;
}

/** What is to be known of a heightfield before it is used; the first of a kind says where. */
export interface FieldFinding {
  code: 'size' | 'banding' | 'even' | 'holes';
  severity: 'error' | 'warning' | 'note';
  message: string;
}

const isGridSide = (n: number): boolean => n > 1 && Number.isInteger(Math.log2(n - 1));

/** A heightfield from the first channel of a picture. Holes of floats become the lowest of the others. @throws RangeError for facts that are no size */
export function heightfieldOf({ width, height, channels, depth, data }: Image, { acrossM, rangeM, footM }: FieldFacts): Heightfield {
  for (const [name, metres] of [
    ['across', acrossM],
    ['of range', rangeM],
  ] as const)
    if (!(metres > 0) || !Number.isFinite(metres)) throw new RangeError(`A terrain needs metres ${name} over 0, not ${metres}`);
  const full = fullScale(depth);
  const altitude = new Float32Array(width * height);
  let lowest = Infinity;
  for (let i = 0; i < altitude.length; i++) {
    altitude[i] = footM + (rangeM * data[i * channels]) / full;
    if (altitude[i] < lowest) lowest = altitude[i];
  }
  for (let i = 0; i < altitude.length; i++) if (!Number.isFinite(altitude[i])) altitude[i] = Number.isFinite(lowest) ? lowest : footM;
  return { width, height, spacingM: acrossM / (width - 1), altitude };
}

/** What speaks against a picture as a heightfield, or has to be known of it. Sizes beyond what is drawn are errors. */
export function fieldFindings(image: Image, { rangeM }: Pick<FieldFacts, 'rangeM'>): FieldFinding[] {
  const { width, height, channels, depth, data } = image;
  const out: FieldFinding[] = [];
  const { least, most } = FIELD_SIDES;
  if (Math.min(width, height) < least || Math.max(width, height) > most)
    out.push({ code: 'size', severity: 'error', message: `It has ${width} × ${height} samples; a terrain has ${least} to ${most} along a side` });
  else if (!isGridSide(width) || !isGridSide(height))
    out.push({
      code: 'size',
      severity: 'note',
      message: `It has ${width} × ${height} samples. Sides of a power of two and one more (257 … 4097) divide into tiles that share their borders; the last tiles here are smaller`,
    });
  let [lo, hi, holes, first] = [Infinity, -Infinity, 0, -1];
  const seen = new Set<number>();
  for (let i = 0; i < width * height; i++) {
    const v = data[i * channels];
    if (!Number.isFinite(v)) {
      if (!holes++) first = i;
      continue;
    }
    if (v < lo) lo = v;
    if (v > hi) hi = v;
    if (depth === 8) seen.add(v);
  }
  if (holes)
    out.push({
      code: 'holes',
      severity: holes === width * height ? 'error' : 'warning',
      message: `${holes === 1 ? 'One sample holds' : `${holes} samples hold`} no number, the first at column ${(first % width) + 1}, row ${Math.floor(first / width) + 1}. They become as low as the lowest; fill them where it was made`,
    });
  if (!(hi > lo) && holes < width * height)
    out.push({ code: 'even', severity: 'warning', message: 'All samples are the same: it is a plane, on which nothing follows altitude or slope' });
  if (depth === 8 && hi > lo) {
    const step = rangeM / 255;
    out.push({
      code: 'banding',
      severity: 'warning',
      message: `It has 8 bits, ${seen.size} steps of ${step < 1 ? `${(step * 100).toFixed(0)} cm` : `${step.toFixed(1)} m`}: slopes come as terraces. Bring it in with 16 bits or as floats`,
    });
  }
  return out;
}

/** Slope of the ground along x and z in metres a metre: by central differences, one-sided at the rims. */
export function gradientAt({ width, height, spacingM, altitude }: Heightfield, x: number, y: number): [dx: number, dz: number] {
  const [x0, x1] = [Math.max(0, x - 1), Math.min(width - 1, x + 1)];
  const [y0, y1] = [Math.max(0, y - 1), Math.min(height - 1, y + 1)];
  return [
    (altitude[y * width + x1] - altitude[y * width + x0]) / ((x1 - x0) * spacingM),
    (altitude[y1 * width + x] - altitude[y0 * width + x]) / ((y1 - y0) * spacingM),
  ];
}

/** Steepness in degrees, 0 level. */
export const slopeAt = (field: Heightfield, x: number, y: number): number => {
  const [dx, dz] = gradientAt(field, x, y);
  return (Math.atan(Math.hypot(dx, dz)) * 180) / Math.PI;
};

/** How often each of `bins` equal steps from `lo` to `hi` occurs, as shares. */
export interface FieldSpread {
  lo: number;
  hi: number;
  shares: number[];
}
function spreadOf(count: number, value: (i: number) => number, bins: number): FieldSpread {
  let [lo, hi] = [Infinity, -Infinity];
  for (let i = 0; i < count; i++) {
    const v = value(i);
    if (v < lo) lo = v;
    if (v > hi) hi = v;
  }
  const shares = new Array<number>(bins).fill(0);
  const scale = hi > lo ? bins / (hi - lo) : 0;
  for (let i = 0; i < count; i++) shares[Math.min(bins - 1, Math.floor((value(i) - lo) * scale))] += 1 / count;
  return { lo, hi, shares };
}
/** Altitudes and slopes that a terrain really has: where a rule begins within them, it changes something. */
export function fieldSpreads(field: Heightfield, bins = 64): { altitude: FieldSpread; slope: FieldSpread } {
  const { width, height, altitude } = field;
  const slopes = new Float32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i++) slopes[i] = slopeAt(field, x, y);
  return { altitude: spreadOf(altitude.length, (i) => altitude[i], bins), slope: spreadOf(slopes.length, (i) => slopes[i], bins) };
}

/** Middle of a heightfield, in samples: what stands at the origin of its mesh and of its places. */
const middleOf = ({ width, height }: Heightfield): [number, number] => [(width - 1) / 2, (height - 1) / 2];

/** Where a sample lies on a square that lies once over the longer side, v down: the texture that a terrain is painted on. */
export function fieldUv({ width, height }: Pick<Heightfield, 'width' | 'height'>, x: number, y: number): [u: number, v: number] {
  const side = Math.max(width, height) - 1;
  return [x / side, y / side];
}

/**
 * Mean curvature of the ground at a sample in 1/m, positive where it bends outwards, by second differences in true metres; 0 on the
 * rims. Source: the mean curvature of a graph z(x, y), ((1 + z_y²) z_xx − 2 z_x z_y z_xy + (1 + z_x²) z_yy) / 2(1 + z_x² + z_y²)^(3/2), turned over.
 */
export function bendAt(field: Heightfield, x: number, y: number): number {
  const { width, height, spacingM, altitude } = field;
  if (x < 1 || y < 1 || x > width - 2 || y > height - 2) return 0;
  const at = (i: number, j: number) => altitude[(y + j) * width + x + i];
  const [zx, zy] = gradientAt(field, x, y);
  const by = spacingM * spacingM;
  const [xx, yy] = [(at(1, 0) - 2 * at(0, 0) + at(-1, 0)) / by, (at(0, 1) - 2 * at(0, 0) + at(0, -1)) / by];
  const xy = (at(1, 1) - at(-1, 1) - at(1, -1) + at(-1, -1)) / (4 * by);
  return -((1 + zy * zy) * xx - 2 * zx * zy * xy + (1 + zx * zx) * yy) / (2 * (1 + zx * zx + zy * zy) ** 1.5);
}

/** The same ground by every few samples, with no more than so many along a side. */
export function coarserField(field: Heightfield, most: number): Heightfield {
  const step = Math.ceil((Math.max(field.width, field.height) - 1) / Math.max(1, most - 1));
  if (step <= 1) return field;
  const [width, height] = [Math.floor((field.width - 1) / step) + 1, Math.floor((field.height - 1) / step) + 1];
  const altitude = new Float32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i++) altitude[i] = field.altitude[y * step * field.width + x * step];
  return { width, height, spacingM: field.spacingM * step, altitude };
}

/**
 * What evaluation reads of a band of rows `[first, end)`: places in metres around the middle (y altitude over `foot`), normals, how
 * the ground bends, the coordinate in which a ground of `extentM` metres repeats, and that of what is painted; how open the sky is
 * where that is known (`fieldSky`).
 */
export function fieldGround(
  field: Heightfield,
  extentM: number,
  [first, end]: readonly [number, number] = [0, field.height],
  footM = 0,
  sky: Float32Array | null = null,
): GBuffer {
  const { width, spacingM, altitude } = field;
  const [mx, my] = middleOf(field);
  const n = width * (end - first);
  const [position, normal, texcoord] = [new Float32Array(n * 3), new Float32Array(n * 3), new Float32Array(n * 2)];
  const [curvature, uv1] = [new Float32Array(n), new Float32Array(n * 2)];
  for (let y = first, i = 0; y < end; y++)
    for (let x = 0; x < width; x++, i++) {
      const [px, pz] = [(x - mx) * spacingM, (y - my) * spacingM];
      position[i * 3] = px;
      position[i * 3 + 1] = altitude[y * width + x] - footM;
      position[i * 3 + 2] = pz;
      const [dx, dz] = gradientAt(field, x, y);
      const length = Math.hypot(dx, 1, dz);
      normal[i * 3] = -dx / length;
      normal[i * 3 + 1] = 1 / length;
      normal[i * 3 + 2] = -dz / length;
      texcoord[i * 2] = px / extentM;
      texcoord[i * 2 + 1] = pz / extentM;
      curvature[i] = bendAt(field, x, y);
      const [u, v] = fieldUv(field, x, y);
      uv1[i * 2] = u;
      uv1[i * 2 + 1] = v;
    }
  const open = sky ? { occlusion: sky.subarray(first * width, end * width) } : {};
  return { position, normal, texcoord, curvature, uv1, uv2: uv1, ...open };
}

/** The same ground as a mesh of every `step`-th sample, the last of each row and column among them; texture coordinates in metres. */
export function fieldMesh(field: Heightfield, step = 1, footM = 0): Mesh {
  const { width, height, spacingM } = field;
  const along = (side: number) => [...new Set([...Array.from({ length: Math.ceil(side / step) }, (_, i) => i * step), side - 1])];
  const [columns, rows] = [along(width), along(height)];
  const [mx, my] = middleOf(field);
  const count = columns.length * rows.length;
  const mesh: Mesh = {
    position: new Float32Array(count * 3),
    normal: new Float32Array(count * 3),
    tangent: new Float32Array(count * 4),
    texcoord: new Float32Array(count * 2),
    geomcolor: new Float32Array(count * 4).fill(1),
    index: new Uint32Array((columns.length - 1) * (rows.length - 1) * 6),
  };
  rows.forEach((y, r) =>
    columns.forEach((x, c) => {
      const i = r * columns.length + c;
      const [px, pz] = [(x - mx) * spacingM, (y - my) * spacingM];
      const [dx, dz] = gradientAt(field, x, y);
      const [n, t] = [Math.hypot(dx, 1, dz), Math.hypot(1, dx)];
      mesh.position.set([px, field.altitude[y * width + x] - footM, pz], i * 3);
      mesh.normal.set([-dx / n, 1 / n, -dz / n], i * 3);
      mesh.tangent.set([1 / t, dx / t, 0, 1], i * 4);
      mesh.texcoord.set([px, pz], i * 2);
    }),
  );
  let k = 0;
  for (let r = 0; r + 1 < rows.length; r++)
    for (let c = 0; c + 1 < columns.length; c++, k += 6) {
      const a = r * columns.length + c;
      mesh.index.set([a, a + columns.length, a + 1, a + 1, a + columns.length, a + columns.length + 1], k);
    }
  return mesh;
}
