import type { ColourSpace } from '../image';
import type { NameReading, Role } from '../surface';
import { ROLE_FACTS } from '../surface';
import type { Finding } from './finding';

/** What is known of a file beside its pixels. */
export interface FileClues {
  fileName?: string;
  /** What its name says beside those that came with it; read from `fileName` alone otherwise. */
  name?: NameReading;
  /** Its kind of compression loses something. */
  lossy?: boolean;
  /** What the file itself says of its colours. */
  marked?: 'srgb' | 'linear' | null;
  /** What somebody says that it is: taken, but held against the content. */
  role?: Role;
}

/** Kinds of content that pixels alone tell apart. */
export type Content = 'colour' | 'normal' | 'packed' | 'id' | 'grey';

export interface Recognition {
  role: Role | null;
  /** 0–1. */
  roleConfidence: number;
  content: Content;
  contentConfidence: number;
  colourSpace: ColourSpace;
  /** Null for maps that are no normals. */
  normalDirection: 'y+' | 'y-' | 'unknown' | null;
  normalConfidence: number;
  /** Only two channels of a normal map are there. */
  twoChannel: boolean;
  /** What the channels of a packed map seem to hold; null for other maps. */
  packed: Partial<Record<'r' | 'g' | 'b' | 'a', Role>> | null;
  /** What alpha holds beside the role; null where there is none, it says nothing, or it has to be asked. */
  alpha: Role | null;
  findings: Finding[];
}

/** A file that was sent and may be read; `problem` says why not. */
export interface SentFile {
  fileName: string;
  /** Null when it could not be read. */
  blob: string | null;
  width: number;
  height: number;
  channels: number;
  depth: 8 | 16 | 32;
  problem: string | null;
}

/** A file as it was looked at, before it becomes a map. */
export interface LookedAt extends Recognition {
  blob: string;
  fileName: string;
  /** Files of one surface share it. */
  stem: string;
  /** Why the file cannot be read; the rest then says nothing. */
  problem: string | null;
  /** Cells of the picture that say something (`cellsText`); null where it has no ground that islands stand on. */
  ink: string | null;
}

/** The kind of content that a role is stored as. */
export const contentOfRole = (role: Role): Content =>
  role === 'normal' ? 'normal' : role === 'id' ? 'id' : role === 'position' || ROLE_FACTS[role].components === 3 ? 'colour' : 'grey';
