// Plain writers of files for tests, from the formats' own specifications: independent of the readers under test.

/** Numbers one after another. */
class Bytes {
  private readonly parts: number[] = [];
  constructor(private readonly little = true) {}
  get length(): number {
    return this.parts.length;
  }
  u8(...values: number[]): this {
    this.parts.push(...values);
    return this;
  }
  private number(size: number, write: (view: DataView) => void): this {
    const view = new DataView(new ArrayBuffer(size));
    write(view);
    for (let i = 0; i < size; i++) this.parts.push(view.getUint8(i));
    return this;
  }
  u16 = (v: number): this => this.number(2, (d) => d.setUint16(0, v, this.little));
  u32 = (v: number): this => this.number(4, (d) => d.setUint32(0, v, this.little));
  f32 = (v: number): this => this.number(4, (d) => d.setFloat32(0, v, this.little));
  u64 = (v: number): this => this.number(8, (d) => d.setBigUint64(0, BigInt(v), this.little));
  text(text: string): this {
    for (const c of text) this.parts.push(c.charCodeAt(0));
    return this;
  }
  done = (): Uint8Array => Uint8Array.from(this.parts);
}

export interface Picture {
  width: number;
  height: number;
  channels: number;
  data: ArrayLike<number>;
}

/** Uncompressed TIFF in one strip: 8 or 16 bits, or 32-bit float. */
export function writeTiff({ width, height, channels, data }: Picture, bits: 8 | 16 | 32, little = true): Uint8Array {
  const out = new Bytes(little).text(little ? 'II' : 'MM').u16(42);
  const bytes = width * height * channels * (bits / 8);
  // Pixels first, then what is too long for its entry, then the directory.
  out.u32(8 + bytes + channels * 2);
  const sample = bits === 8 ? (v: number) => out.u8(v) : bits === 16 ? out.u16 : out.f32;
  for (let i = 0; i < width * height * channels; i++) sample(data[i]);
  const bitsAt = out.length;
  for (let c = 0; c < channels; c++) out.u16(bits);
  const short = (tag: number, ...values: number[]) => {
    out.u16(tag).u16(3).u32(values.length);
    for (let i = 0; i < 2; i++) out.u16(values[i] ?? 0);
  };
  const long = (tag: number, value: number) => out.u16(tag).u16(4).u32(1).u32(value);
  const extra = channels === 2 || channels === 4;
  out.u16(extra ? 11 : 10);
  short(256, width);
  short(257, height);
  if (channels > 2) out.u16(258).u16(3).u32(channels).u32(bitsAt);
  else short(258, ...Array<number>(channels).fill(bits));
  short(259, 1);
  short(262, channels >= 3 ? 2 : 1);
  long(273, 8);
  short(277, channels);
  long(278, height);
  long(279, bytes);
  if (extra) short(338, 2);
  short(339, ...Array<number>(Math.min(2, channels)).fill(bits === 32 ? 3 : 1));
  return out.u32(0).done();
}

export interface TiffPieces {
  bits: 8 | 16 | 32;
  /** Side of its tiles, or 0 for one strip. */
  tile?: number;
  planar?: boolean;
  little?: boolean;
  compression?: number;
  /** Samples of 16 bits are halves, made by this. */
  half?: (v: number) => number;
}
/** TIFF in tiles or one strip, channels side by side or in planes, uncompressed whatever it says. */
export function writeTiffPieces({ width, height, channels, data }: Picture, of: TiffPieces): Uint8Array {
  const { bits, tile = 0, planar = false, little = true, compression = 1, half } = of;
  const out = new Bytes(little)
    .text(little ? 'II' : 'MM')
    .u16(42)
    .u32(0);
  const [w, h] = tile ? [tile, tile] : [width, height];
  const [across, down, planes] = [Math.ceil(width / w), Math.ceil(height / h), planar ? channels : 1];
  const offsets: number[] = [];
  for (let plane = 0; plane < planes; plane++)
    for (let piece = 0; piece < across * down; piece++) {
      offsets.push(out.length);
      for (let y = 0; y < h; y++)
        for (let x = 0; x < w; x++)
          for (let c = 0; c < channels / planes; c++) {
            const [px, py] = [(piece % across) * w + x, Math.floor(piece / across) * h + y];
            // What lies past the border of the picture is anything.
            const v = px < width && py < height ? data[(py * width + px) * channels + plane + c] : 7;
            if (bits === 8) out.u8(v);
            else if (bits === 16) out.u16(half ? half(v) : v);
            else out.f32(v);
          }
    }
  const size = (w * h * (channels / planes) * bits) / 8;
  const lists = [offsets, offsets.map(() => size), Array<number>(channels).fill(bits), Array<number>(channels).fill(bits === 32 || half ? 3 : 1)];
  const places = lists.map((list) => {
    const at = out.length;
    for (const v of list) out.u32(v);
    return at;
  });
  const directory = out.length;
  const long = (tag: number, ...values: number[]) => out.u16(tag).u16(4).u32(1).u32(values[0]);
  const list = (tag: number, k: number) =>
    out
      .u16(tag)
      .u16(4)
      .u32(lists[k].length)
      .u32(lists[k].length > 1 ? places[k] : lists[k][0]);
  const entries: [number, () => void][] = [
    [256, () => long(256, width)],
    [257, () => long(257, height)],
    [258, () => list(258, 2)],
    [259, () => long(259, compression)],
    [262, () => long(262, channels > 2 ? 2 : 1)],
    ...(tile ? [] : ([[273, () => list(273, 0)]] as [number, () => void][])),
    [277, () => long(277, channels)],
    ...(tile
      ? []
      : ([
          [278, () => long(278, height)],
          [279, () => list(279, 1)],
        ] as [number, () => void][])),
    [284, () => long(284, planar ? 2 : 1)],
    ...(tile
      ? ([
          [322, () => long(322, tile)],
          [323, () => long(323, tile)],
          [324, () => list(324, 0)],
          [325, () => list(325, 1)],
        ] as [number, () => void][])
      : []),
    [339, () => list(339, 3)],
  ];
  out.u16(entries.length);
  for (const [, write] of entries) write();
  const file = out.u32(0).done();
  new DataView(file.buffer).setUint32(4, directory, little);
  return file;
}

/** TGA: `corner` says where rows and columns begin; colours may be 16, 24 or 32 bits, greys 8; `runs` packs equal neighbours. */
export function writeTga(
  { width, height, channels, data }: Picture,
  { fromTop = false, fromRight = false, runs = false, palette = null as number[][] | null, id = '' } = {},
): Uint8Array {
  const kind = palette ? 1 : channels === 1 ? 3 : 2;
  const bits = palette ? 8 : channels * 8;
  const out = new Bytes().u8(id.length, palette ? 1 : 0, kind + (runs ? 8 : 0)).u16(0);
  out.u16(palette?.length ?? 0).u8(palette ? 24 : 0);
  out
    .u16(0)
    .u16(0)
    .u16(width)
    .u16(height)
    .u8(bits, (channels === 4 ? 8 : 0) + (fromTop ? 32 : 0) + (fromRight ? 16 : 0));
  out.text(id);
  for (const [r, g, b] of palette ?? []) out.u8(b, g, r);
  const pixels: number[][] = [];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = ((fromTop ? y : height - 1 - y) * width + (fromRight ? width - 1 - x : x)) * channels;
      const p = Array.from({ length: channels }, (_, c) => data[at + c]);
      pixels.push(channels >= 3 ? [p[2], p[1], p[0], ...p.slice(3)] : p);
    }
  if (!runs) for (const p of pixels) out.u8(...p);
  else
    for (let i = 0; i < pixels.length;) {
      let n = 1;
      while (n < 128 && i + n < pixels.length && pixels[i + n].join() === pixels[i].join()) n++;
      // A lone pixel goes as a packet of one, run or not by turns: both must be read.
      out.u8(n > 1 || i % 2 ? 127 + n : 0, ...pixels[i]);
      i += n;
    }
  return out.done();
}

/** OpenEXR without compression: half (1) or float (2) samples, in rows or in tiles of a side. */
export function writeExr({ width, height, channels, data }: Picture, type: 1 | 2, toHalf: (v: number) => number, tile = 0): Uint8Array {
  const names = channels === 1 ? ['Y'] : channels === 3 ? ['B', 'G', 'R'] : ['A', 'B', 'G', 'R'];
  const place: Record<string, number> = { Y: 0, R: 0, G: 1, B: 2, A: 3 };
  const out = new Bytes().u32(20000630).u8(2, tile ? 2 : 0, 0, 0);
  const attribute = (name: string, kind: string, value: Uint8Array) => {
    out
      .text(name)
      .u8(0)
      .text(kind)
      .u8(0)
      .u32(value.length)
      .u8(...value);
  };
  const list = new Bytes();
  for (const n of names) list.text(n).u8(0).u32(type).u8(0, 0, 0, 0).u32(1).u32(1);
  const box = new Bytes()
    .u32(0)
    .u32(0)
    .u32(width - 1)
    .u32(height - 1)
    .done();
  attribute('channels', 'chlist', list.u8(0).done());
  attribute('compression', 'compression', Uint8Array.of(0));
  attribute('dataWindow', 'box2i', box);
  attribute('displayWindow', 'box2i', box);
  attribute('lineOrder', 'lineOrder', Uint8Array.of(0));
  attribute('pixelAspectRatio', 'float', new Bytes().f32(1).done());
  attribute('screenWindowCenter', 'v2f', new Bytes().f32(0).f32(0).done());
  attribute('screenWindowWidth', 'float', new Bytes().f32(1).done());
  if (tile) attribute('tiles', 'tiledesc', new Bytes().u32(tile).u32(tile).u8(0).done());
  out.u8(0);
  const size = type * 2;
  const boxes = tile
    ? Array.from({ length: Math.ceil(width / tile) * Math.ceil(height / tile) }, (_, i) => {
        const [tx, ty] = [i % Math.ceil(width / tile), Math.floor(i / Math.ceil(width / tile))];
        return { tx, ty, x: tx * tile, y: ty * tile, w: Math.min(tile, width - tx * tile), h: Math.min(tile, height - ty * tile) };
      })
    : Array.from({ length: height }, (_, y) => ({ tx: 0, ty: 0, x: 0, y, w: width, h: 1 }));
  let at = out.length + boxes.length * 8;
  for (const b of boxes) {
    out.u64(at);
    at += (tile ? 20 : 8) + b.w * b.h * channels * size;
  }
  for (const b of boxes) {
    if (tile) out.u32(b.tx).u32(b.ty).u32(0).u32(0);
    else out.u32(b.y);
    out.u32(b.w * b.h * channels * size);
    for (let y = b.y; y < b.y + b.h; y++)
      for (const n of names)
        for (let x = b.x; x < b.x + b.w; x++) {
          const v = data[(y * width + x) * channels + place[n]];
          if (type === 1) out.u16(toHalf(v));
          else out.f32(v);
        }
  }
  return out.done();
}

/** Radiance RGBE without run lengths (narrow pictures have none) or with them. */
export function writeHdr({ width, height }: Picture, rgbe: readonly number[]): Uint8Array {
  const out = new Bytes().text(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`);
  if (width < 8) return out.u8(...rgbe).done();
  for (let y = 0; y < height; y++) {
    out.u8(2, 2, width >> 8, width & 255);
    for (let c = 0; c < 4; c++)
      for (let x = 0; x < width;) {
        const v = rgbe[(y * width + x) * 4 + c];
        let n = 1;
        while (n < 127 && x + n < width && rgbe[(y * width + x + n) * 4 + c] === v) n++;
        if (n > 2) out.u8(128 + n, v);
        else out.u8(n, ...Array<number>(n).fill(v));
        x += n;
      }
  }
  return out.done();
}
