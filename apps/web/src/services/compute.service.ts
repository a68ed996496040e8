import { Injectable } from '@angular/core';
import type { ComputeRequests } from '../workers/protocol';

/** Work that would block the interface, done in a web worker. */
@Injectable({ providedIn: 'root' })
export class ComputeService {
  private worker: Worker | null = null;
  private next = 0;
  private readonly waiting = new Map<number, { resolve: (v: never) => void; reject: (e: Error) => void }>();

  run<K extends keyof ComputeRequests>(kind: K, args: ComputeRequests[K]['args']): Promise<ComputeRequests[K]['result']> {
    return new Promise((resolve, reject) => {
      const id = this.next++;
      this.waiting.set(id, { resolve, reject });
      this.get().postMessage({ id, kind, args });
    });
  }

  private get(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL('../workers/compute.worker', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<{ id: number; result?: unknown; error?: string }>) => {
      const waiting = this.waiting.get(data.id);
      this.waiting.delete(data.id);
      if (data.error !== undefined) waiting?.reject(new Error(data.error));
      else waiting?.resolve(data.result as never);
    };
    worker.onerror = (event) => {
      this.waiting.forEach((w) => w.reject(new Error(event.message || 'The worker stopped')));
      this.waiting.clear();
      this.worker = null;
    };
    return (this.worker = worker);
  }
}
