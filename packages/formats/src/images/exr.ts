import { FormatError } from '../codec';
import type { Reader } from '../reader';
import { corrupt, unsupported } from '../reader';
import type { ImageKind, ImageShape } from './kind';
import { starts } from './kind';

/** Kinds of samples by their numbers. */
const SAMPLES = ['whole numbers', 'half', 'float'];

/** Names of channels; each is followed by its kind of sample, flags and how often it is sampled. */
function channelList(r: Reader, from: number, end: number): string[] {
  const names: string[] = [];
  const kinds = new Set<number>();
  for (let at = from; at < end && r.u8(at) !== 0;) {
    const name = r.zeroEnded(at);
    at += name.length + 1;
    if (r.u32(at) > 2) throw corrupt(`the samples of channel ${name} are of no known kind`, at);
    kinds.add(r.u32(at));
    if (/^[RGBAY]$/.test(name) && (r.u32(at + 8) !== 1 || r.u32(at + 12) !== 1))
      throw unsupported(`channel ${name} is sampled thinly. Save it whole`, at);
    at += 16;
    names.push(name);
  }
  if (kinds.size > 1)
    throw unsupported(
      `its channels hold different kinds of numbers (${[...kinds]
        .sort()
        .map((k) => SAMPLES[k])
        .join(', ')}). Save all of them as one`,
      from,
    );
  if (kinds.has(0)) throw unsupported('channels of whole numbers are not read. Save them as half or float', from);
  return names;
}

/** Attributes that decide how pixels are read, with their types and, where it is fixed, their size. */
const EXR_ATTRIBUTES: Readonly<Record<string, readonly [type: string, size: number]>> = {
  channels: ['chlist', 0],
  compression: ['compression', 1],
  dataWindow: ['box2i', 16],
  displayWindow: ['box2i', 16],
  lineOrder: ['lineOrder', 1],
  pixelAspectRatio: ['float', 4],
  screenWindowCenter: ['v2f', 8],
  screenWindowWidth: ['float', 4],
  tiles: ['tiledesc', 9],
};

/**
 * Reads the header of an OpenEXR file and writes it again with nothing in it but what decides how pixels are read: the
 * reader of pixels trusts headers. Source: OpenEXR file layout, version 2. @throws FormatError
 */
export function exrHeader(r: Reader): { facts: ImageShape; header: Uint8Array; end: number } {
  const flags = r.u8(5);
  if (flags & 8) throw unsupported('deep pixels are not read. Save it flat', 5);
  if (flags & 16) throw unsupported('several parts in one file are not read. Save one of them', 5);
  const found = new Map<string, number>();
  const kept = [r.bytes.subarray(0, 8)];
  let at = 8;
  // Attributes follow one another as name, type, size, value; an empty name ends them.
  while (r.u8(at) !== 0) {
    const start = at;
    const name = r.zeroEnded(at);
    at += name.length + 1;
    const type = r.zeroEnded(at);
    at += type.length + 1;
    const size = r.u32(at);
    at += 4;
    r.need(at, size);
    const known = Object.hasOwn(EXR_ATTRIBUTES, name) ? EXR_ATTRIBUTES[name] : null;
    if (known && !found.has(name)) {
      if (type !== known[0] || (known[1] && size !== known[1])) throw corrupt(`its attribute ${name} is of another kind than it must be`, start);
      found.set(name, at);
      kept.push(r.bytes.subarray(start, at + size));
    }
    at += size;
  }
  const end = at + 1;
  kept.push(Uint8Array.of(0));
  const place = (name: string): number => {
    const where = found.get(name);
    if (where === undefined) throw corrupt(`its attribute ${name} is missing`, 8);
    return where;
  };
  const names = channelList(r, place('channels'), end);
  const box = place('dataWindow');
  const [width, height] = [r.i32(box + 8) - r.i32(box) + 1, r.i32(box + 12) - r.i32(box + 4) + 1];
  if (!(width > 0 && height > 0)) throw corrupt('its data window is empty', box);
  if (r.u8(place('compression')) > 9) throw unsupported('its compression is not known', place('compression'));
  place('lineOrder');
  if (flags & 2) {
    const tiles = place('tiles');
    const [across, down] = [r.u32(tiles), r.u32(tiles + 4)];
    if (!across || !down) throw corrupt('its tiles have no size', tiles);
    if ((r.u8(tiles + 8) & 15) > 1) throw unsupported('tiles at separate widths and heights are not read. Save it in rows', tiles);
    // Every tile has an offset of eight bytes.
    if (Math.ceil(width / across) * Math.ceil(height / down) * 8 > r.length)
      throw new FormatError('truncated', 'its tiles are not all there. Copy or export it again', r.length);
  }
  const header = new Uint8Array(kept.reduce((sum, part) => sum + part.length, 0));
  kept.reduce((offset, part) => (header.set(part, offset), offset + part.length), 0);
  return { facts: { width, height, channels: exrChannels(names), depth: 32 }, header, end };
}

function exrChannels(names: readonly string[]): 1 | 3 | 4 {
  const has = (c: string) => names.includes(c);
  if (has('R') && has('G') && has('B')) return has('A') ? 4 : 3;
  if (has('Y')) return has('RY') && has('BY') ? 3 : 1;
  throw unsupported(`its channels (${names.slice(0, 6).join(', ') || 'none'}) are neither RGB nor grey. Save it as RGB`, 8);
}

export const exr: ImageKind = {
  name: 'EXR',
  endings: ['.exr'],
  is: (b) => starts(b, [0x76, 0x2f, 0x31, 0x01]),
  probe: (r) => exrHeader(r).facts,
  marks: () => ({ lossy: false, marked: 'linear' }),
};
