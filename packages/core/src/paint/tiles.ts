/** Vertices a tile of colours holds; the last one of a mesh may hold fewer. */
export const TILE_VERTICES = 4096;
/** Vertices up to which a mesh is painted. */
export const MAX_PAINTED = 2 ** 21;

export const tileCount = (vertices: number): number => Math.ceil(vertices / TILE_VERTICES);
/** First and last + 1 of the vertices of a tile. */
export const tileRange = (tile: number, vertices: number): [number, number] => [tile * TILE_VERTICES, Math.min(vertices, (tile + 1) * TILE_VERTICES)];

/** Values of 0–1 as bytes, rounded to nearest. */
export function toBytes(values: Float32Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(values.length);
  // A loop: mapping a typed array goes through its iterator, which takes fifty times as long.
  for (let i = 0; i < out.length; i++) out[i] = Math.min(1, Math.max(0, values[i])) * 255 + 0.5;
  return out;
}

/** Colours of a tile as bytes, rgba a vertex: what targets keep of vertex colours. `colours` are 0–1. */
export function tileBytes(colours: Float32Array, tile: number): Uint8Array<ArrayBuffer> {
  const [first, end] = tileRange(tile, colours.length / 4);
  return toBytes(colours.subarray(first * 4, end * 4));
}

/** Sums of each channel over the vertices of a tile. */
export function tileSums(colours: Float32Array, tile: number): [number, number, number, number] {
  const [first, end] = tileRange(tile, colours.length / 4);
  const sums: [number, number, number, number] = [0, 0, 0, 0];
  for (let i = first * 4; i < end * 4; i++) sums[i & 3] += colours[i];
  return sums;
}

/** Puts the colours of a tile among those of a mesh. @throws RangeError when it holds another number of vertices */
export function putTile(colours: Float32Array, tile: number, bytes: Uint8Array): void {
  const [first, end] = tileRange(tile, colours.length / 4);
  if (bytes.length !== (end - first) * 4)
    throw new RangeError(`Tile ${tile} of painted colours holds ${bytes.length} bytes where ${(end - first) * 4} were painted`);
  for (let i = 0; i < bytes.length; i++) colours[first * 4 + i] = bytes[i] / 255;
}
