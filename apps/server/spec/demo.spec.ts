import { documentProblem } from '@pebble/contracts';
import type { BlendDocument, BlendSurface, GeneratorName, Image, ImageChannel, Mesh, MeshPlanes, Model, SpecimenName } from '@pebble/core';
import {
  shownId,
  Accountant,
  Bvh,
  SPECIMEN_MODELS,
  isSpecimenName,
  boundsOf,
  coverageSentence,
  generateSurface,
  idColours,
  inOrder,
  makeSpecimen,
  makeStack,
  meshCurvature,
  openSky,
  partNames,
  blendMaterial,
  mapInputs,
  slotNames,
  sourceOfPicture,
  sourcesOfMaps,
  vertexSpacing,
  withMeshFacts,
} from '@pebble/core';
import { blendSurface } from '@pebble/usecases';
import { blendMesh } from '@pebble/usecases/on-mesh';
import { DEMO_BLENDS, DEMO_SEEDS, demoDocuments, stillDocuments } from '../src/demo';
import { STILL, STILL_COLOURS } from '@pebble/usecases';
import { stillIds, tiledStill } from '../src/jobs/kinds/still';

/** Vertices that are looked at: enough for shares to a percent. */
const SAMPLES = 6000;

describe('the documents of the example', () => {
  it('are documents as the server takes them, and name only each other', () => {
    const all = [...demoDocuments(), ...stillDocuments()];
    for (const { id, body } of all) expect(documentProblem(body)).withContext(id).toBeNull();
    for (const { body } of all) {
      if (body.kind !== 'asset') continue;
      // The still that is laid out, or one of our own specimens.
      const name = body.specimen === STILL.specimen ? 'copper-still' : body.specimen;
      expect(isSpecimenName(name)).withContext(name).toBeTrue();
      expect(Object.values(body.slots).map((s) => s.slot)).toEqual(slotNames(SPECIMEN_MODELS[name as 'copper-still'](1)));
      for (const { blend, slot } of Object.values(body.slots))
        expect(all.find((d) => d.id === blend)?.body.kind)
          .withContext(slot)
          .toBe(slot === 'steam' ? 'master' : 'blend');
    }
  });
});

describe('the blends of the example', () => {
  const used = [...new Set(Object.values(DEMO_BLENDS).flatMap((b) => Object.values(b.layers).flatMap((l) => shownId(l) ?? [])))];
  const drawn = used.filter(Boolean) as GeneratorName[];
  const made = Object.fromEntries(drawn.map((name) => [name, generateSurface(name, { seed: DEMO_SEEDS[name], size: 128 })]));
  const surfaces: Record<string, BlendSurface> = {
    ...Object.fromEntries(drawn.map((name) => [name, blendSurface({ ...made[name].facts, maps: made[name].maps } as never)])),
    [STILL.ids]: { sizeM: 1, reliefM: 0, mid: 0.5, roles: new Set(['id']) },
  };
  let still: Model;
  let ids: Image;
  beforeAll(async () => {
    still = await tiledStill(() => undefined);
    ids = stillIds(still, 512);
  });
  /** What a blend of the example lies on, and the names of its parts. */
  const under = ({ specimen, extentM }: BlendDocument): { bare: Mesh; parts: string[] } =>
    specimen === STILL.specimen
      ? { bare: blendMesh(still, extentM).mesh, parts: partNames(still) }
      : { bare: makeSpecimen(specimen as SpecimenName, extentM), parts: partNames(SPECIMEN_MODELS[specimen as SpecimenName](1)) };

  it('lie on the still by its ID map as they would by its slots', () => {
    const { bare } = under(DEMO_BLENDS['copper-still']);
    expect(still.lods[0].map((p) => p.slot)).toEqual(['copper', 'copper', 'pipe', 'iron']);
    // As somebody who brings in map and mesh finds them.
    expect(
      idColours(ids, 0.06)
        .map((c) => c.id)
        .sort(),
    ).toEqual(Object.values(STILL_COLOURS).sort());
    // Between the corners of each triangle, clear of its edges.
    const of = (name: 'uv1' | 'part', k: number, at: number) =>
      Array.from({ length: bare.index.length / 3 }, (_, t) => [0, 1, 2].reduce((sum, j) => sum + bare[name]![bare.index[t * 3 + j] * k + at] / 3, 0));
    const [u, v, part] = [of('uv1', 2, 0), of('uv1', 2, 1), of('part', 1, 0)];
    const wrong = part.filter((p, t) => {
      const at = (Math.floor(v[t] * 512) * 512 + Math.floor(u[t] * 512)) * 3;
      const colour = `#${[...ids.data.subarray(at, at + 3)].map((x) => x.toString(16).padStart(2, '0')).join('')}`;
      return colour !== STILL_COLOURS[still.lods[0][Math.round(p)].slot];
    });
    expect(wrong.length).toBe(0);
  });
  for (const [id, blend] of Object.entries(DEMO_BLENDS))
    it(`hold every layer on 5 to 60 % of ${id}, near and far`, () => {
      expect(documentProblem(blend)).toBeNull();
      const stack = makeStack(blend, surfaces);
      expect(stack.problems).toEqual([]);
      const { bare, parts } = under(blend);
      const count = bare.position.length / 3;
      const reads = blendMaterial(stack).reads.mesh;
      const [bend, sky] = [reads.has('curvature'), reads.has('occlusion')];
      const open = sky ? new Float32Array(count).fill(1) : null;
      if (open) openSky(bare, new Bvh(bare), [0, count], open, 16);
      const mesh = withMeshFacts(bare, bend ? meshCurvature(bare) : null, open);
      const step = Math.max(1, Math.floor(count / SAMPLES));
      const picked = Array.from({ length: Math.floor(count / step) }, (_, i) => i * step);
      const places = mapInputs<MeshPlanes>(mesh, (values, _, k) => Float32Array.from(picked.flatMap((v) => [...values.subarray(v * k, v * k + k)])));
      // A vertex counts for the area around it.
      const area = new Float64Array(count);
      for (let t = 0; t < mesh.index.length; t += 3) {
        const corner = (j: number) => mesh.position.subarray(mesh.index[t + j] * 3, mesh.index[t + j] * 3 + 3);
        const [p, q, r] = [corner(0), corner(1), corner(2)];
        const [e, f] = [q, r].map((x) => [0, 1, 2].map((c) => x[c] - p[c]));
        const size = Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]);
        for (let j = 0; j < 3; j++) area[mesh.index[t + j]] += size;
      }
      const total = picked.reduce((sum, v) => sum + area[v], 0);
      const finders = stack.slots.map((name) => sourcesOfMaps(made[name].maps, true));
      const told = stack.ids.map(() => sourceOfPicture([ids]));
      const sources = (slot: number, channel: ImageChannel) => (channel === 'id' ? told[slot] : finders[slot](channel)!);
      const standing = { groundM: boundsOf(mesh).lo[1], parts };
      const near = vertexSpacing(mesh) / blend.extentM / 4;
      for (const footprint of [near, near * 16]) {
        const accounts = new Accountant().at(blendMaterial(stack, { standing }), sources, places, footprint);
        stack.layers.forEach((layer, i) => {
          const share = accounts.reduce((sum, a, v) => sum + a.layers[i].share * area[picked[v]], 0) / total;
          expect(share)
            .withContext(`${layer.layer.name} at ${footprint.toFixed(4)}`)
            .toBeGreaterThan(0.05);
          expect(share)
            .withContext(`${layer.layer.name} at ${footprint.toFixed(4)}`)
            .toBeLessThan(0.6);
        });
      }
    });
  it('are said in sentences', () => {
    const said = Object.values(DEMO_BLENDS).flatMap((b) => inOrder(b.layers).map((l) => coverageSentence(l.name, l.coverage)));
    expect(said).toContain('Rising dirt where within 0.4 m ±0.35 of the ground and noise above 0.4 ±0.2 at 0.3 m');
    expect(new Set(said).size).toBeGreaterThan(12);
  });
});
