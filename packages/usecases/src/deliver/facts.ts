// What the preflight looks at, gathered from documents and the plan of a delivery.
import type { AssetDocument, Mend, PreflightFacts, SurfaceDocument } from '@pebble/core';
import { surfacesBehind, libraryOf } from '../blends';
import { wayProblem } from '../packed-file';
import type { DeliveredSlot, Documents } from './slots';
import type { DeliveryPlan, PlannedOutput } from './plan';

/** Texels of the largest map that a file is made of; undefined where it is worked out at any size. */
function sourceOf({ making }: PlannedOutput, all: Documents): { width: number; height: number } | undefined {
  const surface = making.by === 'slot' ? making.texture.of.finished : making.by === 'recipe' ? all[making.file.sourceId] : null;
  if (surface?.kind !== 'surface') return undefined;
  const maps = Object.values((surface as SurfaceDocument).maps);
  return maps.length ? maps.reduce((a, b) => (b.width * b.height > a.width * a.height ? b : a)) : undefined;
}

/** Ids of surfaces whose pixels go into a bundle. */
export function surfacesIn({ outputs }: DeliveryPlan, all: Documents): string[] {
  const library = libraryOf(all);
  const ids = new Set<string>();
  for (const { making } of outputs) {
    if (making.by === 'asset') for (const { of } of making.textures) (of.material?.slots.surfaces ?? [of.laid.blend]).forEach((id) => ids.add(id));
    if (making.by === 'map') ids.add(making.surfaceId);
    if (making.by === 'recipe') {
      const source = all[making.file.sourceId];
      if (source?.kind === 'surface') ids.add(making.file.sourceId);
      if (source?.kind === 'blend') surfacesBehind(source, library).forEach((id) => ids.add(id));
    }
  }
  return [...ids].filter((id) => all[id]?.kind === 'surface').sort();
}

/** Every slot of every asset once, whatever it is delivered for. */
export function wornSlots({ outputs }: Pick<DeliveryPlan, 'outputs'>): { assetId: string; asset: AssetDocument; of: DeliveredSlot }[] {
  const all = outputs.flatMap(({ making: m }) =>
    m.by === 'asset'
      ? m.textures.map(({ of }) => ({ assetId: m.assetId, asset: m.asset, of }))
      : m.by === 'slot'
        ? [{ assetId: m.assetId, asset: m.texture.asset, of: m.texture.of }]
        : [],
  );
  return [...new Map(all.map((w) => [`${w.assetId} ${w.of.slot}`, w])).values()];
}

/** What textures of assets take in their targets. */
export function loadsOf({ outputs }: DeliveryPlan): PreflightFacts['loads'] {
  return outputs.flatMap(({ making, target }) => {
    if (making.by !== 'asset' || !target) return [];
    const own = outputs.filter((o) => o.making.by === 'slot' && o.making.assetId === making.assetId && o.target?.id === target.id);
    const bytes = own.reduce((sum, o) => sum + (o.texture?.runtimeBytes ?? 0), 0);
    const [most] = [...own].sort((a, b) => (b.texture?.runtimeBytes ?? 0) - (a.texture?.runtimeBytes ?? 0));
    const of = most?.making.by === 'slot' ? most.making.texture : null;
    const key = of ? Object.entries(making.asset.slots).find(([, s]) => s.slot === of.of.slot)?.[0] : undefined;
    const largest = of && key ? { slotKey: key, slot: of.of.slot, side: Math.max(of.width, of.height) } : null;
    return [{ asset: making.asset.name, assetId: making.assetId, target: target.body, bytes, largest }];
  });
}

/** Facts that documents tell by themselves. */
export function preflightFacts(plan: DeliveryPlan, all: Documents, seen: PreflightFacts['seen'] = []): PreflightFacts {
  const { outputs } = plan;
  return {
    outputs: outputs.map((o) => ({
      path: o.path,
      problem: o.problem,
      note: o.note,
      texture: o.texture,
      source: sourceOf(o, all),
      document: o.from[0],
      mend: mendOf(o, all),
    })),
    surfaces: surfacesIn(plan, all).map((id) => ({ id, body: all[id] as SurfaceDocument })),
    recipes: recipesIn(plan, all),
    loads: loadsOf(plan),
    drawn: wornSlots(plan).map(({ assetId, asset, of }) => ({ asset: asset.name, assetId, slot: of.slot, drawn: of.drawn })),
    seen,
  };
}

/** Recipes as far as they are delivered: of files that are left out nothing is said. */
function recipesIn({ outputs }: DeliveryPlan, all: Documents): PreflightFacts['recipes'] {
  const going = outputs.flatMap(({ making: m }) => (m.by === 'recipe' ? [m] : []));
  return [...new Set(going.map((m) => m.recipeId))].flatMap((id) => {
    const body = all[id];
    if (body?.kind !== 'recipe') return [];
    const own = going.filter((m) => m.recipeId === id);
    const kept = new Set(own.map((m) => m.file.fileId));
    const sources = [...new Set(own.map((m) => m.file.sourceId))].flatMap((s) => (all[s]?.kind === 'surface' ? [all[s]] : []));
    return [{ id, body: { ...body, files: Object.fromEntries(Object.entries(body.files).filter(([fileId]) => kept.has(fileId))) }, sources }];
  });
}

/** A file whose kind does not hold what is routed is written as PNG, which does. */
function mendOf({ making }: PlannedOutput, all: Documents): Mend | undefined {
  const recipe = making.by === 'recipe' ? all[making.recipeId] : undefined;
  if (making.by !== 'recipe' || recipe?.kind !== 'recipe' || !wayProblem(recipe.files[making.file.fileId], making.file.way, making.file))
    return undefined;
  return { label: 'Write PNG', edits: [{ id: making.recipeId, patch: [{ op: 'replace', path: `/files/${making.file.fileId}/as`, value: 'png' }] }] };
}
