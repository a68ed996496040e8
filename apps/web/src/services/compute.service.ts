import { Injectable } from '@angular/core';
import type { ComputeRequests } from '../workers/protocol';
import { WorkerClient } from './worker-client';

/** Work that would block the interface, done in a web worker. */
@Injectable({ providedIn: 'root' })
export class ComputeService extends WorkerClient<ComputeRequests> {
  constructor() {
    super(() => new Worker(new URL('../workers/compute.worker', import.meta.url), { type: 'module' }));
  }
}
