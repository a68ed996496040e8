import type { GeneratedSurface } from '@pebble/core';
import { PEBBLE, Recent, SKIES, computeLight, generateSurface, makeRandom, renderPebble } from '@pebble/core';
import { sha256 } from '@pebble/formats';
import { nodeCodec } from '@pebble/formats/node';
import type { FastifyInstance, FastifyReply } from 'fastify';
import Fastify from 'fastify';
import { Readable } from 'node:stream';
import type { Stone } from './catalogue';
import { CATALOGUE, PAGE, ROLES_KEPT, SIZES, search } from './catalogue';

export interface QuarryOptions {
  /** Bytes a second of one download. */
  rate: number;
  /** Share of downloads that go wrong: half are refused, half break off midway. */
  faults: number;
  seed: number;
}

interface Made {
  files: { name: string; role: string; bytes: Uint8Array; sha256: string }[];
  sizeM: number;
  reliefM: number;
}
/** Surfaces kept once they are drawn; the oldest goes. */
const MAX_MADE = 6;

/** The quarry: a library of generated surfaces behind a slow line that fails at times. It stands in for one outside. */
export function makeQuarry({ rate, faults, seed }: QuarryOptions): FastifyInstance {
  const app = Fastify({ logger: false, forceCloseConnections: true });
  const random = makeRandom(seed);
  const made = new Recent<string, Promise<Made>>(MAX_MADE);
  const previews = new Map<string, Promise<Uint8Array>>();
  const light = computeLight(SKIES.overcast, 32, 16, 32);
  const draw = ({ generator, amounts, seed: of }: Stone, size: number): GeneratedSurface => generateSurface(generator, { seed: of, size, amounts });

  const missing = (reply: FastifyReply) => reply.status(404).send({ error: 'There is no such thing in the quarry' });
  const find = (id: string) => CATALOGUE.find((s) => s.id === id);

  async function files(stone: Stone, size: number): Promise<Made> {
    const { maps, facts } = draw(stone, size);
    const out: Made['files'] = [];
    for (const role of ROLES_KEPT) {
      const bytes = await nodeCodec.encode(maps[role]);
      out.push({ name: `${stone.id.replace(/-/g, '_')}_${role}.png`, role, bytes, sha256: await sha256(bytes) });
    }
    return { files: out, sizeM: facts.sizeM, reliefM: facts.reliefM };
  }

  function keptFiles(stone: Stone, size: number): Promise<Made> {
    const key = `${stone.id} ${size}`;
    return made.of(key, () => files(stone, size));
  }

  /** Bytes at the pace of the line; one that breaks off ends after a part of them. */
  async function* slowly(bytes: Uint8Array, breaks: boolean): AsyncGenerator<Uint8Array> {
    const piece = Math.max(1024, Math.ceil(rate / 20));
    for (let at = 0; at < bytes.length; at += piece) {
      if (breaks && at > bytes.length / 3) throw new Error('The line broke');
      yield bytes.subarray(at, at + piece);
      await new Promise((resolve) => setTimeout(resolve, (1000 * piece) / rate));
    }
  }

  app.get<{ Querystring: { text?: string; tag?: string; page?: string } }>('/surfaces', ({ query }) => {
    const found = search(query.text ?? '', query.tag ?? '');
    const page = Math.max(0, Math.floor(Number(query.page ?? 0)) || 0);
    return {
      total: found.length,
      tags: [...new Set(CATALOGUE.flatMap((s) => s.tags))].sort(),
      items: found
        .slice(page * PAGE, (page + 1) * PAGE)
        .map(({ id, title, tags }) => ({ id, title, tags, sizes: SIZES, author: 'Orrin Ridge survey', licence: 'CC0 1.0' })),
    };
  });
  app.get<{ Params: { id: string } }>('/surfaces/:id/preview.png', async ({ params }, reply) => {
    const stone = find(params.id);
    if (!stone) return missing(reply);
    let picture = previews.get(stone.id);
    if (!picture) {
      const { maps, facts } = draw(stone, 128);
      previews.set(stone.id, (picture = nodeCodec.encode(renderPebble(maps, facts, light, { ...PEBBLE, width: 160, height: 110 }))));
    }
    return reply.type('image/png').send(Buffer.from(await picture));
  });
  app.get<{ Params: { id: string; size: string } }>('/surfaces/:id/:size', async ({ params }, reply) => {
    const stone = find(params.id);
    const size = Number(params.size);
    if (!stone || !(SIZES as readonly number[]).includes(size)) return missing(reply);
    const { files: list, sizeM, reliefM } = await keptFiles(stone, size);
    return { title: stone.title, sizeM, reliefM, files: list.map(({ bytes, ...f }) => ({ ...f, bytes: bytes.length })) };
  });
  app.get<{ Params: { id: string; size: string; name: string } }>('/surfaces/:id/:size/:name', async ({ params }, reply) => {
    const stone = find(params.id);
    const size = Number(params.size);
    if (!stone || !(SIZES as readonly number[]).includes(size)) return missing(reply);
    const file = (await keptFiles(stone, size)).files.find((f) => f.name === params.name);
    if (!file) return missing(reply);
    const fault = random() < faults;
    if (fault && random() < 0.5) return reply.status(503).send({ error: 'The quarry is busy' });
    return reply
      .type('image/png')
      .header('content-length', file.bytes.length)
      .send(Readable.from(slowly(file.bytes, fault), { objectMode: false }));
  });
  return app;
}
