// The texture of a mask while it is painted: only what changed goes over.
import type { Image, PackedPicture, PixelRect } from '@pebble/core';
import { convertDepth, makeImage, resize } from '@pebble/core';

/** Pixels of a level that are others now, a byte each, row by row. */
export interface MaskRegion {
  level: number;
  x: number;
  y: number;
  width: number;
  height: number;
  data: Uint8Array<ArrayBuffer>;
}

/** Puts regions into levels where they stand. */
export function putRegions({ levels }: PackedPicture, regions: readonly MaskRegion[]): void {
  for (const { level, x, y, width, height, data } of regions) {
    const into = levels[level];
    for (let j = 0; j < height; j++) into.data.set(data.subarray(j * width, (j + 1) * width), (y + j) * into.width + x);
  }
}

/** What is painted on: values as they are stored, row by row. */
export interface PaintedSource {
  width: number;
  height: number;
  depth: 8 | 16;
  now: Uint8Array<ArrayBuffer> | Uint16Array<ArrayBuffer>;
}

/** Levels of a mask that follow what is painted on it. */
export class LiveMask {
  /** @param packed levels as they are now, which are changed where they stand */
  constructor(
    readonly packed: PackedPicture,
    private readonly source: PaintedSource,
  ) {}

  /** Whether pixels of the texture are whole numbers of painted ones: else all of it is made anew. */
  get follows(): boolean {
    const { source, packed } = this;
    return source.width === source.height && source.width % packed.size === 0;
  }

  /** Works painted rectangles into all levels. Gives what changed of each. @throws Error where the sizes do not fit */
  update(rects: readonly PixelRect[]): MaskRegion[] {
    const { packed, source } = this;
    if (!this.follows) throw new Error('A mask of this size is packed as a whole');
    const by = source.width / packed.size;
    return rects.flatMap((rect) => {
      let [x0, y0, x1, y1] = [rect.x0 / by, rect.y0 / by, rect.x1 / by, rect.y1 / by];
      [x0, y0, x1, y1] = [Math.floor(x0), Math.floor(y0), Math.ceil(x1), Math.ceil(y1)];
      const regions: MaskRegion[] = [];
      for (const [level, into] of packed.levels.entries()) {
        const [width, height] = [x1 - x0, y1 - y0];
        const data = level ? this.halved(level, x0, y0, width, height) : this.finest(x0, y0, width, height, by);
        const region = { level, x: x0, y: y0, width, height, data };
        putRegions(packed, [region]);
        regions.push(region);
        if (into.width === 1) break;
        [x0, y0, x1, y1] = [x0 >> 1, y0 >> 1, (x1 + 1) >> 1, (y1 + 1) >> 1];
      }
      return regions;
    });
  }

  private finest(x: number, y: number, width: number, height: number, by: number): Uint8Array<ArrayBuffer> {
    const { source } = this;
    const [w, h] = [width * by, height * by];
    const image = makeImage({ width: w, height: h, channels: 1, depth: source.depth });
    for (let j = 0; j < h; j++) {
      const from = (y * by + j) * source.width + x * by;
      image.data.set(source.now.subarray(from, from + w), j * w);
    }
    return convertDepth(resize(image, width, height), 8).data as Uint8Array<ArrayBuffer>;
  }
  /** The means of four, as those of a whole chain. */
  private halved(level: number, x: number, y: number, width: number, height: number): Uint8Array<ArrayBuffer> {
    const above: Pick<Image, 'width' | 'data'> = this.packed.levels[level - 1];
    const out = new Uint8Array(width * height);
    for (let j = 0, o = 0; j < height; j++)
      for (let i = 0; i < width; i++) {
        const at = (y + j) * 2 * above.width + (x + i) * 2;
        out[o++] = (above.data[at] + above.data[at + 1] + above.data[at + above.width] + above.data[at + above.width + 1]) / 4 + 0.5;
      }
    return out;
  }
}

/** Pictures that were made of others by regions, until these have gone over. */
const patches = new WeakMap<PackedPicture, { of: PackedPicture; regions: readonly MaskRegion[] }>();

/** Another picture, the same but for regions. What it is made of is not to be read any more, unless it is `kept`. */
export function patchedPicture(of: PackedPicture, regions: readonly MaskRegion[], kept: boolean): PackedPicture {
  const levels = kept ? of.levels.map((l) => ({ ...l, data: l.data.slice() })) : of.levels;
  const made: PackedPicture = { size: of.size, levels };
  putRegions(made, regions);
  patches.set(made, { of, regions });
  return made;
}
/** Regions by which a picture differs from another that it was made of; null where it was not. */
export function regionsSince(of: PackedPicture | undefined, picture: PackedPicture): MaskRegion[] | null {
  const found: MaskRegion[] = [];
  for (let at = picture; at !== of;) {
    const patch = patches.get(at);
    if (!patch) return null;
    found.unshift(...patch.regions);
    at = patch.of;
  }
  return found;
}
/** A picture stands by itself from now on. */
export const settlePicture = (picture: PackedPicture): void => void patches.delete(picture);
