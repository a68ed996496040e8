import { Zip, ZipPassThrough } from 'fflate';

export interface ZipEntry {
  name: string;
  /** Called when its turn comes, so that no more than a piece of one file is in memory. */
  content: () => AsyncIterable<Uint8Array> | Iterable<Uint8Array>;
}

/** Local time on purpose: the format stores local fields, so this is the same bytes in every zone. */
const EPOCH = new Date(1980, 0, 1);

/**
 * A ZIP as a stream of chunks, entries stored uncompressed (PNG does not shrink) with fixed dates: same input, same bytes.
 */
export async function* zipStream(entries: AsyncIterable<ZipEntry> | Iterable<ZipEntry>): AsyncGenerator<Uint8Array> {
  let ready: Uint8Array[] = [];
  let failure: Error | null = null;
  const zip = new Zip((error, chunk) => {
    if (error) failure = error;
    else ready.push(chunk);
  });
  const drain = function* () {
    if (failure) throw failure;
    yield* ready;
    ready = [];
  };
  for await (const entry of entries) {
    const file = new ZipPassThrough(entry.name);
    file.mtime = EPOCH;
    zip.add(file);
    for await (const piece of entry.content()) {
      file.push(piece);
      yield* drain();
    }
    file.push(new Uint8Array(), true);
    yield* drain();
  }
  zip.end();
  yield* drain();
}
