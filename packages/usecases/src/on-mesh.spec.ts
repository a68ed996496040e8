import type { BlendSurface, MapSet } from '@pebble/core';
import {
  BLEND_ROLES,
  SectionCutter,
  blendMaterial,
  VertexPainter,
  finerTimes,
  SpreadGround,
  boundsOf,
  MESH_INPUTS,
  extentGround,
  generateSurface,
  levelMesh,
  makeBlend,
  makeCue,
  makeLayer,
  makeSpecimen,
  makeStack,
  SPECIMEN_MODELS,
  spreadOver,
  withSets,
} from '@pebble/core';
import { evaluateSquare, ingredients, liesOn, sourcesOf } from './index';
import { blendMesh, evaluateOnMesh, knowMeshFacts } from './on-mesh';
import { memoryPorts } from './testing/memory';

const quiet = () => undefined;
const made = { stone: generateSurface('terrace-stone', { seed: 2, size: 64 }), moss: generateSurface('cushion-moss', { seed: 5, size: 64 }) };
const surfaces: Record<string, BlendSurface> = Object.fromEntries(
  Object.entries(made).map(([id, s]) => [id, { ...s.facts, roles: new Set(BLEND_ROLES) as BlendSurface['roles'] }]),
);
const slots: MapSet[] = [made.stone.maps, made.moss.maps];
const blend = makeBlend('Step', {
  layers: {
    a: makeLayer('stone', 'Stone', 1),
    b: makeLayer('moss', 'Moss', 2, {
      coverage: { s: makeCue('slope', { order: 1, centre: 14, width: 6 }), g: makeCue('vertexColour', { order: 2, join: 'or', channel: 'g' }) },
    }),
  },
});
const stack = makeStack(blend, surfaces);
const square = async (of: typeof stack, on: Awaited<ReturnType<typeof liesOn>> | null, size: number) =>
  evaluateSquare({}, { material: blendMaterial(of, { standing: on?.standing }), on }, ingredients(slots), size, ['height'], quiet);

describe('a blend on what it lies on', () => {
  it('is evaluated over its square as the flat view and the section show it', async () => {
    const size = 64;
    const on = await liesOn(memoryPorts(), blend, {});
    const { height } = await square(stack, on, size);
    // A cut through the middles of row 20, by the ground that the flat view has.
    const ground = new SpreadGround(makeSpecimen('patch', blend.extentM));
    const cut = { ax: 0, ay: 20.5 / size, bx: 1, by: 20.5 / size };
    const section = new SectionCutter().cut(blendMaterial(stack, { standing: on.standing }), cut, sourcesOf(ingredients(slots), true), size, ground);
    const metres = (v: number) => stack.lo + (v / 65535) * (stack.hi - stack.lo);
    let far = 0;
    for (let x = 0; x < size; x++) if (Math.abs(metres(height!.data[20 * size + x]) - section.height[x]) > 0.002) far++;
    // Two rasters of the mesh differ by less than a texel: at the edge of a seam that may be another layer.
    expect(far).toBeLessThan(4);
    // On a plane all of it would be level, and moss.
    const plane = await square(stack, null, size);
    expect(plane.height!.data).not.toEqual(height!.data);
  });
  it('knows its mesh band by band as in one', () => {
    const mesh = makeSpecimen('patch', 2.4);
    const of = (rows: readonly [number, number]) => extentGround(mesh, 40, rows).geometry;
    const whole = of([0, 40]);
    const [upper, lower] = [of([0, 17]), of([17, 40])];
    for (const name of MESH_INPUTS) expect(Float32Array.of(...upper[name], ...lower[name])).toEqual(whole[name]);
    const page = mesh.texcoord.map((v) => v * 0.6);
    const all = spreadOver(mesh, page, 40);
    expect(Uint8Array.of(...spreadOver(mesh, page, 40, [0, 9]).covered, ...spreadOver(mesh, page, 40, [9, 40]).covered)).toEqual(all.covered);
  });
  it('heeds the unit of a mesh that was brought in, and which way is up in it', () => {
    const model = SPECIMEN_MODELS['marker-stone'](1);
    const [metres, inches] = [blendMesh(model, 2.4), blendMesh(model, 2.4, { unitM: 0.0254, up: 'y' })];
    const tall = ({ mesh }: typeof metres) => boundsOf(mesh).hi[1] - boundsOf(mesh).lo[1];
    expect(tall(inches) / tall(metres)).toBeCloseTo(0.0254, 4);
    expect(inches.sideM / metres.sideM).toBeCloseTo(0.0254, 3);
    const turned = blendMesh(model, 2.4, { unitM: 1, up: 'z' });
    expect(tall(turned)).toBeLessThan(tall(metres) / 2);
    expect(turned.standing.parts).toEqual(['stone']);
  });
  it('knows both sets of a mesh as they came, on its vertices, on finer ones, and on the ground', () => {
    const model = SPECIMEN_MODELS['marker-stone'](1);
    const lods = model.lods.map((parts) => parts.map((part) => withSets(part, [part.mesh.texcoord, part.mesh.texcoord.map((v) => 3 - 2 * v)])));
    const { mesh } = blendMesh({ ...model, lods }, 2.4, undefined, { set: 0 });
    // Coordinates are in extents there, by one factor all over.
    const far = mesh.texcoord.reduce((best, v, i) => (Math.abs(v) > Math.abs(mesh.texcoord[best]) ? i : best), 0);
    const times = (mesh.uv1 as Float32Array)[far] / mesh.texcoord[far];
    const holds = ({ texcoord, uv1, uv2 }: { texcoord: Float32Array; uv1?: Float32Array; uv2?: Float32Array }, on: Uint8Array | null = null) => {
      let worst = 0;
      for (let i = 0; i < texcoord.length / 2; i++)
        for (let c = 0; c < 2; c++) {
          if (on && !on[i]) continue;
          const came = texcoord[i * 2 + c] * times;
          worst = Math.max(worst, Math.abs((uv1 as Float32Array)[i * 2 + c] - came), Math.abs((uv2 as Float32Array)[i * 2 + c] - (3 - 2 * came)));
        }
      return worst;
    };
    expect(mesh.uv2?.length).toBe((mesh.position.length / 3) * 2);
    expect(holds(mesh)).toBeLessThan(1e-5);
    expect(holds(finerTimes(mesh, 1))).toBeLessThan(1e-5);
    const { geometry, covered } = spreadOver(mesh, mesh.texcoord, 64);
    expect(covered.some((v) => v > 0)).toBeTrue();
    expect(holds(geometry, covered)).toBeLessThan(1e-4);
  });
  it('lies on the specimen as it was painted, made finer where it was', async () => {
    const ports = memoryPorts();
    const painter = new VertexPainter(finerTimes(makeSpecimen('patch', blend.extentM), 1));
    painter.fill('g', 1);
    const tiles: Record<string, string> = {};
    for (const { tile, bytes } of painter.takeUnkept()) tiles[tile] = await ports.blobs.put(bytes, 'application/octet-stream');
    const paint = { patch: { vertices: painter.vertices, finer: 1, tiles } };
    const { mesh } = await liesOn(ports, { ...blend, paint }, {});
    expect(mesh.position.length / 3).toBe(painter.vertices);
    for (let i = 0; i < mesh.geomcolor.length; i += 4) expect(mesh.geomcolor[i + 1]).toBe(1);
    // Green everywhere is moss everywhere, whatever the slope.
    const size = 32;
    const maps = async (document: typeof blend) => (await square(stack, await liesOn(ports, document, {}), size)).height!.data;
    const [bare, green] = [await maps(blend), await maps({ ...blend, paint })];
    expect(green).not.toEqual(bare);
    const moss = makeStack({ ...blend, layers: { ...blend.layers, b: { ...blend.layers['b'], coverage: {} } } }, surfaces);
    expect(green).toEqual((await square(moss, await liesOn(ports, blend, {}), size)).height!.data);
    const other = { patch: { ...paint.patch, finer: 0 } };
    await expectAsync(liesOn(ports, { ...blend, paint: other }, {})).toBeRejectedWithError(
      /painted on 37,249 vertices and the specimen has 9,409 now/,
    );
  });
  it('says what cannot be baked: no coordinates, or too many vertices for the sky', () => {
    const bare = { title: 'Bare', lods: [[{ ...SPECIMEN_MODELS['marker-stone'](1).lods[1][0], sets: [] }]] };
    expect(() => blendMesh(bare, 1)).toThrowError(/stone has no texture coordinates in set 0/);
    const far = blendMesh(SPECIMEN_MODELS['marker-stone'](1), 1, undefined, { level: 1 });
    expect(() =>
      evaluateOnMesh(blendMaterial(stack), ingredients(slots), { ...far, page: far.page.map((v) => v + 9) }, 16, ['roughness'], quiet),
    ).toThrowError(/outside 0 to 1/);
    const wall = levelMesh(SPECIMEN_MODELS['shed-wall'](1));
    const many = { ...wall, position: new Float32Array(60_001 * 3), index: new Uint32Array() };
    expect(() => knowMeshFacts(many, ['occlusion'], quiet)).toThrowError(/up to 60,000 vertices; this mesh has 60,001/);
  });
});
