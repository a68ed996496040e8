import type {
  BlendDocument,
  BlendRole,
  BlendSurface,
  GBuffer,
  Image,
  ImageChannel,
  MapSet,
  Role,
  Sources,
  Stack,
  SurfaceDocument,
} from '@pebble/core';
import { BLEND_ROLES, CompileError, evaluateBlend, flatDomain, makeBlendMaps, makeStack, sourcesOfMaps, specimenColour } from '@pebble/core';
import { loadMaps } from './maps';
import type { Ports, Report } from './ports';
import { UseCaseError } from './ports';

/** What compiling needs to know of a surface document. */
export const blendSurface = (surface: SurfaceDocument): BlendSurface => ({
  sizeM: surface.sizeM,
  reliefM: surface.reliefM,
  mid: surface.mid,
  roles: new Set(Object.keys(surface.maps) as Role[]),
});

/** @throws UseCaseError when a layer shows a surface that is gone, or no layer takes part. */
export function stackOf(blend: BlendDocument, surfaces: Readonly<Record<string, SurfaceDocument>>): Stack {
  for (const layer of Object.values(blend.layers))
    if (layer.on && !surfaces[layer.surface])
      throw new UseCaseError(
        'missing-surface',
        `${blend.name}: the surface of layer ${layer.name} no longer exists. Choose another for it or switch it off`,
        layer.name,
      );
  const stack = makeStack(blend, Object.fromEntries(Object.entries(surfaces).map(([id, s]) => [id, blendSurface(s)])));
  if (!stack.layers.length) throw new UseCaseError('empty-blend', `${blend.name} has no layer that is switched on. Add one first`);
  return stack;
}

/** Sources from the maps of each slot. */
export function sourcesOfSlots(slots: readonly MapSet[], mips: boolean): Sources {
  const finders = slots.map((maps) => sourcesOfMaps(maps, mips));
  return (slot, channel: ImageChannel) => {
    const source = finders[slot]?.(channel);
    if (!source) throw new CompileError('missing-source', `Slot ${slot} has no ${channel}`, 'image');
    return source;
  };
}

/** Whether a picture of this size shows the sources smaller than they are, so that mip levels are wanted. */
export const wantsMips = (stack: Stack, slots: readonly MapSet[], size: number): boolean =>
  stack.layers.some((l) => Math.max(...Object.values(slots[l.slot]).map((m) => m.width)) * l.repeats > size * 1.01);

/** Vertex colours of the specimens over one extent, for evaluation on the flat. */
export function paintedColours(width: number, height: number): GBuffer {
  const geomcolor = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) specimenColour((x + 0.5) / width, (y + 0.5) / height, geomcolor, (y * width + x) * 4);
  return { geomcolor };
}

export const readsVertexColour = (stack: Stack): boolean =>
  stack.layers.some((l) => Object.values(l.layer.coverage).some((c) => c.kind === 'vertexColour'));

/** Evaluates a stack to maps of `size` × `size`, in this thread. */
export function evaluateStack(
  stack: Stack,
  slots: readonly MapSet[],
  size: number,
  roles: readonly BlendRole[],
  report: Report,
): Partial<Record<BlendRole, Image>> {
  const far = wantsMips(stack, slots, size);
  const into = makeBlendMaps(size, size, roles);
  const geometry = readsVertexColour(stack) ? paintedColours(size, size) : {};
  evaluateBlend(stack, {
    domain: flatDomain(size, size, stack.extentM, geometry),
    sources: sourcesOfSlots(slots, far),
    far,
    into,
    onTile: (done) => report(done, 'evaluating'),
  });
  return into;
}

/** Evaluates a blend document to maps. */
export async function evaluateBlendDocument(
  ports: Ports,
  blend: BlendDocument,
  surfaces: Readonly<Record<string, SurfaceDocument>>,
  size: number,
  roles: readonly BlendRole[],
  report: Report,
): Promise<{ stack: Stack; maps: Partial<Record<BlendRole, Image>> }> {
  const stack = stackOf(blend, surfaces);
  // Heights always decide, whether or not they are asked for; channels nobody reads are not loaded.
  const wanted = BLEND_ROLES.filter((role) => role === 'height' || roles.includes(role));
  const slots: MapSet[] = [];
  for (const [i, id] of stack.slots.entries()) {
    report((0.3 * i) / stack.slots.length, surfaces[id].name);
    slots.push(await loadMaps(ports, surfaces[id], wanted));
  }
  const step: Report = (done, note) => report(0.3 + 0.7 * done, note);
  const maps = ports.bands ? await ports.bands.evaluate(stack, slots, size, roles, step) : evaluateStack(stack, slots, size, roles, step);
  return { stack, maps };
}
