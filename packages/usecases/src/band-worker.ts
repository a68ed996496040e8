// A thread that makes one band of rows at a time in shared images.
import { BLEND_ROLES, DRAWING_STAGES, evaluateBlend, evenLook, flatDomain } from '@pebble/core';
import { parentPort } from 'node:worker_threads';
import type { BandRequest } from './bands';
import { sourcesOf } from './ingredients';

function make(request: BandRequest): void {
  if (request.kind === 'even') return evenLook(request.canvas, request.gains, request.rows);
  if (request.kind === 'surface') return DRAWING_STAGES.find((s) => s.name === request.stage)?.stage(request.order, request.canvas, request.rows);
  const { stack, from, into, rows, size, far } = request;
  evaluateBlend(stack, {
    domain: flatDomain(size, size, stack.extentM),
    sources: sourcesOf(from, far),
    far,
    into,
    rows,
    roles: BLEND_ROLES.filter((r) => into[r]),
  });
}

parentPort?.on('message', (request: BandRequest) => {
  let failure: string | null = null;
  try {
    make(request);
  } catch (error) {
    failure = (error as Error).message;
  }
  parentPort?.postMessage(failure);
});
