/// <reference lib="webworker" />
import { preflight } from '@pebble/core';
import type { PlannedOutput } from '@pebble/usecases/deliver-plan';
import { Slots, planDelivery, preflightFacts } from '@pebble/usecases/deliver-plan';
import type { DeliverRequests, DeliveryRow } from './deliver.protocol';
import type { Handlers } from './serve';
import { serve } from './serve';

const kept = ({ texture, kind }: PlannedOutput): string => {
  if (!texture) return kind;
  const { width, height, kept: block, file, depth, levels } = texture;
  const size = width === height ? `${width}²` : `${width} × ${height}`;
  return [size, file === 'ktx2' ? block : file.toUpperCase(), ...(depth === 16 ? ['16 bit'] : []), ...(levels > 1 ? ['mips'] : [])].join(' · ');
};

const plan: Handlers<DeliverRequests>['plan'] = async ({ documents, targets, skip, seen }) => {
  const slots = new Slots(documents);
  const made = planDelivery(documents, { targets }, slots);
  // What is left out is listed all the same, and nothing is looked for in it.
  const going = skip.length ? planDelivery(documents, { targets, skip }, slots) : made;
  const rows = made.outputs.map((o): DeliveryRow => ({
    path: o.path,
    kind: o.kind,
    target: o.target?.id ?? null,
    of: [...new Set(o.from.flatMap((id) => documents[id]?.name ?? []))],
    kept: kept(o),
    about: o.about,
  }));
  const assets = new Map(
    made.outputs.flatMap(({ making: m }) => (m.by === 'asset' && m.textures.length ? [[m.assetId, m.asset.name] as const] : [])),
  );
  const findings = preflight(preflightFacts(going, documents, seen), made.project.accepted);
  return { result: { rows, findings, assets: [...assets].map(([id, name]) => ({ id, name })) }, transfer: [] };
};

serve<DeliverRequests>({ plan });
