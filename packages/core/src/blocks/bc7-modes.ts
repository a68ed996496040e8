// Blocks of BC7 in all of their eight modes, as other encoders make them. Source: Khronos Data Format 1.3, section 20 (BPTC).

/** What a mode keeps: subsets, bits of the partition, of the rotation and of the index selection; bits of colour and alpha ends; lowest bits, one an end or one a subset; bits of the two sets of indices. */
interface Mode {
  subsets: 1 | 2 | 3;
  partition: number;
  rotation: number;
  selection: number;
  colour: number;
  alpha: number;
  endBits: boolean;
  sharedBits: boolean;
  index: number;
  second: number;
}
const mode = (
  subsets: 1 | 2 | 3,
  partition: number,
  rotation: number,
  selection: number,
  colour: number,
  alpha: number,
  low: '' | 'end' | 'subset',
  index: number,
  second = 0,
): Mode => ({ subsets, partition, rotation, selection, colour, alpha, endBits: low === 'end', sharedBits: low === 'subset', index, second });
const MODES: readonly Mode[] = [
  mode(3, 4, 0, 0, 4, 0, 'end', 3),
  mode(2, 6, 0, 0, 6, 0, 'subset', 3),
  mode(3, 6, 0, 0, 5, 0, '', 2),
  mode(2, 6, 0, 0, 7, 0, 'end', 2),
  mode(1, 0, 2, 1, 5, 6, '', 2, 3),
  mode(1, 0, 2, 0, 7, 8, '', 2, 2),
  mode(1, 0, 0, 0, 7, 7, 'end', 4),
  mode(2, 6, 0, 0, 5, 5, 'end', 2),
];
const WEIGHTS: Readonly<Record<number, readonly number[]>> = {
  2: [0, 21, 43, 64],
  3: [0, 9, 18, 27, 37, 46, 55, 64],
  4: [0, 4, 9, 13, 17, 21, 26, 30, 34, 38, 43, 47, 51, 55, 60, 64],
};
/** Which of two subsets each texel belongs to, a bit a texel. */
// prettier-ignore
const TWO = [
  0xcccc, 0x8888, 0xeeee, 0xecc8, 0xc880, 0xfeec, 0xfec8, 0xec80, 0xc800, 0xffec, 0xfe80, 0xe800, 0xffe8, 0xff00, 0xfff0, 0xf000,
  0xf710, 0x008e, 0x7100, 0x08ce, 0x008c, 0x7310, 0x3100, 0x8cce, 0x088c, 0x3110, 0x6666, 0x366c, 0x17e8, 0x0ff0, 0x718e, 0x399c,
  0xaaaa, 0xf0f0, 0x5a5a, 0x33cc, 0x3c3c, 0x55aa, 0x9696, 0xa55a, 0x73ce, 0x13c8, 0x324c, 0x3bdc, 0x6996, 0xc33c, 0x9966, 0x0660,
  0x0272, 0x04e4, 0x4e40, 0x2720, 0xc936, 0x936c, 0x39c6, 0x639c, 0x9336, 0x9cc6, 0x817e, 0xe718, 0xccf0, 0x0fcc, 0x7744, 0xee22,
];
/** Of three, two bits a texel. */
// prettier-ignore
const THREE = [
  0xaa685050, 0x6a5a5040, 0x5a5a4200, 0x5450a0a8, 0xa5a50000, 0xa0a05050, 0x5555a0a0, 0x5a5a5050, 0xaa550000, 0xaa555500, 0xaaaa5500,
  0x90909090, 0x94949494, 0xa4a4a4a4, 0xa9a59450, 0x2a0a4250, 0xa5945040, 0x0a425054, 0xa5a5a500, 0x55a0a0a0, 0xa8a85454, 0x6a6a4040,
  0xa4a45000, 0x1a1a0500, 0x0050a4a4, 0xaaa59090, 0x14696914, 0x69691400, 0xa08585a0, 0xaa821414, 0x50a4a450, 0x6a5a0200, 0xa9a58000,
  0x5090a0a8, 0xa8a09050, 0x24242424, 0x00aa5500, 0x24924924, 0x24499224, 0x50a50a50, 0x500aa550, 0xaaaa4444, 0x66660000, 0xa5a0a5a0,
  0x50a050a0, 0x69286928, 0x44aaaa44, 0x66666600, 0xaa444444, 0x54a854a8, 0x95809580, 0x96969600, 0xa85454a8, 0x80959580, 0xaa141414,
  0x96960000, 0xaaaa1414, 0xa05050a0, 0xa0a5a5a0, 0x96000000, 0x40804080, 0xa9a8a9a8, 0xaaaaaa44, 0x2a4a5254,
];
/** Texels whose index has a bit less, beside the first: of the second of two subsets, of the second and third of three. */
// prettier-ignore
const ANCHOR_2 = [
  15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 2, 8, 2, 2, 8, 8, 15, 2, 8, 2, 2, 8, 8, 2, 2,
  15, 15, 6, 8, 2, 8, 15, 15, 2, 8, 2, 2, 2, 15, 15, 6, 6, 2, 6, 8, 15, 15, 2, 2, 15, 15, 15, 15, 15, 2, 2, 15,
];
// prettier-ignore
const ANCHOR_3 = [
  3, 3, 15, 15, 8, 3, 15, 15, 8, 8, 6, 6, 6, 5, 3, 3, 3, 3, 8, 15, 3, 3, 6, 10, 5, 8, 8, 6, 8, 5, 15, 15,
  8, 15, 3, 5, 6, 10, 8, 15, 15, 3, 15, 5, 15, 15, 15, 15, 3, 15, 5, 5, 5, 8, 5, 10, 5, 10, 8, 13, 15, 12, 3, 3,
];
// prettier-ignore
const ANCHOR_3_LAST = [
  15, 8, 8, 3, 15, 15, 3, 8, 15, 15, 15, 15, 15, 15, 15, 8, 15, 8, 15, 3, 15, 8, 15, 8, 3, 15, 6, 10, 15, 15, 10, 8,
  15, 3, 15, 10, 10, 8, 9, 10, 6, 15, 8, 15, 3, 6, 6, 8, 15, 3, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 3, 15, 15, 8,
];

const subsetOf = (subsets: number, partition: number, texel: number): number =>
  subsets === 1 ? 0 : subsets === 2 ? (TWO[partition] >> texel) & 1 : (THREE[partition] >>> (2 * texel)) & 3;
function isAnchor(subsets: number, partition: number, texel: number): boolean {
  if (texel === 0) return true;
  if (subsets === 2) return ANCHOR_2[partition] === texel;
  return subsets === 3 && (ANCHOR_3[partition] === texel || ANCHOR_3_LAST[partition] === texel);
}
/** A number of so many bits spread over eight. */
const widened = (value: number, bits: number): number => {
  const top = value << (8 - bits);
  return top | (top >> bits);
};

/** Sixteen texels of four channels, 0–255. A block of no mode is clear black. @param at where the block begins */
export function decodeBc7(bytes: Uint8Array, at: number, out: Float32Array): void {
  let bit = 0;
  const get = (bits: number): number => {
    let value = 0;
    for (let i = 0; i < bits; i++, bit++) value |= ((bytes[at + (bit >> 3)] >> (bit & 7)) & 1) << i;
    return value;
  };
  let number = 0;
  while (number < 8 && !get(1)) number++;
  if (number === 8) return void out.fill(0, 0, 64);
  const m = MODES[number];
  const [partition, rotation, selection] = [get(m.partition), get(m.rotation), get(m.selection)];
  const count = m.subsets * 2;
  const ends = Array.from({ length: count }, () => [0, 0, 0, 255]);
  for (let c = 0; c < 3; c++) for (const end of ends) end[c] = get(m.colour);
  if (m.alpha) for (const end of ends) end[3] = get(m.alpha);
  const lows = m.endBits
    ? ends.map(() => get(1))
    : m.sharedBits
      ? Array.from({ length: m.subsets }, () => get(1)).flatMap((low) => [low, low])
      : null;
  ends.forEach((end, e) => {
    for (let c = 0; c < (m.alpha ? 4 : 3); c++) {
      const bits = (c < 3 ? m.colour : m.alpha) + (lows ? 1 : 0);
      end[c] = widened(lows ? (end[c] << 1) | lows[e] : end[c], bits);
    }
  });
  const first = Array.from({ length: 16 }, (_, t) => get(m.index - (isAnchor(m.subsets, partition, t) ? 1 : 0)));
  const second = m.second ? Array.from({ length: 16 }, (_, t) => get(m.second - (t === 0 ? 1 : 0))) : null;
  for (let t = 0; t < 16; t++) {
    const pair = subsetOf(m.subsets, partition, t) * 2;
    const [a, b] = [ends[pair], ends[pair + 1]];
    const plain = WEIGHTS[m.index][first[t]];
    const other = second ? WEIGHTS[m.second][second[t]] : plain;
    const [colour, alpha] = selection ? [other, plain] : [plain, other];
    for (let c = 0; c < 4; c++) {
      const w = c < 3 ? colour : alpha;
      out[t * 4 + c] = ((64 - w) * a[c] + w * b[c] + 32) >> 6;
    }
    if (rotation) {
      const c = rotation - 1;
      [out[t * 4 + c], out[t * 4 + 3]] = [out[t * 4 + 3], out[t * 4 + c]];
    }
  }
}
