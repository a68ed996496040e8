// The Basis Universal encoder: blocks for hardware, and universal ones; C++ behind WebAssembly, on Node.
import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import path from 'node:path';
import { pathToFileURL } from 'node:url';

/** As much of the encoder as is used. It wants to be told when to let go. */
interface BasisEncoder {
  setSliceSourceImage(slice: number, rgba: Uint8Array, width: number, height: number, raw: number): boolean;
  setDDSFormatEnum(format: number): void;
  setDDSBC7Encoder(encoder: number): void;
  setDDSBC7FLevel(level: number): void;
  setMipGen(on: boolean): void;
  setMipSRGB(on: boolean): void;
  setMipRenormalize(on: boolean): void;
  setUASTC(on: boolean): void;
  setCreateKTX2File(on: boolean): void;
  setKTX2UASTCSupercompression(on: boolean): void;
  setKTX2AndBasisSRGBTransferFunc(on: boolean): void;
  setPerceptual(on: boolean): void;
  setPackUASTCFlags(level: number): void;
  setQualityLevel(level: number): void;
  encode(out: Uint8Array): number;
  encodeToDDS(out: Uint8Array): number;
  delete(): void;
}
interface BasisModule {
  initializeBasis(): void;
  BasisEncoder: new () => BasisEncoder;
}

let started: Promise<BasisModule> | undefined;
const start = (): Promise<BasisModule> =>
  (started ??= (async () => {
    // Its package offers no path to the encoder alone: it is looked for where packages are.
    const folders = createRequire(import.meta.url).resolve.paths('ktx2-encoder') ?? [];
    const file = folders.map((dir) => path.join(dir, 'ktx2-encoder/dist/basis/basis_encoder.js')).find((f) => existsSync(f));
    if (!file) throw new Error('The encoder of blocks is not installed. Run npm ci');
    const { default: make } = (await import(pathToFileURL(file).href)) as { default: (options: object) => Promise<BasisModule> };
    const quiet = () => undefined;
    const module = await make({ wasmBinary: await readFile(file.replace(/js$/, 'wasm')), print: quiet, printErr: quiet });
    module.initializeBasis();
    return module;
  })());

/** A picture of four bytes a texel. */
export interface Rgba {
  width: number;
  height: number;
  data: Uint8Array;
}

/** Block formats of hardware: the encoder's number, bytes a block. */
export const HARDWARE_BLOCKS = {
  BC1: { number: 0, bytes: 8 },
  BC3: { number: 2, bytes: 16 },
  BC4: { number: 3, bytes: 8 },
  BC5: { number: 4, bytes: 16 },
  BC7: { number: 5, bytes: 16 },
} as const;
export type HardwareBlock = keyof typeof HARDWARE_BLOCKS;

/** Where the blocks begin behind the header of what the encoder writes. */
const HEADER = 148;
/** How hard blocks are tried: the least of what is within half a decibel of the most (tests measure it). */
export const EFFORT = { BC7: 2, UASTC: 3 };
/** Texels that it takes at a time. */
const MOST = 8 * 2 ** 20;

/** The same made of whole blocks: what is missing repeats the border. */
function whole({ width, height, data }: Rgba): Rgba {
  const [w, h] = [Math.ceil(width / 4) * 4, Math.ceil(height / 4) * 4];
  if (w === width && h === height) return { width, height, data };
  const out = new Uint8Array(w * h * 4);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const from = (Math.min(y, height - 1) * width + Math.min(x, width - 1)) * 4;
      out.set(data.subarray(from, from + 4), (y * w + x) * 4);
    }
  return { width: w, height: h, data: out };
}

async function run<T>(use: (encoder: BasisEncoder) => T): Promise<T> {
  const { BasisEncoder } = await start();
  const encoder = new BasisEncoder();
  try {
    return use(encoder);
  } finally {
    encoder.delete();
  }
}
/** What the encoder writes. @throws Error when it writes nothing */
function written(bytes: number, out: Uint8Array): Uint8Array {
  if (bytes <= 0) throw new Error('The encoder of blocks gave nothing');
  return out.subarray(0, bytes);
}

/**
 * Blocks of 4 × 4 for hardware, row by row, in strips that the encoder can hold: they join byte for byte.
 * @param level how hard BC7 is tried; @param most texels of a strip
 */
export async function hardwareBlocks(picture: Rgba, kind: HardwareBlock, level = EFFORT.BC7, most = MOST): Promise<Uint8Array> {
  const { width, height, data } = whole(picture);
  const { number, bytes } = HARDWARE_BLOCKS[kind];
  const out = new Uint8Array((width / 4) * (height / 4) * bytes);
  const rows = Math.max(4, Math.floor(most / width / 4) * 4);
  for (let top = 0; top < height; top += rows) {
    const end = Math.min(height, top + rows);
    await run((encoder) => {
      encoder.setDDSFormatEnum(number);
      encoder.setDDSBC7Encoder(0);
      encoder.setDDSBC7FLevel(level);
      encoder.setMipGen(false);
      encoder.setSliceSourceImage(0, data.subarray(top * width * 4, end * width * 4), width, end - top, 0);
      const size = ((end - top) / 4) * (width / 4) * bytes;
      const strip = new Uint8Array(size + 4096);
      const found = written(encoder.encodeToDDS(strip), strip);
      out.set(found.subarray(HEADER, HEADER + size), (top / 4) * (width / 4) * bytes);
    });
  }
  return out;
}

/** What a picture of universal blocks shall be. */
export interface UniversalOptions {
  kind: 'UASTC' | 'ETC1S';
  srgb: boolean;
  /** Normals: smaller levels are of unit length. */
  directions: boolean;
  mips: boolean;
  /** How hard UASTC is tried. */
  level?: number;
}

/** A KTX2 file of universal blocks, made small by Zstandard or codebooks. @throws Error for a picture too large for the encoder */
export async function universalFile(
  { width, height, data }: Rgba,
  { kind, srgb, directions, mips, level = EFFORT.UASTC }: UniversalOptions,
): Promise<Uint8Array> {
  if (width * height > MOST * 1.5) throw new Error(`Universal blocks are made of up to ${MOST * 1.5} texels; this picture has ${width * height}`);
  return run((encoder) => {
    encoder.setUASTC(kind === 'UASTC');
    encoder.setCreateKTX2File(true);
    encoder.setKTX2UASTCSupercompression(kind === 'UASTC');
    encoder.setKTX2AndBasisSRGBTransferFunc(srgb);
    encoder.setPerceptual(srgb);
    if (kind === 'UASTC') encoder.setPackUASTCFlags(level);
    else encoder.setQualityLevel(255);
    encoder.setMipGen(mips);
    encoder.setMipSRGB(srgb);
    encoder.setMipRenormalize(directions);
    encoder.setSliceSourceImage(0, data, width, height, 0);
    const out = new Uint8Array(width * height * 8 + 65536);
    return written(encoder.encode(out), out).slice();
  });
}
