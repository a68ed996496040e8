import {
  MaterialPrograms,
  blendMaterial,
  displaced,
  makeBlend,
  makeImage,
  makeLayer,
  makeSpecimen,
  makeStack,
  sampleRelief,
  sourcesOfMaps,
  vertexSpacing,
} from '../index';
import type { Sources } from '../index';

const blend = makeBlend('Ground', { extentM: 2, specimen: 'cube', layers: { ground: makeLayer('ground', 'Ground', 1) } });
const material = blendMaterial(makeStack(blend, { ground: { sizeM: 2, reliefM: 0.1, mid: 0.5, roles: new Set(['height']) } }));
const side = 64;
/** Height t = u, so that metres are (u − ½) · 0.1. */
const height = makeImage({
  width: side,
  height: side,
  channels: 1,
  depth: 16,
  data: Uint16Array.from({ length: side * side }, (_, i) => (((i % side) + 0.5) / side) * 65535),
});
const finder = sourcesOfMaps({ height }, true);
const ramp: Sources = (_, channel) => finder(channel) as NonNullable<ReturnType<typeof finder>>;

describe('relief on a specimen', () => {
  it('is the height of the blend at every vertex, in any number of parts', () => {
    const mesh = makeSpecimen('cube', 2);
    const count = mesh.position.length / 3;
    const [whole, parts] = [new Float32Array(count), new Float32Array(count)];
    const of = { material, sources: ramp, mesh, spacingM: vertexSpacing(mesh) };
    sampleRelief(new MaterialPrograms(), of, [0, count], whole);
    const programs = new MaterialPrograms();
    for (let first = 0; first < count; first += 700) sampleRelief(programs, of, [first, Math.min(count, first + 700)], parts);
    expect(parts).toEqual(whole);
    for (let i = 0; i < count; i += 53) {
      const u = mesh.texcoord[i * 2] - Math.floor(mesh.texcoord[i * 2]);
      if (u > 0.05 && u < 0.95) expect(whole[i]).toBeCloseTo((u - 0.5) * 0.1, 3);
    }
  });
  it('moves vertices along their normals, and those at one place together', () => {
    const mesh = makeSpecimen('cube', 2);
    const count = mesh.position.length / 3;
    const heights = Float32Array.from({ length: count }, (_, i) => 0.01 * Math.sin(i));
    const moved = displaced(mesh, heights);
    const places = new Map<string, number[]>();
    for (let i = 0; i < count; i++) {
      const key = [0, 1, 2].map((c) => Math.round(mesh.position[i * 3 + c] * 20000)).join();
      places.set(key, [...(places.get(key) ?? []), i]);
    }
    let shared = 0;
    for (const [first, ...rest] of places.values()) {
      if (!rest.length)
        for (let c = 0; c < 3; c++)
          expect(moved[first * 3 + c]).toBeCloseTo(mesh.position[first * 3 + c] + mesh.normal[first * 3 + c] * heights[first], 6);
      for (const other of rest) {
        shared++;
        for (let c = 0; c < 3; c++) expect(Math.abs(moved[first * 3 + c] - moved[other * 3 + c])).toBeLessThan(6e-5);
      }
    }
    expect(shared).toBeGreaterThan(200);
  });
  it('knows how close vertices are: 96 columns over 2.4 m are 25 mm apart', () => {
    expect(vertexSpacing(makeSpecimen('patch', 2.4))).toBeCloseTo(0.0252, 3);
  });
});
