import { DELIVER_SCHEMA } from '@pebble/contracts';
import { blocks, nameSlug, preflight } from '@pebble/core';
import type { BundleSink } from '@pebble/usecases/deliver';
import { deliver as deliverProject, planDelivery, preflightFacts, targetsOf } from '@pebble/usecases/deliver';
import { ServiceError } from '../../store/errors';
import type { JobDefinition, TaskContext } from '../kind';
import { projectDocuments } from './project-documents';

const mediaType = (path: string): string =>
  path.endsWith('.png') ? 'image/png' : path.endsWith('.glb') ? 'model/gltf-binary' : 'application/octet-stream';

/** Files go to the blobs, and are known by what they were made of: a job that was interrupted goes on from there. */
function sinkOf({ ports, made }: TaskContext): BundleSink & { manifest: string } {
  return {
    manifest: '',
    known: (_, key) => made.find(key),
    async put(path, key, bytes, quality) {
      const hash = await ports.blobs.put(bytes, mediaType(path));
      await made.keep(key, { sha256: hash, bytes: bytes.length, quality });
    },
    async finish(manifest) {
      this.manifest = await ports.blobs.put(manifest, 'application/json');
    },
  };
}

export const deliver: JobDefinition<'deliver'> = {
  ask: {
    summary: 'Deliver the project for targets: a bundle with a manifest, made of what is not there yet',
    body: DELIVER_SCHEMA,
    async order(request, _, { documents }) {
      const all = await projectDocuments(documents);
      const { targets } = targetsOf(all, request);
      const plan = planDelivery(all, request);
      const blocking = preflight(preflightFacts(plan, all), plan.project.accepted).filter(blocks);
      if (blocking.length) throw new ServiceError('bad-plan', `The preflight blocks this delivery: ${blocking.map((f) => f.message).join('; ')}`);
      return { label: `Deliver for ${targets.map((t) => t.body.name).join(', ')}`, payload: request };
    },
  },
  async run(context, request) {
    const all = await projectDocuments(context.documents);
    const sink = sinkOf(context);
    const { manifest, made } = await deliverProject(context.ports, all, request, sink, context.report);
    const bytes = manifest.files.reduce((sum, f) => sum + f.bytes, 0);
    return { result: { manifest: sink.manifest, files: manifest.files.length, bytes, made, fileName: `${nameSlug(manifest.project)}.zip` } };
  },
};
