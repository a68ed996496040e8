// What mesh files give, and which files are taken for them.
import type { Model } from '@pebble/core';
import { FormatError } from '../codec';

/** A picture that a mesh file carries or names, and what its materials use it for. */
export interface EmbeddedPicture {
  /** Told by slot and use, as in `stone_basecolor.png`. */
  fileName: string;
  bytes: Uint8Array;
}

/** What had to be left out or made up, a sentence each. */
export interface MeshNote {
  code: 'mesh-normals-made' | 'mesh-no-uv' | 'mesh-repaired' | 'mesh-left-out' | 'mesh-pictures' | 'mesh-tiles';
  message: string;
}

/** Collects notes; what is true of many parts is said once. */
export class MeshNotes {
  private readonly said = new Map<string, { code: MeshNote['code']; text: string; parts: Set<string> }>();

  add(code: MeshNote['code'], text: string, part?: string): void {
    const entry = this.said.get(text) ?? { code, text, parts: new Set() };
    if (part !== undefined) entry.parts.add(part);
    this.said.set(text, entry);
  }

  list(): MeshNote[] {
    return [...this.said.values()].map(({ code, text, parts }) => {
      const [first, second, third, ...more] = parts;
      const names = [first, second, third].filter((n) => n !== undefined).join(', ') + (more.length ? ` and ${more.length} more` : '');
      return { code, message: names ? `${names}: ${text[0].toLowerCase()}${text.slice(1)}` : text };
    });
  }
}

export interface MeshFile {
  model: Model;
  pictures: EmbeddedPicture[];
  notes: MeshNote[];
}

/** Bytes of the files that came with a mesh, by their name without folders; null where there is none. */
export type Siblings = (name: string) => Promise<Uint8Array | null>;

/** More than this is no asset of a runtime. */
export const MESH_LIMITS = { vertices: 8_000_000, triangles: 8_000_000, parts: 4096, sets: 8, bytes: 2 ** 30, text: 400 * 2 ** 20 };

export const mebibytes = (bytes: number): number => Math.ceil(bytes / 2 ** 20);

export const tooMuch = (what: string, count: number, limit: number): FormatError =>
  new FormatError('too-large', `it has ${count.toLocaleString('en')} ${what}; at most ${limit.toLocaleString('en')} are taken. Reduce it first`);

export const NORMALS_MADE = 'Normals were missing; they were made from the faces, with edges where these turn by more than 40°.';

/** Names like `stone_LOD2` say how detailed a part is; null where they do not. */
export function levelIn(name: string): { name: string; level: number | null } {
  const found = /[\s_.-]*lod[\s_.-]?([0-7])$/i.exec(name);
  return found ? { name: name.slice(0, found.index), level: Number(found[1]) } : { name, level: null };
}

/** The last part of an address, as it stands in a folder. */
export const plainName = (uri: string): string => {
  let name = uri;
  try {
    name = decodeURIComponent(uri);
  } catch {
    // An address with a stray % is taken as it is.
  }
  return name.replace(/^.*[\\/]/, '');
};
