import { Bvh, makeSpecimen, meshCurvature, numbered, openSky, spreadOver, withMeshFacts } from '../index';
import type { Mesh } from '../index';
import { grid, merged } from './mesh';

const nothing = () => undefined;
const sphere = (r: number, n = 48): Mesh =>
  grid(
    n,
    n / 2,
    (s, t) => ({
      p: [-r * Math.sin(Math.PI * t) * Math.cos(2 * Math.PI * s), r * Math.cos(Math.PI * t), r * Math.sin(Math.PI * t) * Math.sin(2 * Math.PI * s)],
      uv: [s, t],
    }),
    nothing,
  );
/** A floor that looks up. */
const floor = (half: number, y = 0, n = 8): Mesh =>
  grid(n, n, (s, t) => ({ p: [(s - 0.5) * 2 * half, y, (t - 0.5) * 2 * half], uv: [s, t] }), nothing);
const sky = (mesh: Mesh, at: Mesh = mesh, rays = 1024) => {
  const out = new Float32Array(at.position.length / 3);
  openSky(at, new Bvh(mesh), [0, out.length], out, rays);
  return out;
};

describe('the bend of a mesh', () => {
  it('is 1/r on a sphere and 1/2r on a cylinder, however long its faces, within 3 %', () => {
    const ball = sphere(0.4);
    const h = meshCurvature(ball);
    for (let i = 0; i < h.length; i++) if (Math.abs(ball.position[i * 3 + 1]) < 0.3) expect(Math.abs(h[i] * 0.4 - 1)).toBeLessThan(0.03);
    for (const rows of [4, 40]) {
      const pipe = grid(
        64,
        rows,
        (s, t) => ({ p: [-0.25 * Math.cos(2 * Math.PI * s), 1 - t, 0.25 * Math.sin(2 * Math.PI * s)], uv: [s, t] }),
        nothing,
      );
      meshCurvature(pipe).forEach((k, i) => {
        // The rims are open and say nothing.
        const rim = pipe.position[i * 3 + 1] < 1e-6 || pipe.position[i * 3 + 1] > 1 - 1e-6;
        if (rim) expect(k).toBe(0);
        else if (i % 65 !== 0 && i % 65 !== 64) expect(Math.abs(k * 0.5 - 1)).toBeLessThan(0.03);
      });
    }
  });
  it('is negative in hollows and 0 on a plane', () => {
    const bowl = sphere(0.4);
    const inside: Mesh = { ...bowl, normal: bowl.normal.map((v) => -v), index: bowl.index.slice().reverse() };
    const h = meshCurvature(inside);
    expect(h[24 * 12 + 49]).toBeLessThan(-2.3);
    expect(Math.max(...meshCurvature(floor(1)).map(Math.abs))).toBeLessThan(1e-6);
  });
});

describe('the open sky', () => {
  it('is all of it on a plane and half of it beside a tall wall', () => {
    expect(Math.min(...sky(floor(1)))).toBe(1);
    const spot: Mesh = { ...floor(0.001, 0, 1), position: new Float32Array([0, 0, 0.001, 0, 0, 0.001, 0, 0, 0.001, 0, 0, 0.001]) };
    const wall = grid(1, 1, (s, t) => ({ p: [(s - 0.5) * 2000, (1 - t) * 2000, 0], uv: [s, t] }), nothing);
    expect(sky(merged([wall, floor(1000)]), spot)[0]).toBeCloseTo(0.5, 1);
    expect(Math.abs(sky(wall, spot, 4096)[0] - 0.5)).toBeLessThan(0.01);
  });
  it('is 1 − R²/(R² + H²) under the middle of a disk', () => {
    const [r, h] = [0.7, 0.5];
    const disk = grid(96, 8, (s, t) => ({ p: [r * t * Math.cos(-2 * Math.PI * s), h, r * t * Math.sin(-2 * Math.PI * s)], uv: [s, t] }), nothing);
    const spot = { ...floor(0.5, 0, 2) };
    // The middle vertex of a grid of nine.
    expect(Math.abs(sky(disk, spot, 4096)[4] - (1 - (r * r) / (r * r + h * h)))).toBeLessThan(0.01);
  });
  it('is closed by what is above, however unevenly triangles lie', () => {
    // Each a half of the last: a tree over them is as deep as there are many.
    const strips = Array.from({ length: 90 }, (_, i) => {
      const [from, to] = [2 ** -i, 2 ** -(i + 1)];
      return grid(1, 1, (s, t) => ({ p: [from + (to - from) * s, 1, (0.5 - t) * 4], uv: [s, t] }), nothing);
    });
    const bvh = new Bvh(merged(strips));
    for (let i = 0; i < 20; i++)
      expect(bvh.blocked(0.75 * 2 ** -i, 0, 0, 0, 1, 0))
        .withContext(`strip ${i}`)
        .toBeTrue();
    expect(bvh.blocked(1.5, 0, 0, 0, 1, 0)).toBeFalse();
  });
  it('is worked out in parts as in one', () => {
    const still = makeSpecimen('copper-still', 1, 1);
    const bvh = new Bvh(still);
    const n = still.position.length / 3;
    const [whole, parts] = [new Float32Array(n), new Float32Array(n)];
    openSky(still, bvh, [0, n], whole, 16);
    for (let i = 0; i < n; i += 97) openSky(still, bvh, [i, Math.min(n, i + 97)], parts, 16);
    expect(parts).toEqual(whole);
    expect(Math.min(...whole)).toBeLessThan(0.4);
    expect(Math.max(...whole)).toBeGreaterThan(0.9);
  });
});

describe('places of a mesh', () => {
  it('know their part, and keep it when they learn more', () => {
    const two = numbered([floor(1, 0, 1), floor(1, 1, 1)]);
    const parts = (mesh: Mesh) => [...mesh.part!];
    expect(parts(two)).toEqual([0, 0, 0, 0, 1, 1, 1, 1]);
    const more = withMeshFacts(two, new Float32Array(8).fill(3), new Float32Array(8).fill(0.5));
    expect(parts(more)).toEqual(parts(two));
    expect([more.curvature![0], more.occlusion![0]]).toEqual([3, 0.5]);
  });
  it('are spread over a texture at the middles of its texels', () => {
    const mesh = numbered([floor(1, 0.5, 4)]);
    const page = mesh.texcoord.map((v) => v * 0.5);
    const { geometry, covered, footprint } = spreadOver(mesh, page, 32);
    for (let y = 0; y < 32; y++)
      for (let x = 0; x < 32; x++) {
        const at = y * 32 + x;
        expect(covered[at]).toBe(Number(x < 16 && y < 16));
        if (!covered[at]) continue;
        expect(geometry.position[at * 3]).toBeCloseTo(((x + 0.5) / 16 - 0.5) * 2, 3);
        expect(geometry.position[at * 3 + 2]).toBeCloseTo(((y + 0.5) / 16 - 0.5) * 2, 3);
        expect(geometry.texcoord[at * 2]).toBeCloseTo((x + 0.5) / 16, 3);
        expect(geometry.normal[at * 3 + 1]).toBeCloseTo(1, 6);
      }
    // One texel of thirty-two over half the page moves by a sixteenth of the extent.
    expect(footprint).toBeCloseTo(1 / 16, 6);
  });
});
