import { Injectable } from '@angular/core';
import type { DetailRequests } from '../workers/terrain-protocol';
import { WorkerClient } from './worker-client';

/** Meshes of terrains as they are seen, made beside the page: a worker of its own, so that nothing longer stands before them. */
@Injectable({ providedIn: 'root' })
export class TerrainDetailService extends WorkerClient<DetailRequests> {
  constructor() {
    super(() => new Worker(new URL('../workers/terrain.worker', import.meta.url), { type: 'module' }));
  }
}
