import type { BrushPoint } from '@pebble/core';
import type { OnPicture } from '../../../stage/on-picture';
import { follow } from '../../../ui/follow';
import type { Stroke } from './stroke';

/** How strongly a pointer presses: a pen by its pressure. */
export const pressureOf = (e: PointerEvent): number => (e.pointerType === 'pen' ? e.pressure : 1);
/** Whether a stroke becomes a step: what a pen painted before it went out of reach stays, what a gesture of the system cut off does not. */
export const stays = (e: PointerEvent, released: boolean): boolean => released || e.pointerType === 'pen';
/** All that a pointer reported since the last event. */
export function samplesOf(e: PointerEvent): PointerEvent[] {
  const all = e.getCoalescedEvents?.() ?? [];
  return all.length ? all : [e];
}

/** What a press on the picture does: not known before the first answer. */
export class Press {
  doing: 'asking' | 'painting' | 'turning' = 'asking';

  /** @param reached null where nothing of the mesh was met */
  heard(reached: number | null): void {
    if (this.doing === 'asking') this.doing = reached === null ? 'turning' : 'painting';
  }
  get paints(): boolean {
    return this.doing === 'painting';
  }
}

/** A press on the picture of the specimen: a stroke where it lies on the mesh, a turn beside it, or with another button. */
export function pressOnMesh(event: PointerEvent, on: OnPicture, begin: (press: Press) => Pick<Stroke<BrushPoint>, 'add' | 'end'>): void {
  if (event.button !== 0) return follow(event, on.turn);
  const press = new Press();
  const stroke = begin(press);
  const point = (e: PointerEvent): BrushPoint => ({ ...on.place(e), pressure: pressureOf(e) });
  stroke.add(point(event));
  follow(
    event,
    (dx, dy, e) => {
      if (press.doing === 'turning') return on.turn(dx, dy);
      stroke.add(...samplesOf(e).map(point));
    },
    (released) => stroke.end(stays(event, released)),
  );
}
