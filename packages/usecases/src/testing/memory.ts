// Ports for tests, with everything in memory.
import { SKIES, computeLight } from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { createHash } from 'node:crypto';
import type { Ports } from '../ports';
import { UseCaseError } from '../errors';

const light = computeLight(SKIES.overcast, 16, 8, 16);

export function memoryPorts(): Ports & { kept: Map<string, Uint8Array> } {
  const kept = new Map<string, Uint8Array>();
  return {
    kept,
    codec: nodeCodec,
    light: () => light,
    blobs: {
      put: async (bytes) => {
        const hash = createHash('sha256').update(bytes).digest('hex');
        kept.set(hash, bytes);
        return hash;
      },
      get: async (hash) => {
        const bytes = kept.get(hash);
        if (!bytes) throw new UseCaseError('missing-blob', 'gone');
        return bytes;
      },
      async *stream(hash) {
        yield await this.get(hash);
      },
    },
  };
}
