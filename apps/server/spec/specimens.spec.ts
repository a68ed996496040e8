import type { History, JobView, Problem, UploadedFile } from '@pebble/contracts';
import { jobResult } from '@pebble/contracts';
import type { SpecimenDocument } from '@pebble/core';
import { SPECIMEN_MODELS, makeImage, slotsOf } from '@pebble/core';
import { readGltf, writeGlb } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { panel } from '../../../packages/formats/src/testing/panels';
import { PgBlobStore } from '../src/store/blobs';
import type { TestApp } from './harness';
import { allDocuments, opId, testApp, until } from './harness';

describe('specimens', () => {
  let app: TestApp;
  let store: PgBlobStore;
  let stone: Uint8Array;
  const call = async <T>(method: 'GET' | 'POST', url: string, payload?: object) => {
    const response = await app.server.inject({ method, url: `/api${url}`, payload, headers: { host: '127.0.0.1' } });
    return { status: response.statusCode, body: response.json() as T };
  };
  const run = async (url: string, payload: object) => {
    const { body } = await call<JobView>('POST', url, payload);
    return until(async () => {
      const { body: job } = await call<JobView>('GET', `/jobs/${body.id}`);
      return ['done', 'failed', 'cancelled'].includes(job.status) && job;
    });
  };
  const specimens = async () => (await allDocuments<SpecimenDocument>(app)).filter((d) => d.kind === 'specimen');
  const first = async () => (await specimens()).find((s) => s.body.name === 'Stone')!;
  const kept = async (fileName: string, bytes: Uint8Array) => ({ fileName, blob: await store.put(bytes, 'application/octet-stream') });
  /** The stone of one level, laid out in one way or another. */
  const stoneGlb = (sets: boolean, scale = 1) => {
    const [part] = SPECIMEN_MODELS['marker-stone'](1).lods[1];
    const mesh = { ...part.mesh, position: part.mesh.position.map((v) => v * scale) };
    return writeGlb('stone', { title: '', lods: [[{ ...part, mesh, sets: sets ? [mesh.texcoord] : [] }]] });
  };

  beforeAll(async () => {
    app = await testApp({ deadAfterSeconds: 5 });
    store = new PgBlobStore(app.pool);
    stone = await stoneGlb(false);
    await run('/specimens', { meshes: [await kept('stone.glb', stone)], companions: [] });
  });
  afterAll(() => app.stop());

  it('are made of uploaded meshes; one that is broken stops no other and is named', async () => {
    const mark = 'xxpebblexx';
    const file = (name: string, bytes: Uint8Array) => [
      Buffer.from(`--${mark}\r\ncontent-disposition: form-data; name="files"; filename="${name}"\r\ncontent-type: model/gltf-binary\r\n\r\n`),
      Buffer.from(bytes),
      Buffer.from('\r\n'),
    ];
    const payload = Buffer.concat([...file('step_stone.glb', stone), ...file('cut.glb', stone.subarray(0, 500)), Buffer.from(`--${mark}--\r\n`)]);
    const headers = { host: '127.0.0.1', 'content-type': `multipart/form-data; boundary=${mark}` };
    const sent = (await app.server.inject({ method: 'POST', url: '/api/uploads', payload, headers })).json() as UploadedFile[];
    expect(sent.map((f) => [f.format, f.problem])).toEqual([
      ['GLB', null],
      ['GLB', null],
    ]);
    const meshes = sent.map(({ blob, fileName }) => ({ blob, fileName }));
    const job = await run('/specimens', { meshes, companions: [] });
    expect(job.status)
      .withContext(job.error ?? '')
      .toBe('done');
    const files = jobResult('meshes', job)!.files;
    expect(files.length).toBe(1);
    expect(files[0].problem).toMatch(/^cut\.glb: it says to be \d+ bytes long and ends after 500\. Copy or export it again \(byte 500\)\.$/);
    const made = (await specimens()).find((s) => s.body.name === 'Step stone');
    expect(Object.values(made?.body.parts ?? {})).toEqual([jasmine.objectContaining({ name: 'stone', slot: 'stone', sets: 0, triangles: 432 })]);
  });
  it('are laid out by a job, as a step that undo takes back', async () => {
    const { id, body: before } = await first();
    const setsBefore = Object.values(before.parts)[0].sets;
    const job = await run(`/specimens/${id}/layout`, { how: 'unwrap', level: 0 });
    expect(job.status)
      .withContext(job.error ?? '')
      .toBe('done');
    const { body } = await first();
    expect(Object.values(body.parts)[0].sets).toBe(setsBefore + 1);
    expect(body.model).not.toBe(before.model);
    expect((await readGltf(await store.get(body.model))).model.lods[0][0].sets?.length).toBe(setsBefore + 1);
    const { body: history } = await call<History>('GET', `/documents/${id}/history`);
    expect(history.undo).toBe('Unwrap Stone');
    expect((await call('POST', `/documents/${id}/undo`, { opId: opId() })).status).toBe(200);
    expect((await first()).body).toEqual(before);
  });
  it('are read again from a file of the same name, once, with their settings', async () => {
    const there = await specimens();
    const old = await first();
    const same = await run('/specimens', { meshes: [{ blob: old.body.file.blob, fileName: 'stone.glb' }], companions: [] });
    expect([same.status, (await specimens()).length]).toEqual(['done', there.length]);
    await run('/specimens', { meshes: [await kept('stone.glb', await stoneGlb(true, 2))], companions: [] });
    expect((await specimens()).length).toBe(there.length);
    const after = await first();
    expect(Object.values(after.body.parts)[0].sets).toBe(1);
    expect(after.body.file.blob).not.toBe(old.body.file.blob);
    expect((await call<History>('GET', `/documents/${after.id}/history`)).body.undo).toBe('Read stone.glb again');
  });
  it('are divided by tiles when textures in tiles come later, once', async () => {
    const half = (tile: number) => panel('hull', tile, { sets: [Float32Array.from([0, 1, 1, 1, 0, 0, 1, 0], (x, i) => x + (i % 2 ? 0 : tile))] });
    const meshes = [await kept('hull.glb', await writeGlb('hull', { title: '', lods: [[half(0), half(1)]] }))];
    const hull = async () => (await specimens()).filter((s) => s.body.name === 'Hull');
    await run('/specimens', { meshes, companions: [] });
    expect((await hull()).map((s) => slotsOf(s.body))).toEqual([['hull']]);
    const companions = await Promise.all(['hull_nrm.1001.png', 'hull_nrm.1002.png'].map((name) => kept(name, new Uint8Array())));
    await run('/specimens', { meshes, companions });
    const [{ version, body }, ...others] = await hull();
    expect([slotsOf(body), others]).toEqual([['hull 1001', 'hull 1002'], []]);
    await run('/specimens', { meshes, companions });
    expect((await hull()).map((s) => s.version)).toEqual([version]);
  });
  it('are made of heights: in metres with the foot at the origin, once over their texture; what is no terrain is refused', async () => {
    const facts = { acrossM: 100, rangeM: 50, footM: 700 };
    const eight = makeImage({ width: 33, height: 17, channels: 1, data: Uint8Array.from({ length: 33 * 17 }, (_, i) => (i % 33) * 7) });
    const heights = { blob: await store.put(await nodeCodec.encode(eight), 'image/png'), fileName: 'ridge.png' };
    const job = await run('/terrains', { name: 'Ridge', heights, ...facts });
    expect(job.status)
      .withContext(job.error ?? '')
      .toBe('done');
    const { body } = (await specimens()).find((s) => s.body.name === 'Ridge')!;
    expect(body.terrain).toEqual({ heights: heights.blob, width: 33, height: 17, ...facts });
    expect(body.notes).toEqual([jasmine.stringMatching(/^It has 8 bits, 33 steps of 20 cm/)]);
    const [part] = (await readGltf(await store.get(body.model))).model.lods[0];
    const along = (c: number) => [...part.mesh.position].filter((_, i) => i % 3 === c);
    for (const [c, lo, hi] of [
      [0, -50, 50],
      [1, 0, (50 * 224) / 255],
      [2, -25, 25],
    ]) {
      expect(Math.min(...along(c))).toBeCloseTo(lo, 3);
      expect(Math.max(...along(c))).toBeCloseTo(hi, 3);
    }
    const u = [...part.mesh.texcoord].filter((_, i) => i % 2 === 0);
    const v = [...part.mesh.texcoord].filter((_, i) => i % 2 === 1);
    expect([Math.min(...u), Math.max(...u), Math.min(...v), Math.max(...v)].map((x) => +x.toFixed(5))).toEqual([0, 1, 0, 0.5]);
    const before = (await specimens()).length;
    const line = makeImage({ width: 1, height: 9, channels: 1, data: new Uint8Array(9) });
    const thin = { blob: await store.put(await nodeCodec.encode(line), 'image/png'), fileName: 'line.png' };
    const refused = await run('/terrains', { name: 'Line', heights: thin, ...facts });
    expect([refused.status, refused.error]).toEqual([
      'failed',
      jasmine.stringMatching(/line\.png: It has 1 × 9 samples; a terrain has 2 to 8193 along a side/),
    ] as never);
    expect((await call('POST', '/terrains', { name: 'None', heights: null, ...facts, acrossM: 0 })).status).toBe(400);
    expect((await specimens()).length).toBe(before);
  });
  it('of one name from two folders stay two, also when the folders come again', async () => {
    const two = [await kept('post.glb', await stoneGlb(false, 3)), await kept('post.glb', await stoneGlb(false, 4))];
    await run('/specimens', { meshes: two, companions: [] });
    const posts = async () => (await specimens()).filter((s) => s.body.file.fileName === 'post.glb').map((s) => s.body.file.blob);
    expect((await posts()).sort()).toEqual(two.map((f) => f.blob).sort());
    await run('/specimens', { meshes: two, companions: [] });
    expect((await posts()).sort()).toEqual(two.map((f) => f.blob).sort());
    // One that changed among them is another one: nothing says whose place it would take.
    const third = await kept('post.glb', await stoneGlb(false, 5));
    await run('/specimens', { meshes: [third], companions: [] });
    expect((await posts()).length).toBe(3);
  });
  it('of which one level was laid out can have the others laid out too', async () => {
    const still = await writeGlb('still', {
      ...SPECIMEN_MODELS['marker-stone'](1),
      lods: [SPECIMEN_MODELS['marker-stone'](1).lods[1], SPECIMEN_MODELS['marker-stone'](1).lods[1]],
    });
    await run('/specimens', { meshes: [await kept('levels.glb', still)], companions: [] });
    const levels = async () => (await specimens()).find((s) => s.body.name === 'Levels')!;
    for (const level of [0, 1]) {
      const job = await run(`/specimens/${(await levels()).id}/layout`, { how: 'repack', level });
      expect(job.status)
        .withContext(job.error ?? '')
        .toBe('done');
    }
    const { body } = await levels();
    expect(Object.values(body.parts).map((p) => [p.level, p.sets])).toEqual([
      [0, 2],
      [1, 2],
    ]);
    expect(body.uvSet).toBe(1);
  });
  it('bring their pictures with them, told by slot and use', async () => {
    const png = await nodeCodec.encode(makeImage({ width: 8, height: 8, channels: 3 }));
    const position = Buffer.from(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 0, -1).buffer);
    const gltf = {
      asset: { version: '2.0' },
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0, name: 'leaf' }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
      materials: [{ name: 'Tea leaf', pbrMetallicRoughness: { baseColorTexture: { index: 0 } }, emissiveTexture: { index: 1 } }],
      textures: [{ source: 0 }, { source: 1 }],
      images: [{ uri: 'leaf_d.png' }, { uri: 'nowhere.png' }],
      accessors: [{ bufferView: 0, componentType: 5126, type: 'VEC3', count: 3 }],
      bufferViews: [{ buffer: 0, byteLength: 36 }],
      buffers: [{ byteLength: 36, uri: 'leaf.bin' }],
    };
    const companions = [await kept('leaf.bin', position), await kept('leaf_d.png', png)];
    const job = await run('/specimens', { meshes: [await kept('leaf.gltf', Buffer.from(JSON.stringify(gltf)))], companions });
    const files = jobResult('meshes', job)!.files;
    expect(files).toEqual([jasmine.objectContaining({ fileName: 'Tea_leaf_basecolor.png', blob: companions[1].blob, width: 8, channels: 3 })]);
    const leaf = (await specimens()).find((s) => s.body.name === 'Leaf');
    expect(leaf?.body.notes).toContain('Slot Tea leaf uses nowhere.png as emissive, which did not come with the file.');
  });
  it('say what cannot be done', async () => {
    const { id } = await first();
    expect((await call<Problem>('POST', `/specimens/${id}/layout`, { how: 'unwrap', level: 5 })).body.detail).toBe('Stone has no level of detail 5');
    expect((await call<Problem>('POST', '/specimens/nothing/layout', { how: 'unwrap', level: 0 })).status).toBe(404);
    expect((await call<Problem>('POST', '/specimens', { meshes: [], companions: [] })).status).toBe(400);
  });
});
