import type { Builder, DagNode, ImageChannel, Interval, ValueType } from '../../compile';
import type { Role } from '../../surface';
import type { Join } from '../joins';
import type { Reader } from '../text/reader';
import type { CueUnit, UvSet } from '../units';

export type { CueUnit, UvSet } from '../units';

export type Component = 'r' | 'g' | 'b' | 'a';

/** What all cues have. `centre` and `width` are in the unit that the kind states. */
export interface CueCommon {
  order: number;
  join: Join;
  amount: number;
  inverted: boolean;
  shape: 'smooth' | 'straight';
  centre: number;
  width: number;
}

/** A picture that cues read: a channel of a map, a painted mask (grey), or the colours of an ID map. */
export type CuePicture =
  { kind: 'map'; surface: string; role: Role; channel: 0 | 1 | 2 | 3 } | { kind: 'painted'; picture: string } | { kind: 'id'; surface: string };
export const pictureKey = (picture: CuePicture): string =>
  picture.kind === 'map'
    ? `${picture.surface}/${picture.role}/${picture.channel}`
    : picture.kind === 'painted'
      ? `painted/${picture.picture}`
      : `${picture.surface}/id`;

/** What values need to know of the place beside the document. */
export interface CuePlace {
  extentM: number;
  /** Altitude of the object's origin; height of its lowest place over its origin, in metres. */
  standsAtM: number;
  groundM: number;
  /** Names of the object's parts, by number. */
  parts: readonly string[];
}

/** Where a cue is worked out, and what it can look at there. */
export interface CueSite {
  readonly b: Builder;
  /** Texture coordinate, one repetition of the extent a unit. */
  readonly uv: DagNode;
  /** Height of what lies below, in metres. */
  readonly below: DagNode;
  /** A number of the cue that may change at runtime, by the name that `values` gives it. */
  value(name: string, type?: ValueType, range?: Interval): DagNode;
  /** The extent's coordinate, or that of a set of the mesh. */
  laidBy(set: UvSet | undefined): DagNode;
  /** The picture of this cue at a coordinate; null where it is not there. */
  sampled(channel: Extract<ImageChannel, 'mask' | 'id'>, uv: DagNode): DagNode | null;
}

/** How a number is shown: in which unit, by what it is multiplied, and how far a pixel of a drag goes. */
export type Shown = 'plain' | 'percent' | 'metres' | 'millimetres' | 'degrees' | 'perMetre' | 'times' | 'whole';

/** A control of a cue beside what all have. Labels are those that screen readers say. */
export type CueControl<I = unknown> = { label: string; when?(cue: I): boolean } & (
  | { as: 'number'; key: string; shown: Shown; least: number; most: number; at: 'sentence' | 'card'; before?: string }
  | { as: 'choice'; key: string; title: string; of: readonly { value: string | number; word: string }[] }
  /** A map of any surface; of one role if that is given. */
  | { as: 'map'; role?: Role }
  | { as: 'channelOfMap' | 'laidBy' | 'picture' | 'part' }
  | { as: 'colour'; key: string }
  | { as: 'seed'; key: string }
);

/** What there is to choose from when a cue begins. */
export interface CueBeginning {
  /** The surface that the layer shows, and the maps of all. */
  surface: string;
  roles: Readonly<Record<string, ReadonlySet<Role>>>;
  parts: readonly string[];
  seed: () => number;
}

/** Id of a surface that stands for any, while prices are told. */
export const STAND_IN = 'any surface';

/** How a surface is called; its id where the name is not known. */
export type NameOf = (id: string) => string;

/** A phrase that a cue may begin with, and what makes the cue of what follows. */
export interface CueStart<I> {
  phrase: string;
  /** Only where one of these words comes after it: "height above …" is no map, "height of …" is. */
  before?: readonly string[];
  read: (r: Reader, phrase: string) => Partial<I & CueCommon>;
}

/**
 * One kind of cue: all there is to know of it. Menus, sentences, both back ends, prices and tests go over what is
 * registered. (Methods, so that a list of all kinds has a type.)
 */
export interface CueKindSpec<I extends { kind: string } = { kind: string }> {
  kind: I['kind'];
  /** How lists call it. */
  title: string;
  help: string;
  unit: CueUnit;
  /** Ends of its input, for histograms and fields. */
  least: number;
  most: number;
  /** Small lengths: its numbers are shown in millimetres. */
  small?: true;
  /** The usual values beside those that all kinds have. */
  usual: { input: I; centre: number; width: number; inverted?: true };
  /** Whether its input goes through a ramp; it is the coverage itself, or there and not there, where it does not. */
  ramped: boolean;

  /** What it looks at, in its unit; null for a picture that is not there. */
  input(cue: I, site: CueSite): DagNode | null;
  /** Its runtime values beside amount, centre and width. */
  values?(cue: I, place: CuePlace): Record<string, readonly number[]>;
  /** What else decides what is compiled. */
  shape?(cue: I): string;
  /** The picture that it needs; null when none was chosen. */
  picture?(cue: I): CuePicture | null;
  /** How often that lies over the extent; once where nothing is said. */
  repeats?(cue: I): number;

  /** Its words before the number, and after it. */
  words(cue: I & CueCommon, nameOf: NameOf): string;
  tail?(cue: I): string;
  /** What of the tail no number of the sentence shows. */
  tailWords?(cue: I): string;
  /** What only reading back needs. */
  aside?(cue: I): string;
  /** Centre and half width in words where they are not those of a ramp. */
  numbers?(cue: I & CueCommon): string;
  starts: readonly CueStart<I>[];

  controls: readonly CueControl<I>[];
  /** What a new one chooses. */
  begin?(there: CueBeginning): Partial<I>;
  /** Chooses the stand-in where somebody still has to choose, so that it has a price before. */
  priced?: Partial<I>;
  /** Whether lists can show what it would look at on the specimen before anything is chosen. */
  preview: boolean;
}

const kinds = new Map<string, CueKindSpec>();

/** Adds kinds of cues. @throws Error for a kind that is there already */
export function registerCues(...list: readonly CueKindSpec[]): void {
  for (const spec of list) {
    if (kinds.has(spec.kind)) throw new Error(`The cue ${spec.kind} is registered twice`);
    kinds.set(spec.kind, spec);
  }
}
/** Takes a kind out again: for tests. */
export const unregisterCue = (kind: string): void => void kinds.delete(kind);

/** @throws RangeError for a kind that is not registered */
export function cueKind(kind: string): CueKindSpec {
  const spec = kinds.get(kind);
  if (!spec) throw new RangeError(`There is no cue called ${kind}`);
  return spec;
}
/** All kinds, in the order of menus. */
export const cueKinds = (): CueKindSpec[] => [...kinds.values()];
