import { Reader, corrupt } from '../reader';
import type { ImageKind } from './kind';
import { NO_MARKS } from './kind';

/** The header of a TGA file. Source: Truevision TGA file format 2.0. */
export interface TgaHeader {
  idLength: number;
  mapped: boolean;
  /** 1 palette, 2 colour, 3 grey. */
  kind: 1 | 2 | 3;
  runs: boolean;
  paletteFirst: number;
  paletteLength: number;
  paletteBits: number;
  width: number;
  height: number;
  bits: number;
  alphaBits: number;
  /** Rows and columns begin at the top and at the right. */
  fromTop: boolean;
  fromRight: boolean;
}

const BITS: Record<1 | 2 | 3, readonly number[]> = { 1: [8, 16], 2: [15, 16, 24, 32], 3: [8, 16] };

/** @throws FormatError when the numbers do not make a picture */
export function tgaHeader(r: Reader): TgaHeader {
  r.need(0, 18);
  const [type, descriptor] = [r.u8(2), r.u8(17)];
  const kind = (type & 7) as 1 | 2 | 3;
  const header: TgaHeader = {
    idLength: r.u8(0),
    mapped: r.u8(1) === 1,
    kind,
    runs: type >= 8,
    paletteFirst: r.u16(3),
    paletteLength: r.u16(5),
    paletteBits: r.u8(7),
    width: r.u16(12),
    height: r.u16(14),
    bits: r.u8(16),
    alphaBits: descriptor & 15,
    fromTop: (descriptor & 32) !== 0,
    fromRight: (descriptor & 16) !== 0,
  };
  const sensible =
    [1, 2, 3, 9, 10, 11].includes(type) &&
    r.u8(1) <= 1 &&
    BITS[kind].includes(header.bits) &&
    header.width > 0 &&
    header.height > 0 &&
    header.alphaBits <= 8 &&
    descriptor < 64 &&
    (kind !== 1 || (header.mapped && header.paletteLength > 0)) &&
    (!header.mapped || [15, 16, 24, 32].includes(header.paletteBits));
  if (!sensible) throw corrupt('the header makes no sense', 0);
  return header;
}

/** Channels that a header stands for: grey of 16 bits is grey with alpha. */
export function tgaChannels({ kind, bits, alphaBits, paletteBits }: TgaHeader): 1 | 2 | 3 | 4 {
  if (kind === 3) return bits === 16 ? 2 : 1;
  const colourBits = kind === 1 ? paletteBits : bits;
  return colourBits === 32 || (colourBits === 16 && alphaBits > 0) ? 4 : 3;
}

function isTga(bytes: Uint8Array): boolean {
  try {
    return tgaHeader(new Reader(bytes)) !== null;
  } catch {
    return false;
  }
}

/** It has no mark of its own: whatever makes sense as its header. */
export const tga: ImageKind = {
  name: 'TGA',
  endings: ['.tga'],
  is: isTga,
  probe(r) {
    const header = tgaHeader(r);
    return { width: header.width, height: header.height, channels: tgaChannels(header), depth: 8 };
  },
  marks: () => NO_MARKS,
};
