// PNG written strip by strip on several threads: the deflate stream is cut into parts that are compressed side by side
// and joined, each with the end of the part before it as its dictionary (as RFC 1950/1951 allow). Node only.
import { createAdler32, createCRC32 } from 'hash-wasm';
import { promisify } from 'node:util';
import { constants, deflateRaw, deflateRawSync } from 'node:zlib';
import type { RowsShape, RowSource } from '../../codec';

const compress = promisify(deflateRaw);
/** Bytes before compression of one part. Fixed, so that the same picture gives the same bytes on any machine. */
const PART = 1 << 19;
/** Room for the compressed bytes of a part at once: the usual 16 KiB would cost a change of threads every 16 KiB. */
const OUTPUT = PART + (PART >> 3);
/** Parts under way at once: what Node's pool of threads takes. */
const AHEAD = 4;
const WINDOW = 32768;
/** Bytes at the middle of a part that are tried first; what is found serves the next few parts too. */
const TRIAL = 8192;
const TRIED_EVERY = 4;
/** Where looking for repeats saves less than this share of the trial, as in noise, bytes are only entropy-coded: three times as fast. */
const WORTH = 0.01;
/** Where it saves less than this, as in grainy scans, a quick look finds as much as a patient one: 0.2 % more bytes, a sixth less time. */
const WORTH_PATIENCE = 0.15;
const SIGNATURE = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a);
const COLOUR_TYPE = { 1: 0, 2: 4, 3: 2, 4: 6 } as const;

/** A PNG in pieces, at most a few strips in memory. Rows are unfiltered: sources of data rarely gain from filters. */
export async function* pngStrips(shape: RowsShape, rows: RowSource): AsyncGenerator<Uint8Array> {
  const { width, height, channels, depth, colourSpace } = shape;
  const crc = await createCRC32();
  const adler = await createAdler32();
  const chunk = (type: string, parts: readonly Uint8Array[]): Uint8Array => {
    const length = parts.reduce((n, p) => n + p.length, 0);
    const out = new Uint8Array(12 + length);
    const view = new DataView(out.buffer);
    view.setUint32(0, length);
    for (let i = 0; i < 4; i++) out[4 + i] = type.charCodeAt(i);
    let at = 8;
    for (const part of parts) {
      out.set(part, at);
      at += part.length;
    }
    view.setUint32(at, parseInt(crc.init().update(out.subarray(4, at)).digest('hex'), 16));
    return out;
  };
  const header = new Uint8Array(13);
  const view = new DataView(header.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  header.set([depth, COLOUR_TYPE[channels], 0, 0, 0], 8);
  yield SIGNATURE;
  yield chunk('IHDR', [header]);
  // Perceptual intent, as PNG 11.3.2.5 has it; readers that know no sRGB take the gamma.
  if (colourSpace === 'srgb') {
    yield chunk('sRGB', [Uint8Array.of(0)]);
    yield chunk('gAMA', [Uint8Array.of(0, 0, 0xb1, 0x8f)]);
  }

  const rowBytes = (width * channels * depth) / 8;
  const perPart = Math.max(1, Math.floor(PART / (rowBytes + 1)));
  adler.init();
  let dictionary: Uint8Array | undefined;
  let strategy = PATIENT;
  let begun = 0;
  /** Starts on a part. The compression is under way when this is done; only the rows are waited for. */
  const begin = async (first: number): Promise<{ done: Promise<Uint8Array> }> => {
    const end = Math.min(height, first + perPart);
    const raw = filtered(await rows(first, end), end - first, rowBytes, depth);
    adler.update(raw);
    if (begun++ % TRIED_EVERY === 0) strategy = strategyFor(raw);
    const done = compress(raw, {
      ...strategy,
      chunkSize: OUTPUT,
      dictionary,
      finishFlush: end === height ? constants.Z_FINISH : constants.Z_SYNC_FLUSH,
    });
    // A failure is met where the part is waited for, also when the reading of later rows fails before that.
    done.catch(() => undefined);
    dictionary = raw.subarray(Math.max(0, raw.length - WINDOW));
    return { done };
  };
  const queue: Promise<Uint8Array>[] = [];
  let next = 0;
  for (let first = true; next < height || queue.length; first = false) {
    while (next < height && queue.length < AHEAD) {
      queue.push((await begin(next)).done);
      next += perPart;
    }
    const parts = [await (queue.shift() as Promise<Uint8Array>)];
    // Header of the zlib stream: deflate, 32 KiB window, default level.
    if (first) parts.unshift(Uint8Array.of(0x78, 0x9c));
    if (next >= height && !queue.length) {
      const sum = new Uint8Array(4);
      new DataView(sum.buffer).setUint32(0, parseInt(adler.digest('hex'), 16));
      parts.push(sum);
    }
    yield chunk('IDAT', parts);
  }
  yield chunk('IEND', []);
}

const PATIENT = { level: 5, memLevel: 9, strategy: constants.Z_DEFAULT_STRATEGY as number };

function strategyFor(raw: Uint8Array): typeof PATIENT {
  const middle = Math.max(0, (raw.length - TRIAL) >> 1);
  const trial = raw.subarray(middle, middle + TRIAL);
  const plain = { ...PATIENT, strategy: constants.Z_HUFFMAN_ONLY };
  const saved = 1 - deflateRawSync(trial, PATIENT).length / deflateRawSync(trial, plain).length;
  return saved < WORTH ? plain : saved < WORTH_PATIENCE ? { ...PATIENT, level: 3 } : PATIENT;
}

/** Rows each behind a zero (no filter), 16-bit samples big-endian. */
function filtered(samples: Uint8Array | Uint16Array, count: number, rowBytes: number, depth: 8 | 16): Uint8Array {
  const out = new Uint8Array(count * (rowBytes + 1));
  if (depth === 8) {
    for (let y = 0; y < count; y++) out.set((samples as Uint8Array).subarray(y * rowBytes, (y + 1) * rowBytes), y * (rowBytes + 1) + 1);
    return out;
  }
  const perRow = rowBytes / 2;
  for (let y = 0, i = 0; y < count; y++)
    for (let x = 0, at = y * (rowBytes + 1) + 1; x < perRow; x++, i++, at += 2) {
      out[at] = samples[i] >> 8;
      out[at + 1] = samples[i] & 255;
    }
  return out;
}
