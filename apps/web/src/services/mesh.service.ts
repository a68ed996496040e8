import { Injectable } from '@angular/core';
import type { MeshRequests } from '../workers/mesh-protocol';
import { WorkerClient } from './worker-client';

/** Meshes that were brought in, judged and drawn in a web worker of their own. */
@Injectable({ providedIn: 'root' })
export class MeshService extends WorkerClient<MeshRequests> {
  constructor() {
    super(() => new Worker(new URL('../workers/mesh.worker', import.meta.url), { type: 'module' }));
  }
}
