/// <reference lib="webworker" />
// The brush: dabs are worked out here, so that neither the page nor the stage's frames wait for them.
import type { Mesh } from '@pebble/core';
import { Brushing, Bvh, TILE_VERTICES, VertexPainter, edgeCount, placeSeen } from '@pebble/core';
import { keepPieces } from './blob';
import type { Changed, PaintRequests } from './paint-protocol';
import type { Handlers } from './serve';
import { serve } from './serve';

let open: { painter: VertexPainter; mesh: Pick<Mesh, 'position' | 'index'>; tree: Bvh } | null = null;
let stroke: Brushing | null = null;
/** Tiles that wait to be sent, by number; what comes later counts. */
let waiting = new Map<number, Uint8Array<ArrayBuffer>>();
const collect = () => {
  for (const { tile, bytes } of taken().painter.takeUnkept()) waiting.set(tile, bytes);
};

const taken = () => {
  if (!open) throw new Error('No mesh was taken up to be painted');
  return open;
};
const changed = <T extends object>(more: T) => {
  const runs = taken().painter.takeShown();
  return { result: { ...more, runs }, transfer: runs.map((r) => r.colours.buffer as ArrayBuffer) };
};
const nothing = { result: null, transfer: [] };

const HANDLERS: Handlers<PaintRequests> = {
  open: async ({ mesh, whole, tiles }) => {
    stroke = null;
    waiting = new Map();
    const painter = new VertexPainter(mesh as Mesh);
    for (const [tile, bytes] of tiles) painter.take(tile, bytes);
    painter.takeShown();
    open = { painter, mesh, tree: new Bvh(mesh) };
    return { result: { edges: edgeCount({ position: mesh.position, index: whole }) }, transfer: [] };
  },
  begin: async ({ brush, channel, aim, limit }) => {
    const { painter, mesh, tree } = taken();
    painter.begin(brush, channel, aim, limit);
    stroke = new Brushing(painter, mesh, tree, brush);
    return nothing;
  },
  stroke: async ({ points, sight }) => {
    let reached: number | null = null;
    for (const point of points) reached = stroke?.to(point, sight) ?? reached;
    return changed({ reached });
  },
  end: async () => {
    stroke = null;
    taken().painter.end();
    collect();
    return changed<Omit<Changed, 'runs'>>({});
  },
  lost: async () => {
    stroke = null;
    taken().painter.cancel();
    return changed({});
  },
  whole: async (change) => {
    stroke = null;
    const { painter } = taken();
    if (change.what === 'fill') painter.fill(change.channel, change.value);
    else if (change.what === 'invert') painter.invert(change.channel);
    else painter.swap(change.channel, change.other);
    collect();
    return changed({});
  },
  keep: async ({ underWay }) => {
    if (underWay) collect();
    const tiles = [...waiting].sort(([a], [b]) => a - b);
    waiting = new Map();
    if (!tiles.length) return { result: {}, transfer: [] };
    const bytes = new Uint8Array(tiles.reduce((n, [, t]) => n + t.length, 0));
    tiles.reduce((at, [, t]) => (bytes.set(t, at), at + t.length), 0);
    const hashes = await keepPieces(bytes, TILE_VERTICES * 4);
    return { result: Object.fromEntries(tiles.map(([tile], i) => [tile, hashes[i]])), transfer: [] };
  },
  take: async ({ tiles }) => {
    const { painter } = taken();
    for (const [tile, bytes] of tiles) painter.take(tile, bytes);
    return changed({});
  },
  away: async ({ x, y, sight }) => {
    const found = open && placeSeen(open.tree, sight, x, y);
    return { result: found?.away ?? null, transfer: [] };
  },
};

serve(HANDLERS);
