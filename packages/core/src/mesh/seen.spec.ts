import fc from 'fast-check';
import type { Mesh } from '../index';
import { clipMatrix, frameOrbit, looking, makeFlat, makeSpecimen, seenThrough } from '../index';

/** A level square of so many metres, its texture coordinate the place in metres. */
function square(metres: number, cells = 4): Mesh {
  const flat = makeFlat(0, cells);
  const position = flat.position.map((v, i) => (i % 3 === 1 ? 0 : (v - 0.5) * metres));
  const texcoord = Float32Array.from({ length: (position.length / 3) * 2 }, (_, i) => position[Math.floor(i / 2) * 3 + (i % 2) * 2]);
  return { ...flat, position, texcoord };
}

describe('what is seen of a mesh', () => {
  const size = { width: 48, height: 32 };
  it('lies where the line of sight through each pixel meets it, and is interpolated in perspective', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.2, max: 1.4, noNaN: true }), fc.double({ min: -3, max: 3, noNaN: true }), (pitch, yaw) => {
        const orbit = { ...frameOrbit(2), pitch, yaw, target: [0, 0, 0] as [number, number, number] };
        const clip = clipMatrix(orbit, size.width / size.height);
        const mesh = square(2);
        const { pixels, geometry, along } = seenThrough(mesh, mesh.position, clip, size, { culled: true });
        expect(pixels.length).toBeGreaterThan(20);
        pixels.forEach((at, n) => {
          const [x, , z] = geometry.position.subarray(n * 3, n * 3 + 3);
          const w = clip[3] * x + clip[11] * z + clip[15];
          const px = ((clip[0] * x + clip[8] * z + clip[12]) / w / 2 + 0.5) * size.width;
          const py = (0.5 - (clip[1] * x + clip[9] * z + clip[13]) / w / 2) * size.height;
          // Corners are rounded to parts of a pixel, which a flat angle draws out.
          expect(Math.abs(px - (at % size.width) - 0.5)).toBeLessThan(0.05);
          expect(Math.abs(py - Math.floor(at / size.width) - 0.5)).toBeLessThan(0.05);
          expect(Math.abs(geometry.texcoord[n * 2] - x)).toBeLessThan(1e-4);
          expect(Math.abs(geometry.texcoord[n * 2 + 1] - z)).toBeLessThan(1e-4);
        });
        // Any other attribute likewise.
        expect(along(mesh.texcoord, 2)).toEqual(geometry.texcoord);
      }),
      { numRuns: 30 },
    );
  });
  it('is sorted by how much of the texture a pixel covers: as two neighbours measure it', () => {
    const orbit = { ...frameOrbit(2), pitch: 0.5 };
    const mesh = square(2);
    const { pixels, geometry, groups } = seenThrough(mesh, mesh.position, clipMatrix(orbit, 1.5), size, { culled: true });
    expect(groups.map((g) => g.first)).toEqual([0, ...groups.slice(0, -1).map((g) => g.end)]);
    expect(groups.at(-1)?.end).toBe(pixels.length);
    const place = new Map(Array.from(pixels, (at, n) => [at, n]));
    const [u, v] = [0, 1].map((c) => (n: number) => geometry.texcoord[n * 2 + c]);
    let measured = 0;
    for (const { first, end, footprint } of groups)
      for (let n = first; n < end; n++) {
        const [right, down] = [place.get(pixels[n] + 1), place.get(pixels[n] + size.width)];
        if (right === undefined || down === undefined) continue;
        const real = Math.max(Math.hypot(u(right) - u(n), v(right) - v(n)), Math.hypot(u(down) - u(n), v(down) - v(n)));
        // Half a group to either side, and what changes over one pixel.
        expect(Math.abs(Math.log2(footprint / real))).toBeLessThan(0.45);
        measured++;
      }
    expect(measured).toBeGreaterThan(100);
  });
  it('is the nearest of what lies behind one another, and nothing that turns its back', () => {
    const near = square(2);
    const far = square(4);
    const count = near.position.length / 3;
    const join = (a: Float32Array, b: Float32Array) => Float32Array.from([...a, ...b]);
    const position = join(near.position.map((v, i) => (i % 3 === 1 ? 0.5 : v)) as Float32Array, far.position);
    const both: Mesh = {
      ...near,
      position,
      normal: join(near.normal, far.normal),
      tangent: join(near.tangent, far.tangent),
      texcoord: join(near.texcoord, far.texcoord),
      geomcolor: join(near.geomcolor, far.geomcolor),
      index: Uint32Array.from([...near.index, ...far.index.map((v) => v + count)]),
      curvature: undefined,
      occlusion: undefined,
      part: undefined,
      uv1: undefined,
      uv2: undefined,
    };
    const orbit = { ...frameOrbit(3), pitch: 1.5, yaw: 0, target: [0, 0, 0] as [number, number, number] };
    const clip = clipMatrix(orbit, 1.5);
    const { pixels, geometry } = seenThrough(both, position, clip, size, { culled: true });
    const middle = pixels.indexOf(16 * size.width + 24);
    expect(geometry.position[middle * 3 + 1]).toBeCloseTo(0.5, 3);
    expect([geometry.curvature[middle], geometry.occlusion[middle], geometry.part[middle]]).toEqual([0, 1, 0]);
    expect(geometry.uv2[middle * 2]).toBe(geometry.texcoord[middle * 2]);
    const below = { ...orbit, pitch: -1.2 };
    expect(seenThrough(both, position, clipMatrix(below, 1.5), size, { culled: true }).pixels.length).toBe(0);
    expect(seenThrough(both, position, clipMatrix(below, 1.5), size, { culled: false }).pixels.length).toBeGreaterThan(100);
    // Only some of its triangles.
    const some = seenThrough(both, position, clip, size, { culled: true, spans: [[near.index.length, far.index.length]] });
    expect(some.geometry.position[some.pixels.indexOf(16 * size.width + 24) * 3 + 1]).toBeCloseTo(0, 3);
  });
  it('may be looked for in pieces, which let others in between', () => {
    const wall = makeSpecimen('shed-wall', 2);
    const given = [wall, wall.position, clipMatrix(frameOrbit(2), 1.5), size, { culled: true }] as const;
    const steps = looking(...given);
    let pieces = 0;
    let step = steps.next();
    for (; !step.done; step = steps.next()) pieces++;
    expect(pieces).toBeGreaterThan(wall.index.length / 3 / 5000);
    const { pixels, geometry } = seenThrough(...given);
    expect(step.value.pixels).toEqual(pixels);
    expect(step.value.geometry).toEqual(geometry);
  });
  it('is the same however it is looked through: tiny triangles between pixels are passed over, not lost', () => {
    const patch = makeSpecimen('patch', 2.4);
    const clip = clipMatrix(frameOrbit(2.4), 1.5);
    const { pixels, geometry } = seenThrough(patch, patch.position, clip, size, { culled: true });
    expect(pixels.length).toBeGreaterThan(400);
    // A closed piece of ground has no holes: between the first and the last pixel of a row all are seen.
    const rows = new Map<number, number[]>();
    for (const at of pixels) rows.set(Math.floor(at / size.width), [...(rows.get(Math.floor(at / size.width)) ?? []), at % size.width]);
    for (const xs of rows.values()) expect(Math.max(...xs) - Math.min(...xs) + 1).toBe(xs.length);
    for (let n = 0; n < pixels.length; n++) {
      const [nx, ny, nz] = geometry.normal.subarray(n * 3, n * 3 + 3);
      expect(Math.hypot(nx, ny, nz)).toBeCloseTo(1, 5);
    }
  });
});
