import type { BundleManifest } from '@pebble/core';
import { BundleError, MANIFEST_NAME, readManifest } from '@pebble/core';
import { zipStream } from '@pebble/formats';
import type { FastifyInstance } from 'fastify';
import { Readable } from 'node:stream';
import type { PgBlobStore } from '../store/blobs';
import { notFound } from '../store/errors';

const PARAMS = { type: 'object', required: ['manifest'], properties: { manifest: { type: 'string', pattern: '^[0-9a-f]{64}$' } } } as const;

/** @throws ServiceError for bytes that are no manifest */
function manifestIn(bytes: Uint8Array): BundleManifest {
  try {
    return readManifest(new TextDecoder().decode(bytes));
  } catch (error) {
    if (error instanceof BundleError) throw notFound('This bundle');
    throw error;
  }
}

/** Bundles that were delivered, as ZIPs: put together while they are sent. */
export function deliveries(store: PgBlobStore) {
  return async (app: FastifyInstance) => {
    app.get<{ Params: { manifest: string }; Querystring: { name?: string } }>(
      '/deliveries/:manifest/bundle.zip',
      {
        schema: {
          summary: 'A bundle by the hash of its manifest',
          params: PARAMS,
          querystring: { type: 'object', properties: { name: { type: 'string', maxLength: 200 } } },
        },
      },
      async ({ params, query }, reply) => {
        if (!(await store.facts(params.manifest))) throw notFound('This bundle');
        const bytes = await store.get(params.manifest);
        const { files } = manifestIn(bytes);
        for (const { sha256, path } of files) if (!(await store.facts(sha256))) throw notFound(`${path} of this bundle`);
        const entries = [
          { name: MANIFEST_NAME, content: () => [bytes] },
          ...files.map(({ path, sha256 }) => ({ name: path, content: () => store.stream(sha256) })),
        ];
        return reply
          .type('application/zip')
          .header('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(query.name ?? 'bundle.zip')}`)
          .send(Readable.from(zipStream(entries), { objectMode: false }));
      },
    );
  };
}
