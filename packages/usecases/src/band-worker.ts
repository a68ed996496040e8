// A thread that makes one band of rows at a time in shared images.
import type { Sources } from '@pebble/core';
import { DRAWING_STAGES, MapMaker, evenLook, flatDomain } from '@pebble/core';
import { parentPort } from 'node:worker_threads';
import type { BandRequest, MaterialPicture } from './bands';
import { sourcesOf } from './ingredients';

/** The picture whose bands are being made. */
let picture: { maker: MapMaker; of: MaterialPicture; sources: Sources } | null = null;

function make(request: BandRequest): void {
  if (request.kind === 'even') return evenLook(request.canvas, request.gains, request.rows);
  if (request.kind === 'surface') return DRAWING_STAGES.find((s) => s.name === request.stage)?.stage(request.order, request.canvas, request.rows);
  if (request.kind === 'material') {
    picture = { maker: new MapMaker(request.graph), of: request, sources: sourcesOf(request.from, request.far) };
    return;
  }
  if (!picture) throw new Error('A band was asked for before its picture');
  const { size, extentM, values, into } = picture.of;
  picture.maker.run({ domain: flatDomain(size, size, extentM), sources: picture.sources, values, into, rows: request.rows });
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
