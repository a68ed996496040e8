import { PROOF_SCHEMA } from '@pebble/contracts';
import { MANIFEST_NAME, proofProblems } from '@pebble/core';
import { openBundle } from '@pebble/formats/bundle';
import type { BundleReader } from '@pebble/formats/bundle';
import type { BlobStore } from '@pebble/usecases';
import { prove } from '@pebble/usecases/deliver';
import type { JobDefinition } from '../kind';
import { projectDocuments } from './project-documents';

/** A bundle whose files are blobs: the manifest names each by its hash. */
async function bundleOf(blobs: BlobStore, manifest: string): Promise<BundleReader> {
  const bytes = await blobs.get(manifest);
  const { files } = JSON.parse(new TextDecoder().decode(bytes)) as { files: { path: string; sha256: string }[] };
  const hashes = new Map(files.map((f) => [f.path, f.sha256]));
  return {
    names: () => Promise.resolve([MANIFEST_NAME, ...hashes.keys()]),
    async get(path) {
      const hash = hashes.get(path);
      return path === MANIFEST_NAME ? bytes : hash ? blobs.get(hash) : null;
    },
  };
}

export const proof: JobDefinition<'proof'> = {
  ask: {
    summary: 'Compare a bundle, decoded, with what the project gives now',
    body: PROOF_SCHEMA,
    order: (request) => ({ label: 'Proof of the bundle', payload: request }),
  },
  async run({ ports, report, documents }, { manifest }) {
    const bundle = await openBundle(await bundleOf(ports.blobs, manifest));
    const found = await prove(ports, await projectDocuments(documents), bundle, report);
    const problems = proofProblems(found, bundle.manifest.files);
    const bytes = new TextEncoder().encode(JSON.stringify({ ...found, problems }));
    return { result: { proof: await ports.blobs.put(bytes, 'application/json'), problems: problems.length } };
  },
};
