// Blends evaluated by several threads, each taking bands of rows of images in shared memory. Node only.
import type { BlendRole, Image, MapSet, Stack } from '@pebble/core';
import { makeBlendMaps, makeImage, makeSamples } from '@pebble/core';
import { Worker } from 'node:worker_threads';
import { wantsMips } from './blends';
import type { BandEvaluator, Report } from './ports';

export interface BandRequest {
  stack: Stack;
  slots: MapSet[];
  into: Partial<Record<BlendRole, Image>>;
  rows: [number, number];
  size: number;
  far: boolean;
}

/** The same image with its samples where every thread can read them. */
export function shareImage(image: Image): Image {
  if (image.data.buffer instanceof SharedArrayBuffer) return image;
  const data = makeSamples(image.depth, image.data.length, true);
  data.set(image.data);
  return makeImage({ ...image, data });
}

/** Threads that start when they are first needed and are kept between evaluations, so that their compiled code stays warm. */
export class BandPool implements BandEvaluator {
  private workers: Worker[] = [];

  constructor(
    private readonly workerFile: string,
    private readonly count: number,
  ) {}

  /** Evaluates a stack; bands are handed out as threads become free, so that a slow core holds nobody up. */
  async evaluate(
    stack: Stack,
    maps: readonly MapSet[],
    size: number,
    roles: readonly BlendRole[],
    report: Report,
  ): Promise<Partial<Record<BlendRole, Image>>> {
    if (!this.workers.length) this.workers = Array.from({ length: this.count }, () => new Worker(this.workerFile));
    const slots = maps.map((set) => Object.fromEntries(Object.entries(set).map(([role, image]) => [role, shareImage(image)])) as MapSet);
    const into = makeBlendMaps(size, size, roles, true);
    const far = wantsMips(stack, slots, size);
    const bands = this.workers.length * 8;
    let next = 0;
    await Promise.all(
      this.workers.map(async (worker) => {
        for (let band = next++; band < bands; band = next++) {
          report(band / bands, 'evaluating');
          const rows: [number, number] = [Math.floor((band * size) / bands), Math.floor(((band + 1) * size) / bands)];
          await new Promise<void>((resolve, reject) => {
            worker.once('message', () => {
              worker.off('error', reject);
              resolve();
            });
            worker.once('error', reject);
            worker.postMessage({ stack, slots, into, rows, size, far } satisfies BandRequest);
          });
        }
      }),
    );
    return into;
  }

  close = async (): Promise<void> => void (await Promise.all(this.workers.map((w) => w.terminate())));
}
