/// <reference lib="webworker" />
// Stamps as they are pressed: into the maps of the stage, long before the server has pressed them at full size.
import type { BrushPoint, EyeView, Image, MapSet, PackedSurface, PressedStamp, Role, StampSurface } from '@pebble/core';
import { Bvh, Recent, Stamper, placeAt, placeSeen, rayThrough } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { packSurface } from '@pebble/stage/textures';
import type { StampGround } from '@pebble/usecases/stamping';
import { pressStamps, stampGround, stampMaps } from '@pebble/usecases/stamping';
import { bytesOf } from './blob';
import type { Handlers } from './serve';
import { serve } from './serve';
import { stageImages } from './stage-images';
import type { StagedSurface, StampPlace, StampRequests } from './stamp-protocol';

interface Open {
  ground: StampGround;
  tree: Bvh;
  /** As it is below all stamps, and as it is shown. */
  base: MapSet;
  now: MapSet;
  own: StagedSurface['facts'];
  stamper: Stamper;
  /** What was pressed. */
  pressed: string[];
}
let open: Open | null = null;
const taken = (): Open => {
  if (!open) throw new Error('Nothing was taken up to be stamped');
  return open;
};
/** Surfaces of stamps; of the same maps the same. */
const read = new Recent<string, Promise<MapSet>>(12);
function mapsOf({ maps }: StagedSurface): Promise<MapSet> {
  const key = JSON.stringify(maps);
  const found = read.of(key, () => stageImages(maps));
  // What could not be fetched is asked for again.
  found.catch(() => read.forget(key));
  return found;
}

const keyOf = (stamp: PressedStamp): string => JSON.stringify(stamp);
/** Every sheet as it is below the stamps. */
function reset({ base, now }: Open): void {
  for (const role of Object.keys(base) as Role[]) (now[role] as Image).data.set((base[role] as Image).data);
}
/** What the page is given for good: all but sheets that are stamped further. */
function partsOf(packed: PackedSurface, now: MapSet): Transferable[] {
  const own = new Set(Object.values(now).map((m) => m.data.buffer));
  const levels = [...packed.colour, ...packed.shape, ...packed.height, ...packed.rare, ...(packed.glow ?? [])];
  return [...new Set(levels.map((l) => l.data.buffer as ArrayBuffer))].filter((buffer) => !own.has(buffer));
}

/** Places that are looked at between two points of the picture. */
const STEPS = 32;
const apart = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((v, c) => v - b[c]));
function placeOf(point: BrushPoint, sight: EyeView): StampPlace | null {
  const { tree, ground } = taken();
  const hit = placeSeen(tree, sight, point.x, point.y);
  if (!hit) return null;
  const [above, below] = [rayThrough(sight.eye, sight.aspect, point.x, 0), rayThrough(sight.eye, sight.aspect, point.x, 1)];
  const up = above.map((v, c) => v - below[c]) as [number, number, number];
  const [x, y, z] = placeAt(ground, hit);
  return { point, at: [x, y, z], up };
}

const HANDLERS: Handlers<StampRequests> = {
  open: async ({ model, frame, called, set, slots, base }) => {
    open = null;
    const ground = stampGround((await readGltf(await bytesOf(model))).model, frame, called, set, slots);
    const maps = stampMaps(await mapsOf(base));
    const [first] = Object.values(maps) as (Image | undefined)[];
    if (!first) throw new Error('What these slots wear has no map that could be stamped');
    const now = stampMaps(maps);
    open = { ground, tree: new Bvh(ground), base: maps, now, own: base.facts, stamper: new Stamper(ground, now, base.facts), pressed: [] };
    return { result: { texels: first.width * first.height }, transfer: [] };
  },
  away: async ({ x, y, sight }) => ({ result: placeSeen(taken().tree, sight, x, y)?.away ?? null, transfer: [] }),
  along: async ({ points, before, apartM, sight }) => {
    const places: StampPlace[] = [];
    let [last, reached] = [before, null as number | null];
    for (const point of points) {
      const here = placeOf(point, sight);
      if (here) reached = (reached ?? 0) + 1;
      if (!last) {
        if (here) places.push((last = here));
        continue;
      }
      // A quick hand reports few points: between them stamps lie as close as from a slow one.
      const from: BrushPoint = last.point;
      for (let k = 1; k <= STEPS; k++) {
        const t = k / STEPS;
        const mix = (key: keyof BrushPoint) => from[key] + (point[key] - from[key]) * t;
        const next = placeOf({ x: mix('x'), y: mix('y'), pressure: mix('pressure') }, sight);
        if (!next || apart(next.at, last.at) < apartM) continue;
        places.push((last = next));
      }
    }
    return { result: { places, reached }, transfer: [] };
  },
  show: async ({ stamps, surfaces, size }) => {
    const at = taken();
    const wanted = stamps.map(keyOf);
    if (at.pressed.length > wanted.length || at.pressed.some((key, i) => key !== wanted[i])) {
      reset(at);
      at.pressed = [];
    }
    const more: { stamp: PressedStamp; surface: StampSurface; seed: number }[] = [];
    for (const stamp of stamps.slice(at.pressed.length)) {
      const surface = surfaces[stamp.surface];
      more.push({ stamp, surface: { maps: await mapsOf(surface), ...surface.facts }, seed: stamp.seed });
    }
    // Another may have taken something else up meanwhile.
    if (open !== at) throw new DOMException('Something else was taken up', 'AbortError');
    pressStamps(at.stamper, more);
    at.pressed = wanted;
    const packed = packSurface(at.now, size);
    return { result: packed, transfer: partsOf(packed, at.now) };
  },
};

serve(HANDLERS);
