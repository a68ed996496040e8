// A thread that writes one file at a time.
import { nodeCodec } from '@pebble/formats/node';
import { writeTexture } from '@pebble/formats/write';
import { parentPort } from 'node:worker_threads';
import type { FinishWork } from '../ports';
import { finished } from './finish';

parentPort?.on('message', ({ id, work }: { id: number; work: FinishWork }) => {
  finished({ codec: nodeCodec, write: writeTexture }, work).then(
    (file) => parentPort?.postMessage({ id, file }, file.bytes.buffer instanceof ArrayBuffer ? [file.bytes.buffer] : []),
    (error: Error) => parentPort?.postMessage({ id, error: error.message }),
  );
});
