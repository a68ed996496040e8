import { fullScale, makeImage, spreadOver, turnedNormals } from '../index';
import type { Image, Mesh } from '../index';
import type { Vector } from './mesh';
import { grid } from './mesh';

const SIZE = 96;
const plain = () => undefined;
/** A bent direction that every place of space has: what an object-space map of any mesh may hold. */
const wanted = ([x, y, z]: readonly number[], n: readonly number[]): number[] => {
  const bent = [n[0] + 0.35 * Math.sin(5 * y + 1), n[1] + 0.35 * Math.sin(4 * z), n[2] + 0.35 * Math.sin(6 * x + 2)];
  const l = Math.hypot(...bent);
  return bent.map((v) => v / l);
};
const box = (u: number, v: number, w: number) => [u, v, w] as const;

/** A cylinder that closes upon itself: its seam is where u is 0 and 1. */
const cylinder = (): Mesh =>
  grid(
    48,
    12,
    (s, t) => ({ p: [Math.sin(s * 2 * Math.PI), 1 - 2 * t, Math.cos(s * 2 * Math.PI)] as Vector, uv: [0.03 + s * 0.94, 0.05 + t * 0.9] }),
    plain,
  );
/** Two sides of a cube that share an edge in space, apart on the map, one of them mirrored and turned. */
const corner = (): { mesh: Mesh; page: Float32Array }[] => {
  const front = grid(8, 8, (s, t) => ({ p: box(s, 1 - t, 0), uv: [0.04 + 0.4 * s, 0.04 + 0.4 * t] }), plain);
  const side = grid(8, 8, (s, t) => ({ p: box(1, 1 - t, -s), uv: [0.55 + 0.4 * t, 0.95 - 0.4 * s] }), plain);
  // Turned on the map: its tangents are what u grows along there.
  const tangent = new Float32Array(side.tangent.length);
  for (let i = 0; i < tangent.length; i += 4) tangent.set([0, -1, 0, 1], i);
  return [front, { ...side, tangent }].map((mesh) => ({ mesh, page: mesh.texcoord }));
};

/** The object-space map of a mesh, as a baker would write it. */
function objectMap(mesh: Mesh, depth: 8 | 16 | 32): Image {
  const { geometry, covered } = spreadOver(mesh, mesh.texcoord, SIZE);
  const full = fullScale(depth);
  const image = makeImage({ width: SIZE, height: SIZE, channels: 3, depth });
  for (let i = 0; i < SIZE * SIZE; i++) {
    if (!covered[i]) continue;
    const at = (of: Float32Array) => [of[i * 3], of[i * 3 + 1], of[i * 3 + 2]];
    wanted(at(geometry.position), at(geometry.normal)).forEach((v, c) => {
      const coded = v * 0.5 + 0.5;
      image.data[i * 3 + c] = depth === 32 ? coded : Math.round(coded * full);
    });
  }
  return image;
}
/** Directions in space that a tangent-space map lights by, written here from the frame that glTF has: t, b = n × t · w, n. */
function lit(map: Image, mesh: Mesh): (i: number) => number[] {
  const { geometry } = spreadOver(mesh, mesh.texcoord, SIZE);
  const full = fullScale(map.depth);
  return (i) => {
    const n = [0, 1, 2].map((c) => geometry.normal[i * 3 + c]);
    const ln = Math.hypot(...n);
    const unitN = n.map((v) => v / ln);
    const a = [0, 1, 2].map((c) => geometry.tangent[i * 4 + c]);
    const d = a.reduce((s, v, c) => s + v * unitN[c], 0);
    const raw = a.map((v, c) => v - d * unitN[c]);
    const lt = Math.hypot(...raw);
    const t = raw.map((v) => v / lt);
    const w = Math.sign(geometry.tangent[i * 4 + 3]) || 1;
    const b = [unitN[1] * t[2] - unitN[2] * t[1], unitN[2] * t[0] - unitN[0] * t[2], unitN[0] * t[1] - unitN[1] * t[0]].map((v) => v * w);
    const v = [0, 1, 2].map((c) => (map.data[i * 3 + c] / full) * 2 - 1);
    return [0, 1, 2].map((c) => t[c] * v[0] + b[c] * v[1] + unitN[c] * v[2]);
  };
}
const degrees = (a: readonly number[], b: readonly number[]) =>
  (Math.acos(Math.min(1, a.reduce((s, v, c) => s + v * b[c], 0) / (Math.hypot(...a) * Math.hypot(...b)))) * 180) / Math.PI;

describe('normals of an object', () => {
  const meshes: [string, Mesh][] = [
    ['a cylinder', cylinder()],
    ...corner().map(({ mesh }, i): [string, Mesh] => [`side ${i + 1} of a corner`, mesh]),
  ];
  for (const [name, mesh] of meshes)
    it(`of ${name} light alike in the space of tangents, and come back`, () => {
      for (const [depth, most] of [
        [8, 1.2],
        [16, 0.01],
        [32, 0.05],
      ] as const) {
        const object = objectMap(mesh, depth);
        const { geometry, covered } = spreadOver(mesh, mesh.texcoord, SIZE);
        const tangent = turnedNormals(object, mesh, mesh.texcoord, 'tangent');
        const at = lit(tangent, mesh);
        const back = turnedNormals(tangent, mesh, mesh.texcoord, 'object');
        let [worst, returned] = [0, 0];
        for (let i = 0; i < covered.length; i++) {
          if (!covered[i]) continue;
          const place = (of: Float32Array) => [of[i * 3], of[i * 3 + 1], of[i * 3 + 2]];
          const meant = wanted(place(geometry.position), place(geometry.normal));
          worst = Math.max(worst, degrees(at(i), meant));
          const full = fullScale(depth);
          returned = Math.max(
            returned,
            degrees(
              [0, 1, 2].map((c) => (back.data[i * 3 + c] / full) * 2 - 1),
              meant,
            ),
          );
        }
        expect(worst).withContext(`${depth} bits`).toBeLessThan(most);
        expect(returned)
          .withContext(`${depth} bits, there and back`)
          .toBeLessThan(2 * most);
        // Beyond the islands what is next to them goes on.
        const beside = covered.findIndex((c, i) => !c && i % SIZE > 0 && i % SIZE < SIZE - 1 && covered[i - 1] === 1);
        if (beside > 0) expect([...tangent.data.slice(beside * 3, beside * 3 + 3)]).toEqual([...tangent.data.slice(beside * 3 - 3, beside * 3)]);
      }
    });
  it('step no farther across a seam than inside: where a cylinder closes, from its last column to its first', () => {
    const mesh = cylinder();
    const at = lit(turnedNormals(objectMap(mesh, 16), mesh, mesh.texcoord, 'tangent'), mesh);
    const { covered } = spreadOver(mesh, mesh.texcoord, SIZE);
    const inside: number[] = [];
    const across: number[] = [];
    for (let y = 8; y < SIZE - 8; y++) {
      const row = Array.from({ length: SIZE }, (_, x) => y * SIZE + x).filter((i) => covered[i]);
      for (let k = 1; k < row.length; k++) inside.push(degrees(at(row[k]), at(row[k - 1])));
      across.push(degrees(at(row[0]), at(row[row.length - 1])));
    }
    inside.sort((a, b) => a - b);
    across.sort((a, b) => a - b);
    const p99 = (list: number[]) => list[Math.floor(list.length * 0.99)];
    // The last column lies between half a texel and one and a half from the first.
    expect(p99(across)).toBeLessThan(1.5 * p99(inside));
  });
  it('are refused where a map is not square, holds no directions, or does not lie on the mesh', () => {
    const mesh = cylinder();
    const of = (width: number, height: number, channels: number) => makeImage({ width, height, channels });
    expect(() => turnedNormals(of(8, 4, 3), mesh, mesh.texcoord, 'tangent')).toThrowError(RangeError, /8 × 4 is not square/);
    expect(() => turnedNormals(of(8, 8, 2), mesh, mesh.texcoord, 'tangent')).toThrowError(RangeError, /three are wanted/);
    expect(() =>
      turnedNormals(
        of(8, 8, 3),
        mesh,
        mesh.texcoord.map((v) => v + 3),
        'tangent',
      ),
    ).toThrowError(RangeError, /outside 0 to 1/);
  });
});
