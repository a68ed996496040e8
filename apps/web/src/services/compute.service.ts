import { Injectable } from '@angular/core';
import type { ComputeRequests } from '../workers/protocol';
import { WorkerPool } from './worker-client';

/** Workers at a time: two at least, as requests wait for the server too; a core is left to the page. */
const WORKERS = Math.min(4, Math.max(2, navigator.hardwareConcurrency - 1));

/** Work that would block the interface, done in web workers. */
@Injectable({ providedIn: 'root' })
export class ComputeService extends WorkerPool<ComputeRequests> {
  constructor() {
    super(() => new Worker(new URL('../workers/compute.worker', import.meta.url), { type: 'module' }), WORKERS);
  }
}
