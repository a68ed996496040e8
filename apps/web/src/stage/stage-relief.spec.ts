import type { Sources } from '@pebble/core';
import {
  MaterialPrograms,
  blendMaterial,
  makeBlend,
  makeImage,
  makeLayer,
  makeSpecimen,
  makeStack,
  sourcesOfMaps,
  vertexSpacing,
} from '@pebble/core';
import { StageRelief } from './stage-relief';

const blend = makeBlend('Ground', { extentM: 2, layers: { ground: makeLayer('ground', 'Ground', 1) } });
const material = blendMaterial(makeStack(blend, { ground: { sizeM: 2, reliefM: 0.1, mid: 0.5, roles: new Set(['height']) } }));
const height = makeImage({ width: 4, height: 4, channels: 1, depth: 16, data: new Uint16Array(16).fill(65535) });
const finder = sourcesOfMaps({ height }, true);
const sources: Sources = (_, channel) => finder(channel) as NonNullable<ReturnType<typeof finder>>;
const mesh = makeSpecimen('patch', 2);
const wait = (ms: number) => new Promise((r) => setTimeout(r, ms));

describe('relief on the stage', () => {
  it('moves every vertex by the height once nothing changes, only for the last of several changes', async () => {
    const moved: (Float32Array | null)[] = [];
    const relief = new StageRelief(new MaterialPrograms(), (p) => moved.push(p));
    for (let i = 0; i < 5; i++) relief.follow({ material, sources, mesh, spacingM: vertexSpacing(mesh) });
    for (let i = 0; i < 40 && !moved.length; i++) await wait(50);
    await wait(300);
    expect(moved.length).toBe(1);
    // The height is 1 everywhere: half of the relief above the middle, 50 mm along the normal.
    const [position] = moved as Float32Array[];
    for (let i = 0; i < position.length; i += 3 * 97) {
      const away = [0, 1, 2].map((c) => position[i + c] - mesh.position[i + c]);
      expect(Math.hypot(...away)).toBeCloseTo(0.05, 4);
      expect(away[0] * mesh.normal[i] + away[1] * mesh.normal[i + 1] + away[2] * mesh.normal[i + 2]).toBeCloseTo(0.05, 4);
    }
    relief.stop();
    relief.stop();
    expect(moved.slice(1)).toEqual([null]);
  });
  it('leaves the vertices on which another blend lies where they are', async () => {
    const moved: (Float32Array | null)[] = [];
    const relief = new StageRelief(new MaterialPrograms(), (p) => moved.push(p));
    const own = Uint8Array.from({ length: mesh.position.length / 3 }, (_, i) => i % 2);
    relief.follow({ material, sources, mesh, spacingM: vertexSpacing(mesh) }, own);
    for (let i = 0; i < 60 && !moved.length; i++) await wait(50);
    const [position] = moved as Float32Array[];
    const away = (v: number) => Math.hypot(...[0, 1, 2].map((c) => position[v * 3 + c] - mesh.position[v * 3 + c]));
    expect(away(500)).toBe(0);
    expect(away(501)).toBeCloseTo(0.05, 4);
    relief.stop();
  });
  it('says nothing when it is stopped before anything moved', async () => {
    const moved: (Float32Array | null)[] = [];
    const relief = new StageRelief(new MaterialPrograms(), (p) => moved.push(p));
    relief.follow({ material, sources, mesh, spacingM: 0.02 });
    relief.stop();
    await wait(400);
    expect(moved).toEqual([]);
  });
});
