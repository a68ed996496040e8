// A small project for tests of deliveries: two panels, one worn by a finished surface, one by a blend.
import type { AnyDocument, MapEntry, ProjectDocument, RecipeDocument, Role, SurfaceDocument } from '@pebble/core';
import { TARGETS, generateSurface, makeBlend, makeCue, makeLayer, parseChannelLayout, wornSurface } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import { panel } from '../../../formats/src/testing/panels';
import { EXAMPLE_MASTERS } from '../examples/masters';
import { keepImage } from '../making';
import type { Ports } from '../ports';
import { importMesh } from '../specimens';

const SIDE = 64;

/** A drawn surface as a document, with a licence that is known. */
async function drawn(ports: Ports, name: Parameters<typeof generateSurface>[0], seed: number): Promise<SurfaceDocument> {
  const { maps, facts } = generateSurface(name, { seed, size: SIDE });
  const kept: Partial<Record<Role, MapEntry>> = {};
  for (const [role, image] of Object.entries(maps)) kept[role as Role] = await keepImage(ports, role as Role, image, `${name}_${role}.png`);
  return {
    kind: 'surface',
    version: 1,
    name: name.replace('-', ' '),
    sizeM: facts.sizeM,
    reliefM: facts.reliefM,
    mid: facts.mid,
    maps: kept,
    thumbnail: null,
    tone: '#808080',
    generator: null,
    notes: [],
    origin: { author: 'Ana Orrin', source: 'the ridge', licence: 'CC0-1.0' },
  };
}

/** Documents of a project that can be delivered for two targets without a finding that blocks. */
export async function smallProject(ports: Ports): Promise<Record<string, AnyDocument>> {
  const model = { title: 'Gate', lods: [[panel('post', 0), panel('beam', 1)]] };
  const blob = await ports.blobs.put(await writeGlb('gate', model), 'model/gltf-binary');
  const { body: gate } = await importMesh(ports, { blob, fileName: 'gate.glb' }, [], () => undefined);
  const plaster = await drawn(ports, 'lime-plaster', 3);
  const moss = await drawn(ports, 'cushion-moss', 5);
  const coverage = { c: makeCue('noise', { centre: 0.5, width: 0.3, sizeM: 0.4, seed: 2 }) };
  const project: ProjectDocument = { kind: 'project', version: 1, name: 'Gate house', exportNormal: 'y+', exportSize: SIDE, target: 'desktop' };
  const recipe: RecipeDocument = {
    kind: 'recipe',
    version: 1,
    name: 'Usual',
    template: '{set}_{file}',
    size: SIDE,
    sources: { plaster: { order: 1 } },
    files: {
      base: { order: 1, label: 'base', depth: 8, channels: parseChannelLayout('r=baseColor.r,g=baseColor.g,b=baseColor.b') },
      orm: { order: 2, label: 'orm', depth: 8, as: 'ktx2', block: 'target', channels: parseChannelLayout('r=occlusion,g=roughness,b=metallic') },
      deep: { order: 3, label: 'height', depth: 16, as: 'tiff', channels: parseChannelLayout('r=height') },
    },
  };
  return {
    project,
    desktop: structuredClone(TARGETS.desktop),
    handheld: { ...structuredClone(TARGETS.handheld), maxSize: 32 },
    plaster,
    moss,
    gate,
    grown: makeBlend('Grown over', {
      extentM: 1,
      layers: { below: makeLayer('plaster', 'Plaster', 1), above: makeLayer('moss', 'Moss', 2, { coverage }) },
    }),
    usual: recipe,
    asset: {
      kind: 'asset',
      version: 1,
      name: 'Gate',
      specimen: 'gate',
      slots: {
        s1: { order: 1, slot: 'post', blend: 'plaster', uvSet: 0, size: 1 },
        s2: { order: 2, slot: 'beam', blend: 'grown', uvSet: 0, size: 1 },
      },
    },
    washed: wornSurface('plaster', plaster),
    gauge: structuredClone(EXAMPLE_MASTERS['cistern-gauge']),
  };
}
