import type { DagNode, Values } from '../compile';
import type { CuePicture } from '../coverage';
import type { DrawnAs } from '../document';
import type { MeshInput } from '../geometry';
import type { BlendRole, ExtraRole, Role } from '../surface';

/** What evaluating some outputs looks at: read from the leaves of their graph, never from a list beside it. */
export interface MaterialReads {
  /** What of a mesh it needs; the texture coordinate, which everything has, is not among it. */
  mesh: ReadonlySet<MeshInput>;
  /** Maps of surfaces, by slot. */
  roles: ReadonlyMap<number, ReadonlySet<Role>>;
  /** Slots of masks and of IDs. */
  masks: ReadonlySet<number>;
  ids: ReadonlySet<number>;
  /** Whether it reads mip levels although the finest texels are asked for. */
  levels: boolean;
}

/** What a material is at a place: its channels, glTF specular, and the hue of what is seen there. */
export type MaterialOutput = BlendRole | 'specular' | 'identity';

/** How one layer came to what it is, as nodes of the graph. */
export interface LayerProbe {
  /** How present it is before heights decide, the height with which it contends, its weight over what lies below. */
  coverage: DagNode;
  height: DagNode;
  weight: DagNode;
  /** What each cue looks at and gives, one list for each coverage that limits the layer. */
  cues: { id: string; input: DagNode | null; value: DagNode }[][];
  /** What the layer is by itself; null where it has no channels of its own, as water has not. */
  own: (Record<BlendRole, DagNode> & Partial<Record<ExtraRole, DagNode>>) | null;
}

/** A material as the compiler has it. The same object as long as the key stays. */
export interface MaterialGraph {
  /** Those that only some materials have are left out where nothing feeds them. */
  outputs: Readonly<Record<MaterialOutput, DagNode> & Partial<Record<ExtraRole, DagNode>>>;
  /** Whether maps or steps say the specular level: a target draws it then. */
  specularFed?: boolean;
  /** One a layer, from the bottom; none where a material has no layers. */
  probes: readonly LayerProbe[];
}

/** What a program looks up, by slot. */
export interface MaterialSlots {
  /** Ids of surfaces. */
  surfaces: readonly string[];
  masks: readonly CuePicture[];
  ids: readonly CuePicture[];
}

/** The same material with some of its numbers as they are at a moment: time, and what is driven. */
export const materialAt = (material: Material, now: Values): Material =>
  Object.defineProperty(Object.create(material) as Material, 'values', { value: { ...material.values, ...now }, enumerable: true });

/** How a material goes over what is behind it, and the opacity below which a cut-out is not drawn. */
export interface Drawn {
  as: DrawnAs;
  cut: number;
}
export const SOLID: Drawn = { as: 'solid', cut: 0.5 };

/** How often something that is looked up lies over the extent. */
export interface Laid {
  slot: number;
  repeats: number;
}

export interface MaterialLayer {
  id: string;
  name: string;
  /** The map of heights that decides its mip level; null where it has none of its own. */
  heights: Laid | null;
}

/** Something that cannot be shown as it was meant; the rest goes on. */
export interface MaterialProblem {
  layer: string;
  code: 'missing-surface' | 'missing-map' | 'missing-coverage' | 'missing-group' | 'cycle' | 'too-many-layers' | 'no-height' | 'unused' | 'graph';
  message: string;
}

/** What there is to evaluate: the same for everything that shows, cuts, accounts for, bakes, packs or prices it. */
export interface Material {
  /** Equal for two materials exactly when they compile to the same programs: only values tell them apart. */
  readonly key: string;
  /** Metres of one repetition. */
  readonly extentM: number;
  /** How it goes over what is behind it; solid where it does not say. */
  readonly drawn?: Drawn;
  /** Its graph where the finest texels are read, and where mip levels and the spread of heights under them are. */
  readonly near: MaterialGraph;
  readonly far: MaterialGraph;
  /** All numbers that may change without compiling again. */
  readonly values: Values;
  readonly slots: MaterialSlots;
  /** What is looked up, by how often it lies over the extent. */
  readonly laid: { readonly surfaces: readonly Laid[]; readonly masks: readonly Laid[] };
  /** What all of it reads, by its leaves. */
  readonly reads: MaterialReads;
  /** Bounds of its height in metres. */
  readonly bounds: { readonly lo: number; readonly hi: number };
  readonly layers: readonly MaterialLayer[];
  readonly problems: readonly MaterialProblem[];
}
