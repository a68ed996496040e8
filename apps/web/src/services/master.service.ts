import { Injectable } from '@angular/core';
import type { MasterRequests } from '../workers/master-protocol';
import { WorkerClient } from './worker-client';

/** What masters are asked besides their picture, worked out in a worker. */
@Injectable({ providedIn: 'root' })
export class MasterService extends WorkerClient<MasterRequests> {
  constructor() {
    super(() => new Worker(new URL('../workers/master.worker', import.meta.url), { type: 'module' }));
  }
}
