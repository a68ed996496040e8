import { BLEND_ROLES, EXTRA_ROLES } from '../surface';
import type { BlendRole, ExtraRole, Role } from '../surface';

/** Where an input gets what it works on. An input that is not there takes what its step starts with. */
export type Source =
  | { from: 'value'; value: number[] }
  | { from: 'link'; operation: string; port: string }
  | { from: 'parameter'; parameter: string }
  | { from: 'published'; published: string };

/** One step of a graph. */
export interface MasterOperation {
  order: number;
  /** What it does: the name of a registered step. */
  step: string;
  /** What it is called beside that; empty for most. Never twice in a document. */
  name: string;
  inputs: Record<string, Source>;
  /** What is fixed when it is compiled: which map, which blend, the text of a formula. */
  settings: Record<string, string | number>;
  /** Hands its first fitting input on as if it were not there. */
  bypassed: boolean;
  frame: string | null;
  /** What somebody wanted to say of it. */
  note: string;
}

/** What a parameter holds: one to four numbers, a colour (`#rrggbb`), a map of a surface in a role, or all of a surface. */
export type ParameterContent =
  | { kind: 'number'; value: number[]; low: number; high: number; unit: string }
  | { kind: 'colour'; value: string }
  | { kind: 'map'; surface: string; role: Role }
  | { kind: 'surface'; surface: string };

/** A value that can change at run time. */
export interface MasterParameter {
  order: number;
  name: string;
  group: string | null;
  help: string;
  holds: ParameterContent;
}

/** A choice that is fixed when it is compiled. */
export interface MasterSwitch {
  order: number;
  name: string;
  group: string | null;
  help: string;
  on: boolean;
}

/** What graphs give: all of a surface, and channels that stand in for those of it. */
export const MASTER_OUTPUTS = ['surface', ...BLEND_ROLES, ...EXTRA_ROLES] as const;
export type MasterOutput = 'surface' | BlendRole | ExtraRole;

/** How what a master gives is drawn: over everything behind it, not where opacity is below the cut, mixed with it by opacity, or added to it. */
export const DRAWN_AS = ['solid', 'cut-out', 'glass', 'additive'] as const;
export type DrawnAs = (typeof DRAWN_AS)[number];

/** Seconds of a loop at least and at most. */
export const LOOP_S = { least: 0.1, most: 600 } as const;

/**
 * Values of a master under a name; parameters and switches that it does not set are inherited. What it sets of one that
 * was taken away stays, with what that was called, until it comes back or is dropped.
 */
export interface MasterVariant {
  order: number;
  name: string;
  values: Record<string, { name: string; holds: ParameterContent }>;
  switches: Record<string, { name: string; on: boolean }>;
}

/** Operations of a graph at most. */
export const MAX_OPERATIONS = 600;

export interface MasterDocument {
  kind: 'master';
  version: 2;
  name: string;
  /** What it is for: said where it is used as an operation of another. */
  help: string;
  /** Metres of one unit of texture coordinates, for steps that measure. */
  extentM: number;
  /** A specimen of our own by its name, or one that was brought in by its id. */
  specimen: string;
  operations: Record<string, MasterOperation>;
  outputs: Partial<Record<MasterOutput, Source>>;
  parameters: Record<string, MasterParameter>;
  switches: Record<string, MasterSwitch>;
  /** Groups of parameters and switches. */
  groups: Record<string, { order: number; name: string }>;
  /** Values that are named once and read elsewhere by their name. */
  published: Record<string, { order: number; name: string; operation: string; port: string }>;
  frames: Record<string, { order: number; name: string; folded: boolean }>;
  drawn: DrawnAs;
  /** Opacity below which a cut-out is not drawn. */
  cut: number;
  /** Seconds after which time begins again. */
  loopS: number;
  variants: Record<string, MasterVariant>;
}

export const makeMaster = (name: string, over: Partial<MasterDocument> = {}): MasterDocument => ({
  kind: 'master',
  version: 2,
  name,
  help: '',
  extentM: 1,
  specimen: 'patch',
  operations: {},
  outputs: {},
  parameters: {},
  switches: {},
  groups: {},
  published: {},
  frames: {},
  drawn: 'solid',
  cut: 0.5,
  loopS: 4,
  variants: {},
  ...over,
});

export const makeOperation = (step: string, order: number, over: Partial<MasterOperation> = {}): MasterOperation => ({
  order,
  step,
  name: '',
  inputs: {},
  settings: {},
  bypassed: false,
  frame: null,
  note: '',
  ...over,
});

export const linkTo = (operation: string, port = 'out'): Source => ({ from: 'link', operation, port });
export const valueOf = (...value: number[]): Source => ({ from: 'value', value });
