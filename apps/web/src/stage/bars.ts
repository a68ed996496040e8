/** Pixels of a stage, from each of its edges, that are not to be looked at. */
export interface Bars {
  top: number;
  bottom: number;
  left: number;
  right: number;
}
/** Pixels between what is looked at and what lies around it. */
const GAP = 12;
/** Those without anything over them. */
export const NO_BARS: Bars = { top: GAP, bottom: GAP, left: GAP, right: GAP };

/** Those that a bar at the head and one at the foot lie over, as they are by then. @param host has all three in it */
export function barsOver(host: HTMLElement, stage: string, head: string, foot: string): Bars {
  const [all, above, below] = [stage, head, foot].map((s) => (s ? host.querySelector(s) : host)?.getBoundingClientRect());
  return all && above && below ? { ...NO_BARS, top: above.bottom - all.top + GAP, bottom: all.bottom - below.top + GAP } : NO_BARS;
}
