// A thread that evaluates one band of rows of a stack into shared images.
import { BLEND_ROLES, evaluateBlend, flatDomain } from '@pebble/core';
import { parentPort } from 'node:worker_threads';
import type { BandRequest } from './bands';
import { paintedColours, readsVertexColour, sourcesOfSlots } from './blends';

parentPort?.on('message', (request: BandRequest) => {
  const { stack, slots, into, rows, size, far } = request;
  const geometry = readsVertexColour(stack) ? paintedColours(size, size) : {};
  evaluateBlend(stack, {
    domain: flatDomain(size, size, stack.extentM, geometry),
    sources: sourcesOfSlots(slots, far),
    far,
    into,
    rows,
    roles: BLEND_ROLES.filter((r) => into[r]),
  });
  parentPort?.postMessage('done');
});
