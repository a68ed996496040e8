import type { Unit } from '../compile';
import type { Role } from '../surface';
import { ROLES, ROLE_FACTS } from '../surface';
import type { BlockFormat } from './memory';

/** A runtime profile: what one material may cost there, and how maps are kept. A document, so that own ones can be made. */
export interface TargetDocument {
  kind: 'target';
  version: 2;
  name: string;
  samples: number;
  operations: number;
  memoryBytes: number;
  /** Programs that one master may be compiled to. */
  permutations?: number;
  /** Longest side of a texture. */
  maxSize: number;
  /** Top mips that are left out of every map. */
  dropMips: number;
  /** How a map of each role is kept when nothing else is said. */
  formats: Record<Role, BlockFormat>;
}

/** A format for each role, by what it holds. */
export const formatsBy = (colour: BlockFormat, normal: BlockFormat, grey: BlockFormat): Record<Role, BlockFormat> =>
  Object.fromEntries(ROLES.map((role) => [role, role === 'normal' ? normal : ROLE_FACTS[role].components === 3 ? colour : grey])) as Record<
    Role,
    BlockFormat
  >;

const target = (over: Omit<TargetDocument, 'kind' | 'version'>): TargetDocument => ({ kind: 'target', version: 2, ...over });
const MB = 1e6;

/**
 * The four made-up devices that every project starts with. Operations are single numbers, as prices count them: a handheld of
 * 1.6 Tflop/s that draws 1280 × 800 twice over sixty times a second has 13,000 a pixel, of which a material may take a quarter.
 */
export const TARGETS = {
  desktop: target({
    name: 'Desktop',
    samples: 24,
    operations: 9000,
    memoryBytes: 192 * MB,
    permutations: 256,
    maxSize: 4096,
    dropMips: 0,
    formats: formatsBy('BC7', 'BC5', 'BC4'),
  }),
  handheld: target({
    name: 'Handheld',
    samples: 16,
    operations: 3500,
    memoryBytes: 64 * MB,
    permutations: 64,
    maxSize: 2048,
    dropMips: 0,
    formats: formatsBy('BC7', 'BC5', 'BC4'),
  }),
  phone: target({
    name: 'Phone',
    samples: 10,
    operations: 1400,
    memoryBytes: 24 * MB,
    permutations: 16,
    maxSize: 1024,
    dropMips: 0,
    formats: formatsBy('ASTC_6x6', 'EAC_RG11', 'EAC_R11'),
  }),
  headset: target({
    name: 'Headset',
    samples: 12,
    operations: 2000,
    memoryBytes: 48 * MB,
    permutations: 64,
    maxSize: 2048,
    dropMips: 1,
    formats: formatsBy('ASTC_4x4', 'ASTC_4x4', 'EAC_R11'),
  }),
} as const satisfies Record<string, TargetDocument>;
/** The target of a project whose own is gone. */
export const DEFAULT_TARGET = 'handheld';

/** The block format of each packed texture of a blend at runtime. */
export const PACKED_FORMATS: Record<Unit, BlockFormat> = {
  colour: 'BC7',
  shape: 'BC7',
  height: 'BC4',
  rare: 'BC4',
  glow: 'BC7',
  mask: 'BC4',
  // IDs are exact or they are nothing.
  id: 'RGBA8',
};
