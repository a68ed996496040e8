import type { DagNode } from '../compile';
import type { Kit } from './kit';
import type { Wear } from '../surface';
import type { SurfaceFacts } from '../surface';

/** One thing that a surface is made of; its amount is a parameter of the surface. */
export interface Structure {
  label: string;
  /** What it is and how large. */
  help: string;
}

export interface Look {
  /** Linear light. */
  baseColor: DagNode;
  roughness: DagNode;
  metallic: DagNode;
}

/** How a surface is made: its structures by name, the height first, then everything that may look at the height around. */
export interface Recipe extends SurfaceFacts {
  title: string;
  structures: Readonly<Record<string, Structure>>;
  /** What happens to the height after it is made. */
  worn?: Wear;
  /** Evens out the light and dark of wide spans after the look is made, so that tiles do not show. Share 0–1. */
  even: number;
  /** Metres about 0. What passes the relief is bent back softly. */
  height(k: Kit): DagNode;
  look(k: Kit): Look;
}

/** Spans from which on light and dark are evened out, in metres. */
export const EVEN_SPAN_M = 0.12;

const AROUND = 0.04;

/** Stored height 0–1 of metres: straight in the middle, bent toward the ends without ever reaching them. */
export function storedHeight(k: Kit, metres: DagNode, { reliefM, mid }: SurfaceFacts): DagNode {
  const t = k.add(k.div(metres, reliefM), mid);
  // a² / (2a − t) meets t = a with the same slope and goes to 0 for t → −∞.
  const low = k.div(AROUND * AROUND, k.sub(2 * AROUND, k.min(t, AROUND)));
  const high = k.not(k.div(AROUND * AROUND, k.sub(2 * AROUND, k.min(k.not(t), AROUND))));
  const lower = k.mix(low, t, k.step(t, AROUND));
  return k.mix(lower, high, k.step(t, 1 - AROUND));
}
