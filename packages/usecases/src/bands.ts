// Pictures made by several threads, each taking bands of rows of images in shared memory. Node only.
import type {
  MapRole,
  Canvas,
  DrawingStage,
  Gains,
  GeneratedSurface,
  Image,
  MapGraph,
  MapSet,
  Material,
  Rows,
  SurfaceOrder,
  Values,
} from '@pebble/core';
import { DRAWING_STAGES, bandsOf, makeMaterialMaps, makeCanvas, makeImage, makeSamples, mapGraph, surfaceOf, weighLook } from '@pebble/core';
import { Worker } from 'node:worker_threads';
import type { Ingredients } from './ingredients';
import { showsSmaller } from './ingredients';
import type { BandEvaluator, Report } from './ports';

/** One band of a picture. */
export type BandRequest = MaterialPicture | MaterialBand | SurfaceBand | EvenBand;
/** What a thread needs to know of a picture before its bands: it builds its program once. */
export interface MaterialPicture {
  kind: 'material';
  graph: MapGraph;
  values: Values;
  extentM: number;
  from: Ingredients;
  into: Partial<Record<MapRole, Image>>;
  size: number;
  far: boolean;
}
interface MaterialBand {
  kind: 'band';
  rows: Rows;
}
interface SurfaceBand {
  kind: 'surface';
  stage: DrawingStage;
  rows: Rows;
  order: SurfaceOrder;
  canvas: Canvas;
}

interface EvenBand {
  kind: 'even';
  rows: Rows;
  canvas: Canvas;
  gains: Gains;
}

/** The same image with its samples where every thread can read them. */
export function shareImage(image: Image): Image {
  if (image.data.buffer instanceof SharedArrayBuffer) return image;
  const data = makeSamples(image.depth, image.data.length, true);
  data.set(image.data);
  return makeImage({ ...image, data });
}

/** Threads that start when they are first needed and are kept between pictures, so that their compiled code stays warm. */
export class BandPool implements BandEvaluator {
  private workers: Worker[] = [];

  constructor(
    private readonly workerFile: string,
    private readonly count: number,
  ) {}

  async evaluate(
    material: Material,
    given: Ingredients,
    size: number,
    roles: readonly MapRole[],
    report: Report,
  ): Promise<Partial<Record<MapRole, Image>>> {
    const from: Ingredients = {
      slots: given.slots.map((set) => Object.fromEntries(Object.entries(set).map(([role, image]) => [role, shareImage(image)])) as MapSet),
      masks: given.masks.map(shareImage),
      ids: given.ids.map(shareImage),
    };
    const into = makeMaterialMaps(size, size, roles, true);
    const far = showsSmaller(material, from, size);
    const { values, extentM } = material;
    const picture: MaterialPicture = { kind: 'material', graph: mapGraph(material, roles, far), values, extentM, from, into, size, far };
    await Promise.all(this.started().map((worker) => this.ask(worker, picture)));
    await this.share(
      bandsOf(size, this.count * 8),
      (rows) => ({ kind: 'band', rows }),
      (done) => report(done, 'evaluating'),
    );
    return into;
  }

  async generate(order: SurfaceOrder, report: Report): Promise<GeneratedSurface> {
    const canvas = makeCanvas(order.size, true);
    let done = 0;
    for (const { name, share } of DRAWING_STAGES) {
      // Fewer bands where each looks some way past its rows.
      await this.share(
        bandsOf(order.size, this.count * (name === 'heights' ? 8 : 2)),
        (rows) => ({ kind: 'surface', stage: name, rows, order, canvas }),
        (part) => report(done + share * part, name),
      );
      done += share;
    }
    const gains = weighLook(order, canvas);
    await this.share(
      bandsOf(order.size, this.count * 2),
      (rows) => ({ kind: 'even', rows, canvas, gains }),
      (part) => report(done + (1 - done) * part, 'evening out'),
    );
    return surfaceOf(order, canvas);
  }

  private started(): readonly Worker[] {
    if (!this.workers.length) this.workers = Array.from({ length: this.count }, () => new Worker(this.workerFile));
    return this.workers;
  }

  /** Hands out bands as threads become free, so that a slow core holds nobody up. */
  private async share(bands: readonly Rows[], request: (rows: Rows) => BandRequest, report: (done: number) => void): Promise<void> {
    let next = 0;
    await Promise.all(
      this.started().map(async (worker) => {
        for (let band = next++; band < bands.length; band = next++) {
          report(band / bands.length);
          await this.ask(worker, request(bands[band]));
        }
      }),
    );
  }

  private ask(worker: Worker, request: BandRequest): Promise<void> {
    return new Promise((resolve, reject) => {
      worker.once('message', (failure: string | null) => {
        worker.off('error', reject);
        if (failure === null) resolve();
        else reject(new Error(failure));
      });
      worker.once('error', reject);
      worker.postMessage(request);
    });
  }

  close = async (): Promise<void> => void (await Promise.all(this.workers.map((w) => w.terminate())));
}
