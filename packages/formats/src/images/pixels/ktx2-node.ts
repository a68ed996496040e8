// The transcoder of universal blocks, on Node.
import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import type { Transcoder } from './ktx2';
import { ktx2Decoder } from './ktx2';

let transcoder: Promise<Transcoder> | undefined;
/** The Basis Universal transcoder, started when it is first wanted. */
const startTranscoder = (): Promise<Transcoder> =>
  (transcoder ??= (async () => {
    const file = createRequire(import.meta.url).resolve('three/examples/jsm/libs/basis/basis_transcoder.js');
    const [source, wasmBinary] = await Promise.all([readFile(file, 'utf8'), readFile(file.replace(/js$/, 'wasm'))]);
    const make = new Function('require', '__dirname', `${source}; return BASIS;`)(createRequire(import.meta.url), '') as (
      options: object,
    ) => Promise<Transcoder>;
    const started = await make({ wasmBinary, print: () => undefined, printErr: () => undefined });
    started.initializeBasis();
    return started;
  })());

export const decodeKtx2 = ktx2Decoder(startTranscoder);
