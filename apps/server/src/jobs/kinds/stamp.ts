import type { StampRequest } from '@pebble/contracts';
import { STAMP_SCHEMA } from '@pebble/contracts';
import type { PressedStamp } from '@pebble/core';
import { editBetween } from '@pebble/core';
import type { DocumentStore } from '@pebble/usecases';
import { UseCaseError } from '@pebble/usecases';
import { planStamps } from '@pebble/usecases/stamp-plan';
import { stampedSurface } from '@pebble/usecases/stamping';
import { randomUUID } from 'node:crypto';
import { notFound } from '../../store/errors';
import { assetAround } from '../asset-around';
import type { JobDefinition } from '../kind';

/** How often stamps are pressed anew because another window added some meanwhile. */
const TRIES = 3;

const around = (documents: DocumentStore, document: string, { surface, add }: StampRequest) =>
  assetAround(documents, document, [surface, ...Object.values(add).map((s) => s.surface)]);
const asked = (request: StampRequest) => ({ ...request, add: request.add as unknown as Record<string, PressedStamp> });

/** What a step is called. */
function labelOf({ add, remove }: StampRequest, name: string): string {
  const [on, off] = [Object.keys(add).length, remove.length];
  const stamps = (n: number) => `${n} stamp${n === 1 ? '' : 's'}`;
  if (on) return `${stamps(on)} on ${name}`;
  return off ? `${stamps(off)} off ${name}` : `Stamps pressed anew on ${name}`;
}

/** Stamps are pressed into all maps of what a mesh wears: into a surface of its own the first time, which its slots wear from then on. */
export const stamp: JobDefinition<'stamp'> = {
  ask: {
    summary: 'Press stamps into what slots of an asset wear, or take some away',
    body: STAMP_SCHEMA,
    async order(request, document, { documents }) {
      const found = await around(documents, document, request);
      if (!found) throw notFound('This asset');
      // What cannot be stamped is said now, not by a job that fails.
      planStamps(found.asset, asked(request), found);
      return { label: `Stamp ${found.asset.name}`, payload: { ...request, document } };
    },
  },
  async run({ ports, report, documents }, { document, ...request }) {
    for (let tries = 1; ; tries++) {
      const found = await around(documents, document, request);
      if (!found) throw new UseCaseError('missing-specimen', 'This asset was deleted before it could be stamped');
      const { asset } = found;
      const plan = planStamps(asset, asked(request), found);
      const body = await stampedSurface(ports, plan, found.surface, report);
      const label = labelOf(request, asset.name);
      if (!plan.into) {
        const id = randomUUID();
        const worn = structuredClone(asset);
        for (const slot of Object.values(worn.slots)) if (slot.blend === request.surface) slot.blend = id;
        return { create: [{ id, body }], edit: [{ id: document, patch: editBetween(asset, worn, label).patch, label }], result: { surface: id } };
      }
      const now = await documents.find('surface', request.surface);
      const same = JSON.stringify(now?.stamped?.stamps) === JSON.stringify(plan.into.stamped?.stamps);
      if (!same && now && tries < TRIES) continue;
      return { edit: [{ id: request.surface, patch: editBetween(plan.into, body, label).patch, label }], result: { surface: request.surface } };
    }
  },
};
