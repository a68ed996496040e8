import type { OnDestroy } from '@angular/core';
import { Injectable } from '@angular/core';
import type { DrawReply, DrawRequest, DrawnSurface } from '../workers/protocol';

/** Draws generated surfaces small, in a worker of their own; only the newest request is finished. */
@Injectable({ providedIn: 'root' })
export class DrawService implements OnDestroy {
  private worker: Worker | null = null;
  private next = 0;
  private waiting: { id: number; resolve: (d: DrawnSurface | null) => void; reject: (e: Error) => void; progress: (done: number) => void } | null =
    null;

  /** Null when a newer request ended this one. */
  draw(request: DrawRequest, progress: (done: number) => void = () => undefined): Promise<DrawnSurface | null> {
    return new Promise((resolve, reject) => {
      this.waiting?.resolve(null);
      this.waiting = { id: this.next++, resolve, reject, progress };
      this.get().postMessage({ ...request, id: this.waiting.id });
    });
  }

  ngOnDestroy(): void {
    this.waiting?.resolve(null);
    this.worker?.terminate();
  }

  private get(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL('../workers/draw.worker', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<DrawReply>) => {
      const waiting = this.waiting;
      if (waiting?.id !== data.id || 'ended' in data) return;
      if ('progress' in data) return waiting.progress(data.progress);
      this.waiting = null;
      if ('error' in data) waiting.reject(new Error(data.error));
      else waiting.resolve(data.result);
    };
    worker.onerror = (event) => {
      this.waiting?.reject(new Error(event.message || 'The worker stopped'));
      this.waiting = null;
      this.worker = null;
    };
    return (this.worker = worker);
  }
}
