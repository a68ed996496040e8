import type { AssetDocument, Image, Model, NormalSpace, Part, SpecimenDocument, SurfaceDocument } from '@pebble/core';
import { makeAsset, makeImage } from '@pebble/core';
import { panel } from '../../formats/src/testing/panels';
import { UseCaseError } from './errors';
import { keepImage } from './making';
import type { Ports } from './ports';
import { memoryPorts } from './testing/memory';
import { broughtIn } from './testing/specimen';
import { planTurn, turnedSurface } from './turned-normals';

const SIDE = 32;
/** A panel that faces +x: right is −z, up is +y. */
const wall: Part = panel('wall', 0);
wall.mesh.position.set([0, 0, 0, 0, 0, -1, 0, 1, 0, 0, 1, -1]);
wall.mesh.normal.set([1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0]);
wall.mesh.tangent.set([0, 0, -1, 1, 0, 0, -1, 1, 0, 0, -1, 1, 0, 0, -1, 1]);
const model: Model = { title: 'wall', lods: [[wall]] };

const directed = (v: readonly number[]): Image => {
  const image = makeImage({ width: SIDE, height: SIDE, channels: 3, depth: 16 });
  for (let i = 0; i < SIDE * SIDE; i++)
    image.data.set(
      v.map((c) => Math.round((c * 0.5 + 0.5) * 65535)),
      i * 3,
    );
  return image;
};

describe('normals of what a mesh wears', () => {
  let ports: Ports;
  let specimen: SpecimenDocument;
  const asset: AssetDocument = makeAsset('Wall', 'w', ['wall'], 's');
  const find = (surface: SurfaceDocument) => ({
    surface: (id: string) => (id === 's' ? surface : undefined),
    specimen: (id: string) => (id === 'w' ? specimen : undefined),
  });
  const surfaceWith = async (v: readonly number[], direction: 'y+' | 'y-' = 'y+'): Promise<SurfaceDocument> => ({
    kind: 'surface',
    version: 1,
    name: 'Skin',
    sizeM: 1,
    reliefM: 0,
    mid: 0.5,
    maps: { normal: { ...(await keepImage(ports, 'normal', directed(v), 'skin_N.png')), normalDirection: direction } },
    thumbnail: null,
    tone: '#888888',
    generator: null,
    notes: [],
  });
  const turn = (surface: SurfaceDocument, to: NormalSpace) =>
    turnedSurface(ports, planTurn(asset, { surface: 's', to }, find(surface)), to, () => undefined);
  const directionOf = async ({ maps }: SurfaceDocument): Promise<number[]> => {
    const { data } = await ports.codec.decode(await ports.blobs.get(maps.normal!.blob), 'data');
    const at = (SIDE / 2) * SIDE * 3 + (SIDE / 2) * 3;
    return [0, 1, 2].map((c) => (data[at + c] / 65535) * 2 - 1);
  };
  const close = (a: number[], b: number[]) => a.forEach((v, c) => expect(Math.abs(v - b[c])).toBeLessThan(1e-3));

  beforeEach(async () => {
    ports = memoryPorts();
    specimen = await broughtIn(ports, 'Wall', model);
  });

  it('are turned into tangents and back, and say along what they are', async () => {
    // Along the object: out of the wall and up, and out and to its right.
    for (const [object, tangent] of [
      [
        [0.8, 0.6, 0],
        [0, 0.6, 0.8],
      ],
      [
        [0.8, 0, -0.6],
        [0.6, 0, 0.8],
      ],
    ]) {
      const made = await turn(await surfaceWith(object), 'tangent');
      close(await directionOf(made), tangent);
      expect(made.maps.normal).toEqual(jasmine.objectContaining({ normalDirection: 'y+', fileName: 'skin_N_tangent.png', depth: 16 }));
      expect(made.maps.normal?.space).toBeUndefined();
      const back = await turn(made, 'object');
      close(await directionOf(back), object);
      expect(back.maps.normal?.space).toBe('object');
      close(await directionOf(await turn(back, 'tangent')), tangent);
    }
  });
  it('take green of tangents as it points in the file', async () => {
    close(await directionOf(await turn(await surfaceWith([0, -0.6, 0.8], 'y-'), 'object')), [0.8, 0.6, 0]);
  });
  it('are refused where nothing could turn them, with the reason', async () => {
    const surface = await surfaceWith([0, 0, 1]);
    const plan =
      (of: AssetDocument, body = surface, to: NormalSpace = 'tangent') =>
      () =>
        planTurn(of, { surface: 's', to }, find(body));
    expect(plan(makeAsset('Wall', 'w', ['wall'], ''))).toThrowError(UseCaseError, /No slot of a mesh that was brought in wears Skin/);
    expect(plan(makeAsset('Wall', 'cube', ['wall'], 's'))).toThrowError(/No slot of a mesh that was brought in/);
    expect(plan(asset, { ...surface, maps: {} })).toThrowError(/has no normal map/);
    const object = await turn(surface, 'object');
    expect(plan(asset, object, 'object')).toThrowError(/along the axes of the object already/);
    const tall = { ...surface, maps: { normal: await keepImage(ports, 'normal', makeImage({ width: 32, height: 16, channels: 3 }), 'tall.png') } };
    await expectAsync(turn(tall, 'tangent')).toBeRejectedWithError(UseCaseError, /tall\.png: A map of 32 × 16 is not square/);
  });
});
