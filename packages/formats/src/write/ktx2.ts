// KTX2 out: levels of samples or of blocks, the descriptor that says what they are. Source: KTX 2.0, Khronos Data Format 1.3.
import type { Image, Ktx2Kind } from '@pebble/core';
import { fullScale } from '@pebble/core';
import type { KTX2Container } from 'ktx-parse';
import { createDefaultContainer, write } from 'ktx-parse';
import type { HardwareBlock, Rgba } from './basis';
import { HARDWARE_BLOCKS, hardwareBlocks, universalFile } from './basis';

const isHardware = (kind: Ktx2Kind): kind is HardwareBlock => Object.hasOwn(HARDWARE_BLOCKS, kind);

/** Numbers of formats, linear and sRGB, and colour models of blocks. Names of the numbers: Vulkan 1.3, `VkFormat`. */
const BLOCK_FORMATS: Readonly<Record<HardwareBlock, { linear: number; srgb: number; model: number }>> = {
  BC1: { linear: 131, srgb: 132, model: 128 },
  BC3: { linear: 137, srgb: 138, model: 130 },
  BC4: { linear: 139, srgb: 139, model: 131 },
  BC5: { linear: 141, srgb: 141, model: 132 },
  BC7: { linear: 145, srgb: 146, model: 134 },
};
const PLAIN_8: Readonly<Record<number, { linear: number; srgb: number }>> = {
  1: { linear: 9, srgb: 15 },
  2: { linear: 16, srgb: 22 },
  3: { linear: 23, srgb: 29 },
  4: { linear: 37, srgb: 43 },
};
const PLAIN_16: Readonly<Record<number, number>> = { 1: 70, 2: 77, 3: 84, 4: 91 };

type Sample = KTX2Container['dataFormatDescriptor'][number]['samples'][number];
const sample = (bitOffset: number, bits: number, channelType: number, upper: number): Sample => ({
  bitOffset,
  bitLength: bits - 1,
  channelType,
  samplePosition: [0, 0, 0, 0],
  sampleLower: 0,
  sampleUpper: upper,
});
/** Alpha is always linear, which its channel says. */
const ALPHA = 15;
const LINEAR = 16;

function describe(container: KTX2Container, model: number, bytes: number, block: number, srgb: boolean, samples: Sample[]): void {
  const [descriptor] = container.dataFormatDescriptor;
  Object.assign(descriptor, {
    colorModel: model,
    colorPrimaries: 1,
    transferFunction: srgb ? 2 : 1,
    texelBlockDimension: [block - 1, block - 1, 0, 0],
    bytesPlane: [bytes, 0, 0, 0, 0, 0, 0, 0],
    samples,
  });
}

/** Four bytes a texel: grey stands in all three, what is not there is 0, alpha 1. */
export function asRgba({ width, height, channels, depth, data }: Image): Rgba {
  const out = new Uint8Array(width * height * 4);
  const full = fullScale(depth);
  const byte = (v: number) => (depth === 8 ? v : Math.floor((v / full) * 255 + 0.5));
  for (let i = 0; i < width * height; i++) {
    const at = i * channels;
    const red = byte(data[at]);
    out[i * 4] = red;
    out[i * 4 + 1] = channels === 1 ? red : byte(data[at + 1]);
    out[i * 4 + 2] = channels === 1 ? red : channels > 2 ? byte(data[at + 2]) : 0;
    out[i * 4 + 3] = channels === 4 ? byte(data[at + 3]) : 255;
  }
  return { width, height, data: out };
}

export interface Ktx2Options {
  kind: Ktx2Kind;
  /** Directions: universal blocks make their own smaller levels, which are then of unit length. */
  directions?: boolean;
}

/**
 * A KTX2 file of levels, the largest first. Universal blocks make smaller levels themselves, by the same rules; all other kinds
 * hold these very levels. The same levels give the same bytes.
 * @param levels all 8-bit, or all 16-bit for `plain`
 */
export async function writeKtx2(levels: readonly Image[], { kind, directions = false }: Ktx2Options): Promise<Uint8Array> {
  const [first] = levels;
  const srgb = first.colourSpace === 'srgb';
  if (kind === 'UASTC' || kind === 'ETC1S') return universalFile(asRgba(first), { kind, srgb, directions, mips: levels.length > 1 });
  const container = createDefaultContainer();
  Object.assign(container, {
    pixelWidth: first.width,
    pixelHeight: first.height,
    pixelDepth: 0,
    layerCount: 0,
    faceCount: 1,
    levelCount: levels.length,
  });
  container.keyValue = { KTXwriter: 'Jaunty Pebble', KTXorientation: 'rd' };
  if (isHardware(kind)) {
    const { linear, srgb: coded, model } = BLOCK_FORMATS[kind];
    const { bytes } = HARDWARE_BLOCKS[kind];
    container.vkFormat = (srgb ? coded : linear) as KTX2Container['vkFormat'];
    container.typeSize = 1;
    const whole = 0xffffffff;
    const half = bytes * 4;
    const samples =
      kind === 'BC3'
        ? [sample(0, 64, ALPHA | (srgb ? LINEAR : 0), whole), sample(64, 64, 0, whole)]
        : kind === 'BC5'
          ? [sample(0, half, 0, whole), sample(half, half, 1, whole)]
          : [sample(0, bytes * 8, 0, whole)];
    describe(container, model, bytes, 4, srgb && coded !== linear, samples);
    container.levels = [];
    for (const level of levels) {
      const levelData = new Uint8Array(await hardwareBlocks(asRgba(level), kind));
      container.levels.push({ levelData, uncompressedByteLength: levelData.length });
    }
    return write(container, { keepWriter: true });
  }
  const { channels, depth } = first;
  const bytes = depth / 8;
  container.vkFormat = (depth === 8 ? PLAIN_8[channels][srgb ? 'srgb' : 'linear'] : PLAIN_16[channels]) as KTX2Container['vkFormat'];
  container.typeSize = bytes;
  const samples = Array.from({ length: channels }, (_, c) => {
    const alpha = channels === 4 && c === 3;
    return sample(c * depth, depth, alpha ? ALPHA | (srgb ? LINEAR : 0) : c, fullScale(depth));
  });
  describe(container, 1, bytes * channels, 1, srgb, samples);
  container.levels = levels.map(({ data }) => {
    const levelData = Uint8Array.from(new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
    return { levelData, uncompressedByteLength: levelData.length };
  });
  return write(container, { keepWriter: true });
}
