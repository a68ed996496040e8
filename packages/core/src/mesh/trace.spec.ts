import { Bvh, eyeOf, frameBounds, boundsOf, makeSpecimen, seenFrom, traceLine, wornAt } from '../index';

/** A square of two triangles at x, y from 0 to 1, facing +z, worn by texture coordinates of the same numbers. */
const square = {
  position: Float32Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0),
  texcoord: Float32Array.of(0, 0, 1, 0, 1, 1, 0, 1),
  index: Uint32Array.of(0, 1, 2, 0, 2, 3),
};

describe('a line of texture space on a mesh', () => {
  it('lies where the coordinates say, without gaps, after whole repetitions where it must, and nowhere beyond', () => {
    const { ends, along } = traceLine(square, [-1.5, 0.25], [0.5, 0.75]);
    // Repeated one each way, the square begins at −1: at a quarter of the line.
    expect(along[0]).toBeCloseTo(0.25, 6);
    expect(along.at(-1)).toBeCloseTo(1, 6);
    for (let i = 0; i < along.length; i++) {
      const s = along[i];
      const [x, y, z] = ends.subarray(i * 3, i * 3 + 3);
      expect(x).toBeCloseTo(s < 0.75 - 1e-6 || (s < 0.75 + 1e-6 && i % 2) ? -0.5 + 2 * s : -1.5 + 2 * s, 5);
      expect(y).toBeCloseTo(0.25 + 0.5 * s, 5);
      expect(z).toBe(0);
      if (i % 2 && i + 1 < along.length) expect(along[i + 1]).toBeCloseTo(along[i], 6);
    }
    // A place beside the mesh is looked for after whole repetitions, one each way.
    const again = traceLine(square, [1.25, 0.5], [1.75, 0.5]);
    expect([again.ends[0], again.ends[1]]).toEqual([0.25, 0.5]);
    expect(traceLine(square, [2.2, 2.2], [3, 3]).triangles.length).toBe(0);
    expect(traceLine({ ...square, texcoord: new Float32Array(8) }, [-1, 0], [1, 0]).triangles.length).toBe(0);
  });
  it('is found on specimens at the places whose coordinates it has', () => {
    for (const name of ['patch', 'sphere', 'cube', 'path-slab'] as const) {
      const mesh = makeSpecimen(name, 1);
      const { triangles, ends, along } = traceLine(mesh, [0.1, 0.05], [0.9, 0.2]);
      expect(triangles.length).withContext(name).toBeGreaterThan(0);
      for (let i = 0; i < triangles.length; i += 7) {
        const s = (along[i * 2] + along[i * 2 + 1]) / 2;
        const middle = [0, 1, 2].map((c) => (ends[i * 6 + c] + ends[i * 6 + 3 + c]) / 2);
        const [a, b, c] = [0, 1, 2].map((k) => mesh.index[triangles[i] * 3 + k]);
        // The same place, from the plane of its triangle: areas against areas.
        const at = (v: number) => mesh.position.subarray(v * 3, v * 3 + 3);
        const area = (p: ArrayLike<number>, q: ArrayLike<number>, r: ArrayLike<number>) => {
          const [e, f] = [q, r].map((x) => [0, 1, 2].map((d) => x[d] - p[d]));
          return Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]);
        };
        const whole = area(at(a), at(b), at(c));
        const shares = [area(middle, at(b), at(c)), area(at(a), middle, at(c)), area(at(a), at(b), middle)].map((x) => x / whole);
        expect(shares.reduce((x, y) => x + y)).toBeCloseTo(1, 2);
        for (const d of [0, 1])
        // Repetitions of a texture are the same place of it.
        {
          const off = [a, b, c].reduce((sum, v, k) => sum + shares[k] * mesh.texcoord[v * 2 + d], 0) - (d ? 0.05 + 0.15 * s : 0.1 + 0.8 * s);
          expect(off - Math.round(off))
            .withContext(name)
            .toBeCloseTo(0, 2);
        }
      }
    }
  });
});

describe('a place of texture space on a mesh', () => {
  it('is found, or is nowhere', () => {
    expect(wornAt(square, 0.25, 0.75)?.place.map((v) => +v.toFixed(6))).toEqual([0.25, 0.75, 0]);
    expect(wornAt(square, 0.25, 1.25)?.place.map((v) => +v.toFixed(6))).toEqual([0.25, 0.25, 0]);
    expect(wornAt(square, 0.25, 2.5)).toBeNull();
  });
  it('is seen from before it where nothing lies between', () => {
    const tree = new Bvh(square);
    const of = (place: [number, number, number], eye: [number, number, number], t: typeof tree | null = tree) => seenFrom(square, 0, place, eye, t);
    expect([of([0.7, 0.3, 0], [0.7, 0.3, 2]), of([0.7, 0.3, 0], [0.7, 0.3, -2])]).toEqual([true, false]);
    const screen = new Bvh({ ...square, position: square.position.map((v, i) => (i % 3 === 2 ? 1 : v)) });
    expect([of([0.7, 0.3, 0], [0.7, 0.3, 2], screen), of([0.7, 0.3, 0], [0.7, 0.3, 0.9], screen)]).toEqual([false, true]);
    expect(of([0.7, 0.3, 0], [0.7, 0.3, 2], null)).toBe(true);
  });
  it('on the front of a round thing is seen, at its back it is not', () => {
    const mesh = makeSpecimen('sphere', 1);
    const tree = new Bvh(mesh);
    const eye = [...eyeOf(frameBounds(boundsOf(mesh)))] as [number, number, number];
    let [front, back] = [0, 0];
    for (let t = 0; t < mesh.index.length / 3; t += 11) {
      const middle = [0, 1, 2].map((c) => [0, 1, 2].reduce((s, k) => s + mesh.position[mesh.index[t * 3 + k] * 3 + c] / 3, 0)) as [
        number,
        number,
        number,
      ];
      const outwards = middle.reduce((s, v, c) => s + v * (eye[c] - v), 0);
      const length = Math.hypot(...middle) * Math.hypot(...eye.map((v, c) => v - middle[c]));
      // Near the outline it is either.
      if (Math.abs(outwards / length) < 0.15) continue;
      const seen = seenFrom(mesh, t, middle, eye, tree);
      expect(seen).toBe(outwards > 0);
      if (seen) front++;
      else back++;
    }
    expect(Math.min(front, back)).toBeGreaterThan(20);
  });
});
