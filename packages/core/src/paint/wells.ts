import type { BlendDocument, Component, Coverage } from '../document';
import { coverageOf, inOrder } from '../document';

const reads = (coverage: Coverage, channel: Component): boolean =>
  Object.values(coverage).some((cue) => cue.kind === 'vertexColour' && cue.channel === channel && cue.amount > 0);

/** Names of the layers whose coverage, or that of their group, looks at a channel of the vertex colours, from the ground up. */
export function fedBy(blend: BlendDocument, channel: Component): string[] {
  return inOrder(blend.layers).flatMap((layer) => {
    const group = layer.group === null ? undefined : blend.groups[layer.group];
    return reads(coverageOf(blend, layer), channel) || (group && reads(group.coverage, channel)) ? [layer.name] : [];
  });
}
