/// <reference lib="webworker" />
// Draws generated surfaces small while their parameters are turned. A newer request ends the one under way.
import type { BlendRole, Image } from '@pebble/core';
import { bandsOf, drawingSteps, makeCanvas, surfaceOf } from '@pebble/core';
import { breathe } from '../ui/breathe';
import { litTile } from './lit';
import { partsOf, shownMap } from './pictures';
import type { DrawReply, DrawRequest, ShownMap } from './protocol';

/** Rows of a picture that are drawn before newer requests are let in. */
const BAND = 48;
/** Side of the lit picture: it costs more a pixel than the maps do. */
const LIT = 320;

let newest = -1;
const say = (reply: DrawReply, transfer: Transferable[] = []) => postMessage(reply, { transfer });

async function draw({ id, order, parts }: DrawRequest & { id: number }): Promise<void> {
  const canvas = makeCanvas(order.size);
  for (const done of drawingSteps(order, canvas, bandsOf(order.size, Math.ceil(order.size / BAND)))) {
    await breathe();
    if (id !== newest) return say({ id, ended: true });
    if (parts === 'maps') say({ id, progress: done });
  }
  const { maps, facts } = surfaceOf(order, canvas);
  const shown: Partial<Record<BlendRole, ShownMap>> = {};
  const transfer: Transferable[] = [];
  if (parts === 'maps') for (const [role, image] of Object.entries(maps) as [BlendRole, Image][]) shown[role] = await shownMap(image);
  const tile = await litTile(maps, facts, Math.min(LIT, order.size));
  for (const map of Object.values(shown)) transfer.push(...partsOf(map));
  say({ id, result: { ...tile, maps: shown, size: order.size } }, [...transfer, tile.lit]);
}

addEventListener('message', ({ data }: MessageEvent<DrawRequest & { id: number }>) => {
  newest = data.id;
  draw(data).catch((error: Error) => say({ id: data.id, error: error.message }));
});
