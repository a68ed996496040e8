// The kinds of cues, one file each. To add one: its file, its line here, and its schema in contracts.
import { altitude } from './altitude';
import { concavity } from './concavity';
import { constant } from './constant';
import { convexity } from './convexity';
import { direction } from './direction';
import { grid } from './grid';
import { ground } from './ground';
import { id } from './id';
import type { CueCommon, CueKindSpec } from './kind';
import { registerCues } from './kind';
import { low } from './low';
import { mask } from './mask';
import { noise } from './noise';
import { occlusion } from './occlusion';
import { painted } from './painted';
import { part } from './part';
import { slope } from './slope';
import { stripes } from './stripes';
import { vertexColour } from './vertex-colour';

/** In the order of menus. */
const KINDS = [
  vertexColour,
  mask,
  painted,
  altitude,
  slope,
  direction,
  convexity,
  concavity,
  occlusion,
  low,
  ground,
  noise,
  stripes,
  grid,
  id,
  part,
  constant,
] as const;
registerCues(...KINDS);

/** What a cue looks at. */
export type CueInput = (typeof KINDS)[number] extends infer S ? (S extends CueKindSpec<infer I> ? I : never) : never;
export type CueKind = CueInput['kind'];
export type Cue = CueCommon & CueInput;
export type CueOf<K extends CueKind> = Extract<Cue, { kind: K }>;
export type Coverage = Record<string, Cue>;
export const CUE_KINDS = KINDS.map((k) => k.kind) as readonly CueKind[];
