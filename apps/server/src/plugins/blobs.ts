import multipart from '@fastify/multipart';
import type { GreyPicture, UploadedFile } from '@pebble/contracts';
import { convertDepth, extractChannel } from '@pebble/core';
import type { ImageFacts } from '@pebble/formats';
import { FormatError, decodeRawHeights, isRawName, probeImage } from '@pebble/formats';
import { isCompanionName, isMeshName } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import type { FastifyInstance } from 'fastify';
import { Readable } from 'node:stream';
import type { PgBlobStore } from '../store/blobs';
import { ServiceError, notFound } from '../store/errors';

/** Bytes a file and files a request: past these an upload is refused while it streams. */
export const MAX_FILE_BYTES = 2 ** 30;
export const MAX_FILES = 400;
/** Pixels a side of a picture that becomes a mask. */
const MAX_GREY_SIDE = 8192;

/** Bytes of a request that are cut into pieces: twice the colours of the largest mesh that is painted. */
export const MAX_PIECES_BYTES = 2 ** 24;

const HASH = { type: 'object', required: ['hash'], properties: { hash: { type: 'string', pattern: '^[0-9a-f]{64}$' } } } as const;

/** What the parser of uploads says of bytes that make none. */
const MALFORMED = /^(Unexpected end of (form|file|multipart data)|Malformed|Multipart: |Part terminated early|Premature close|aborted)/i;

/** The last part of a file's name, without what no name should hold: control and direction marks, halves of characters. */
const plainName = (fileName: string): string =>
  fileName
    .replace(/^.*[\\/]/, '')
    .replace(/[\p{Cc}\p{Cf}\p{Cs}]/gu, '')
    .slice(0, 200) || 'file';

/** Bytes in and out: streamed uploads that are recognised as they arrive, and content-addressed downloads. */
export function blobs(store: PgBlobStore) {
  return async (app: FastifyInstance) => {
    await app.register(multipart, { limits: { fileSize: MAX_FILE_BYTES, files: MAX_FILES, fields: 10 }, throwFileSizeLimit: true });

    app.post(
      '/uploads',
      {
        schema: { summary: 'Upload image files (multipart); each is recognised, nothing becomes a document yet', consumes: ['multipart/form-data'] },
      },
      async (request) => {
        if (!request.isMultipart()) throw new ServiceError('not-multipart', 'Files come as multipart/form-data');
        const files: UploadedFile[] = [];
        try {
          for await (const part of request.files()) files.push(await keep(part.filename, part.mimetype, part.file));
        } catch (error) {
          throw MALFORMED.test((error as Error).message)
            ? new ServiceError('bad-upload', 'The upload is cut off, or not as multipart/form-data must be. Send it again')
            : error;
        }
        return files;
      },
    );

    app.addContentTypeParser('application/octet-stream', { parseAs: 'buffer', bodyLimit: MAX_PIECES_BYTES }, (_, body, done) => done(null, body));
    app.post<{ Querystring: { piece: number }; Body: Buffer }>(
      '/blobs',
      {
        bodyLimit: MAX_PIECES_BYTES,
        schema: {
          summary: 'Keep bytes, cut into pieces of a length (the last may be shorter); gives the SHA-256 of each in turn',
          consumes: ['application/octet-stream'],
          querystring: { type: 'object', required: ['piece'], properties: { piece: { type: 'integer', minimum: 1024, maximum: MAX_PIECES_BYTES } } },
        },
      },
      async ({ body, query: { piece } }) => {
        if (!Buffer.isBuffer(body)) throw new ServiceError('not-bytes', 'Bytes come as application/octet-stream');
        const hashes: string[] = [];
        for (let at = 0; at < body.length; at += piece) hashes.push(await store.put(body.subarray(at, at + piece), 'application/octet-stream'));
        return hashes;
      },
    );

    async function keep(fileName: string, mediaType: string, stream: AsyncIterable<Uint8Array>): Promise<UploadedFile> {
      const { hash, bytes, head } = await store.putStream(stream, mediaType);
      const base = { fileName: plainName(fileName), bytes };
      const shapeless = { width: 0, height: 0, channels: 0, depth: 8 } as const;
      try {
        // Meshes are read as wholes, by a job; here they are only kept.
        if (isMeshName(base.fileName) || isCompanionName(base.fileName))
          return { ...base, blob: hash, ...shapeless, format: base.fileName.replace(/^.*\./, '').toUpperCase(), problem: null };
        if (isRawName(base.fileName)) return { ...base, ...(await keepHeights(hash)), problem: null };
        return { ...base, blob: hash, ...(await recogniseHead(hash, head, bytes)), problem: null };
      } catch (error) {
        if (!(error instanceof FormatError)) throw error;
        return { ...base, blob: null, ...shapeless, format: '', problem: `${base.fileName}: ${error.message}.` };
      }
    }

    app.post<{ Params: { hash: string } }>(
      '/blobs/:hash/grey',
      { schema: { summary: 'The first channel of a picture as a grey PNG, as masks are kept; its SHA-256 and size', params: HASH } },
      async ({ params: { hash } }): Promise<GreyPicture> => {
        if (!(await store.facts(hash))) throw notFound('This picture');
        try {
          return await greyOf(hash);
        } catch (error) {
          if (!(error instanceof FormatError)) throw error;
          throw new ServiceError('no-picture', `This picture cannot become a mask: ${error.message}`);
        }
      },
    );

    async function greyOf(hash: string): Promise<GreyPicture> {
      const bytes = await store.get(hash);
      const { width, height, channels, format, depth } = probeImage(bytes);
      if (Math.max(width, height) > MAX_GREY_SIDE)
        throw new ServiceError(
          'too-large',
          `A mask has at most ${MAX_GREY_SIDE} pixels a side, this picture has ${width} × ${height}. Make it smaller`,
        );
      if (format === 'png' && channels === 1) return { hash, width, height };
      const grey = extractChannel(await nodeCodec.decode(bytes, 'data'), 0);
      const png = await nodeCodec.encode(depth === 32 ? convertDepth(grey, 16) : grey);
      return { hash: await store.put(png, 'image/png'), width, height };
    }

    /** A heightfield without a header is kept as a PNG, which says what it is. */
    async function keepHeights(hash: string): Promise<ImageFacts & { blob: string }> {
      const image = decodeRawHeights(await store.get(hash));
      const png = await nodeCodec.encode(image);
      return { ...probeImage(png), blob: await store.put(png, 'image/png') };
    }

    /** What a file is from its first bytes; one that says it further back is read whole. */
    async function recogniseHead(hash: string, head: Uint8Array, bytes: number): Promise<ImageFacts> {
      try {
        return probeImage(head);
      } catch (error) {
        if (!(error instanceof FormatError && error.code === 'truncated' && bytes > head.length)) throw error;
        return probeImage(await store.get(hash));
      }
    }

    app.get<{ Params: { hash: string }; Querystring: { name?: string } }>(
      '/blobs/:hash',
      {
        schema: {
          summary: 'Bytes by their SHA-256',
          params: HASH,
          querystring: { type: 'object', properties: { name: { type: 'string', maxLength: 200 } } },
        },
      },
      async ({ params, query, headers }, reply) => {
        const etag = `"${params.hash}"`;
        if (headers['if-none-match'] === etag) return reply.status(304).send();
        const facts = await store.facts(params.hash);
        if (!facts) throw notFound('This picture');
        reply
          .header('etag', etag)
          .header('cache-control', 'private, max-age=31536000, immutable')
          .header('content-length', facts.bytes)
          .header('x-content-type-options', 'nosniff');
        // Only images and raw samples are shown in place; whatever else was uploaded is never run as a page.
        reply.type(
          /^image\/(png|jpeg)$/.test(facts.mediaType) || facts.mediaType === 'application/zip' ? facts.mediaType : 'application/octet-stream',
        );
        if (query.name) reply.header('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(query.name)}`);
        return reply.send(Readable.from(store.stream(params.hash), { objectMode: false }));
      },
    );
  };
}
