import type { InputPlanes, PixelInput, Tracked } from '../geometry';
import { TRACKED, inputFacts, inputWidth } from '../geometry';

/** Change of a coordinate, or of the place, from one pixel to the next. */
export interface Footprint {
  x: readonly number[];
  y: readonly number[];
}
export const evenFootprint = (by: number): Footprint => ({ x: [by, 0], y: [0, by] });

/** Name of the value that says how far a coordinate moves along the screen's x or y. */
export const footprintName = (of: Tracked, axis: 'x' | 'y'): string => `footprint_${of === 'texcoord' ? '' : `${of}_`}${axis}`;
/** What moves and along which axis, by the names of their values. */
const FOOTPRINTS = new Map(
  TRACKED.flatMap((of) => (['x', 'y'] as const).map((axis): [string, { of: Tracked; axis: 'x' | 'y' }] => [footprintName(of, axis), { of, axis }])),
);
/** What a value says the move of, by its name; undefined for any other value. */
export const footprintOf = (name: string): { of: Tracked; axis: 'x' | 'y' } | undefined => FOOTPRINTS.get(name);
const none = (of: Tracked): Footprint => {
  const still = new Array<number>(inputWidth(of)).fill(0);
  return { x: still, y: still };
};
/** The values that say how far coordinates move in a domain. */
export const footprintValues = ({ footprint, footprints = {} }: Pick<Domain, 'footprint' | 'footprints'>): Record<string, readonly number[]> =>
  Object.fromEntries(
    TRACKED.flatMap((of) => {
      const moved = of === 'texcoord' ? footprint : (footprints[of] ?? none(of));
      return (['x', 'y'] as const).map((axis) => [footprintName(of, axis), moved[axis]]);
    }),
  );

/** A rectangle of the evaluated picture, in pixels. */
export interface Tile {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Where an evaluation happens: how many pixels, and what the pixel inputs are at each of them. */
export interface Domain {
  width: number;
  height: number;
  /** Change of the texture coordinate from one pixel to the next, along x and y: decides the mip level. */
  footprint: Footprint;
  /** The same for other coordinates, where it is known; the finest level is read by those whose it is not. */
  footprints?: Partial<Record<Tracked, Footprint>>;
  fill(input: PixelInput, tile: Tile, memory: Float32Array, out: readonly number[], n: number): void;
}

/** Per-pixel geometry, row by row; what is left out takes the values of a flat plane facing up. */
export type GBuffer = Partial<InputPlanes>;

function fillFrom(data: Float32Array, width: number, k: number, tile: Tile, memory: Float32Array, out: readonly number[]): void {
  out.forEach((o, c) => {
    let i = o;
    for (let y = tile.y; y < tile.y + tile.height; y++)
      for (let x = tile.x, at = (y * width + tile.x) * k + c; x < tile.x + tile.width; x++, at += k) memory[i++] = data[at];
  });
}

/**
 * One repetition of an extent seen from straight above: u and v run from 0 to 1 over the picture, +Z is up, a plane of
 * `extentM` metres. `geometry` replaces single inputs, e.g. vertex colours rasterised to the picture.
 */
export function flatDomain(width: number, height: number, extentM = 1, geometry: GBuffer = {}): Domain {
  const u = (x: number) => (x + 0.5) / width;
  const v = (y: number) => (y + 0.5) / height;
  /** The same along every column, or along every row. */
  const columns = (tile: Tile, memory: Float32Array, o: number, value: (x: number) => number) => {
    for (let x = 0; x < tile.width; x++) memory[o + x] = value(tile.x + x);
    for (let y = 1; y < tile.height; y++) memory.copyWithin(o + y * tile.width, o, o + tile.width);
  };
  const rows = (tile: Tile, memory: Float32Array, o: number, value: (y: number) => number) => {
    for (let y = 0; y < tile.height; y++) memory.fill(value(tile.y + y), o + y * tile.width, o + (y + 1) * tile.width);
  };
  return {
    width,
    height,
    footprint: { x: [1 / width, 0], y: [0, 1 / height] },
    ...(geometry.position ? {} : { footprints: { position: { x: [extentM / width, 0, 0], y: [0, 0, extentM / height] } } }),
    fill(input, tile, memory, out, n) {
      const given = geometry[input];
      if (given) return fillFrom(given, width, inputWidth(input), tile, memory, out);
      const { flat } = inputFacts(input);
      // A plane has one set, which is where things lie on it; it is what other sets are there too.
      if (flat === 'texcoord') return this.fill('texcoord', tile, memory, out, n);
      if (flat !== 'place') return out.forEach((o, c) => memory.fill(flat[c], o, o + n));
      const [first, last] = [out[0], out[out.length - 1]];
      const centre = input === 'position' ? (t: number) => (t - 0.5) * extentM : (t: number) => t;
      columns(tile, memory, first, (x) => centre(u(x)));
      if (input === 'position') memory.fill(0, out[1], out[1] + n);
      rows(tile, memory, last, (y) => centre(v(y)));
    },
  };
}

/** A picture of which a band of rows is known: `[first, end)` of `height` rows. Only tiles in the band may be asked for. */
export const bandDomain = (band: Domain, first: number, height: number): Domain => ({
  ...band,
  height,
  fill: (input, tile, memory, out, n) => band.fill(input, { ...tile, y: tile.y - first }, memory, out, n),
});

/** A list of points along a cut line, as a picture one pixel high. */
export function lineDomain(texcoord: Float32Array, footprint: number, geometry: GBuffer = {}): Domain {
  const flat = flatDomain(texcoord.length / 2, 1, 1, { ...geometry, texcoord });
  return { ...flat, footprint: evenFootprint(footprint) };
}
