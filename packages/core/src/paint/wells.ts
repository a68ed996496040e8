import type { Component, Coverage, Cue } from '../coverage';
import type { BlendDocument, Layer } from '../document';
import { coverageOf } from '../document';
import { inOrder } from '../order';

const feeds = (blend: BlendDocument, reads: (coverage: Coverage) => boolean): string[] =>
  inOrder(blend.layers).flatMap((layer) => {
    const group = layer.group === null ? undefined : blend.groups[layer.group];
    return reads(coverageOf(blend, layer)) || (group && reads(group.coverage)) ? [layer.name] : [];
  });

/** Names of the layers whose coverage, or that of their group, looks at a channel of the vertex colours, from the ground up. */
export const fedBy = (blend: BlendDocument, channel: Component): string[] =>
  feeds(blend, (coverage) => Object.values(coverage).some((cue) => cue.kind === 'vertexColour' && cue.channel === channel && cue.amount > 0));

/** Where a cue stands in a blend: in the coverage of a layer or a group, or in one that has a name. */
export interface CuePath {
  of: 'layers' | 'groups' | 'coverages';
  id: string;
  cue: string;
}
export type PaintedCue = Extract<Cue, { kind: 'painted' }>;
export interface MaskWell {
  path: CuePath;
  cue: PaintedCue;
  /** Names of the layers that look at it, from the ground up. */
  feeds: string[];
}

/** The painted cue at a place of a blend; null when it is gone, or looks at something else by now. */
export function paintedCueAt(blend: BlendDocument, { of, id, cue }: CuePath): PaintedCue | null {
  const found = blend[of][id]?.coverage[cue];
  return found?.kind === 'painted' ? found : null;
}

/** Where the coverage that counts for a layer stands. */
export const coveragePath = (blend: BlendDocument, id: string, layer: Layer): Omit<CuePath, 'cue'> =>
  layer.shared !== null && blend.coverages[layer.shared] ? { of: 'coverages', id: layer.shared } : { of: 'layers', id };

/** All painted masks of a blend that count, from the ground up: each is a picture of its own to paint on. */
export function maskWells(blend: BlendDocument): MaskWell[] {
  const paths = inOrder(blend.layers).flatMap((layer) => [
    ...(layer.group !== null && blend.groups[layer.group] ? [{ of: 'groups' as const, id: layer.group }] : []),
    coveragePath(blend, layer.id, layer),
  ]);
  const once = [...new Map(paths.map((p) => [`${p.of}/${p.id}`, p])).values()];
  return once.flatMap(({ of, id }) => {
    const { coverage } = blend[of][id];
    return inOrder(coverage).flatMap((cue) => {
      const found = paintedCueAt(blend, { of, id, cue: cue.id });
      return found ? [{ path: { of, id, cue: cue.id }, cue: found, feeds: feeds(blend, (c) => c === coverage) }] : [];
    });
  });
}
