import fc from 'fast-check';
import type { Image, MapSet, Stamp, StampSurface } from '../index';
import {
  DEFAULT_STAMP,
  Stamper,
  VertexPainter,
  MeshMaskPainter,
  linearToSrgb,
  makeImage,
  makePatch,
  parseStrokes,
  replayStrokes,
  srgbToLinear,
  stampShare,
} from '../index';
import type { Unwrapped, Vector } from './testing/unwrapped';
import { cube, square, tube } from './testing/unwrapped';

const SIDE = 128;
const cross = (a: readonly number[], b: readonly number[]) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const unit = (v: readonly number[]) => v.map((c) => c / Math.hypot(...v));
/** A mesh of flat quads with the frames that its coordinates give: the tangent where u grows, Y+ against v. */
function framed(mesh: Unwrapped) {
  const count = mesh.position.length / 3;
  const [normal, tangent] = [new Float32Array(count * 3), new Float32Array(count * 4)];
  for (let q = 0; q < count; q += 4) {
    const at = (k: number) => [0, 1, 2].map((c) => mesh.position[(q + k) * 3 + c]);
    const uv = (k: number) => [mesh.uv[(q + k) * 2], mesh.uv[(q + k) * 2 + 1]];
    const [e, f] = [at(1).map((v, c) => v - at(0)[c]), at(3).map((v, c) => v - at(0)[c])];
    const [du, dv] = [uv(1).map((v, c) => v - uv(0)[c]), uv(3).map((v, c) => v - uv(0)[c])];
    const det = du[0] * dv[1] - du[1] * dv[0];
    const t = unit(e.map((v, c) => (v * dv[1] - f[c] * du[1]) / det));
    const b = unit(e.map((v, c) => -(f[c] * du[0] - v * dv[0]) / det));
    const n = unit(cross(e, f));
    const sign = cross(n, t).reduce((sum, v, c) => sum + v * b[c], 0) < 0 ? -1 : 1;
    for (let k = 0; k < 4; k++) {
      normal.set(n, (q + k) * 3);
      tangent.set([...t, sign], (q + k) * 4);
    }
  }
  return { ...mesh, normal, tangent };
}
const even = (channels: number, values: number[], srgb = false, side = SIDE): Image => {
  const image = makeImage({ width: side, height: side, channels, colourSpace: srgb ? 'srgb' : 'data' });
  for (let i = 0; i < side * side; i++) image.data.set(values, i * channels);
  return image;
};
const skin = (): MapSet => ({
  baseColor: even(3, [120, 110, 100], true),
  normal: even(3, [128, 128, 255]),
  roughness: even(1, [200]),
  height: even(1, [128]),
});
const GROUND = { reliefM: 0.02, mid: 0.5 };
const stampOf = (at: Vector, over: Partial<Stamp> = {}): Stamp => ({ ...DEFAULT_STAMP, at, byHeight: 0, offset: [0, 0], ...over });

describe('a stamp', () => {
  it('lays a patch at its size and turn, mixed in linear light, and leaves what its surface lacks as it was', () => {
    const shades = makeImage({ width: 64, height: 64, channels: 3, colourSpace: 'srgb' });
    for (let i = 0; i < 64 * 64; i++) shades.data.set([60 + (i % 64) * 2, 60 + Math.floor(i / 64) * 2, 90], i * 3);
    const surface: StampSurface = { maps: { baseColor: shades }, sizeM: 2, reliefM: 0, mid: 0.5 };
    fc.assert(
      fc.property(
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.double({ min: 0.5, max: 2, noNaN: true }),
        fc.double({ min: 0.2, max: 1, noNaN: true }),
        (turn, scale, strength) => {
          const maps = skin();
          const roughness = maps.roughness!.data.slice();
          const stamper = new Stamper(framed(square), maps, GROUND);
          expect(stamper.press(stampOf([0.1, 0, -0.2], { radiusM: 0.4, falloff: 0, turn, scale, strength }), surface)).toBeGreaterThan(500);
          expect(maps.roughness!.data).toEqual(roughness);
          for (let i = 0; i < SIDE * SIDE; i += 11) {
            const [x, z] = [((i % SIDE) + 0.5) / (SIDE / 2) - 1, (Math.floor(i / SIDE) + 0.5) / (SIDE / 2) - 1];
            const [dx, dz] = [x - 0.1, z + 0.2];
            const away = Math.hypot(dx, dz);
            if (Math.abs(away - 0.4) < 0.02) continue;
            // North is up, east right; a turn goes from up to the right.
            const a = (dx * Math.cos(turn) + dz * Math.sin(turn)) / (2 * scale);
            const b = (-dx * Math.sin(turn) + dz * Math.cos(turn)) / (2 * scale);
            const [u, v] = [a - Math.floor(a), b - Math.floor(b)];
            // Away from where the shades begin again.
            if (Math.min(u, v, 1 - u, 1 - v) < 1 / 64) continue;
            const want = [60 + (u * 64 - 0.5) * 2, 60 + (v * 64 - 0.5) * 2, 90].map((value, c) => {
              const was = srgbToLinear([120, 110, 100][c] / 255);
              return away > 0.4 ? [120, 110, 100][c] : 255 * linearToSrgb(was + (srgbToLinear(value / 255) - was) * strength);
            });
            for (let c = 0; c < 3; c++) expect(Math.abs(maps.baseColor!.data[i * 3 + c] - want[c])).toBeLessThan(1.5);
          }
        },
      ),
      { numRuns: 12 },
    );
  });
  it('turns normals into the tangents of every island: in the world they all look the same way', () => {
    const mesh = framed(cube());
    const maps = { normal: even(3, [128, 128, 255], false, 256) };
    const lean = [0.4, -0.3, Math.sqrt(1 - 0.25)];
    const surface: StampSurface = {
      maps: {
        normal: even(
          3,
          lean.map((v) => Math.round((v * 0.5 + 0.5) * 255)),
        ),
      },
      sizeM: 1,
      reliefM: 0,
      mid: 0.5,
    };
    const stamper = new Stamper(mesh, maps, GROUND);
    const { position, normal, tangent, uv } = mesh;
    for (let q = 0; q < position.length / 3; q += 4) {
      const n = [0, 1, 2].map((c) => normal[q * 3 + c]);
      const middle = [0, 1, 2].map((c) => (position[q * 3 + c] + position[(q + 2) * 3 + c]) / 2) as unknown as Vector;
      stamper.press(stampOf(middle, { radiusM: 0.3, falloff: 0 }), surface);
      // Up the side, or north where it looks up or down.
      const up = Math.abs(n[1]) > 0.9 ? [0, 0, -1] : [0, 1, 0];
      const right = cross(up, n);
      const want = unit([0, 1, 2].map((c) => right[c] * lean[0] + up[c] * lean[1] + n[c] * lean[2]));
      const [u, v] = [0, 1].map((c) => (uv[q * 2 + c] + uv[(q + 2) * 2 + c]) / 2);
      const at = (Math.floor(v * 256) * 256 + Math.floor(u * 256)) * 3;
      const local = [0, 1, 2].map((c) => (maps.normal.data[at + c] / 255) * 2 - 1);
      const t = [0, 1, 2].map((c) => tangent[q * 4 + c]);
      const b = cross(n, t).map((c) => c * tangent[q * 4 + 3]);
      const world = unit([0, 1, 2].map((c) => t[c] * local[0] + b[c] * local[1] + n[c] * local[2]));
      for (let c = 0; c < 3; c++)
        expect(Math.abs(world[c] - want[c]))
          .withContext(`side ${q / 4}`)
          .toBeLessThan(0.02);
    }
  });
  it('crosses a seam with steps no larger than inside, in every map', () => {
    const mesh = framed(tube());
    const wave = (channels: number, srgb: boolean) => {
      const image = makeImage({ width: 64, height: 64, channels, depth: 16, colourSpace: srgb ? 'srgb' : 'data' });
      for (let i = 0; i < 64 * 64; i++)
        for (let c = 0; c < channels; c++)
          image.data[i * channels + c] =
            32768 + 12000 * Math.sin(((i % 64) / 64) * 2 * Math.PI + c) * Math.cos((Math.floor(i / 64) / 64) * 2 * Math.PI);
      return image;
    };
    const deep = (channels: number, values: number[], srgb = false) => {
      const image = makeImage({ width: 256, height: 256, channels, depth: 16, colourSpace: srgb ? 'srgb' : 'data' });
      for (let i = 0; i < 256 * 256; i++) image.data.set(values, i * channels);
      return image;
    };
    const maps: MapSet = { baseColor: deep(3, [30000, 30000, 30000], true), roughness: deep(1, [40000]), height: deep(1, [32768]) };
    const surface: StampSurface = {
      maps: { baseColor: wave(3, true), roughness: wave(1, false), height: wave(1, false) },
      sizeM: 0.8,
      reliefM: 0.02,
      mid: 0.5,
    };
    const stamper = new Stamper(mesh, maps, GROUND);
    stamper.press(stampOf([0.34, 0.5, 0], { radiusM: 0.3, falloff: 0.8, byHeight: 0.4 }), surface);
    const read = (image: Image, u: number, v: number, c: number) => {
      const [x, y] = [u * 256 - 0.5, v * 256 - 0.5];
      const [i, j] = [Math.floor(x), Math.floor(y)];
      const at = (a: number, b: number) => image.data[((j + b) * 256 + i + a) * image.channels + c] / 65535;
      return (at(0, 0) * (1 - x + i) + at(1, 0) * (x - i)) * (1 - y + j) + (at(0, 1) * (1 - x + i) + at(1, 1) * (x - i)) * (y - j);
    };
    const p99 = (list: number[]) => list.sort((a, b) => a - b)[Math.floor(list.length * 0.99)];
    for (const image of Object.values(maps))
      for (let c = 0; c < image.channels; c++) {
        const [across, inside]: [number[], number[]] = [[], []];
        for (let k = 0; k < 200; k++) {
          const v = 0.1 + 0.5 * ((k + 0.5) / 200);
          across.push(Math.abs(read(image, 0.05, v, c) - read(image, 0.95, v, c)));
          for (let s = 0; s < 20; s++) inside.push(Math.abs(read(image, 0.06 + s / 256, v, c) - read(image, 0.06 + (s + 1) / 256, v, c)));
        }
        expect(p99(inside)).toBeGreaterThan(0);
        expect(p99(across)).toBeLessThanOrEqual(p99(inside));
      }
  });
  it('by heights goes where it stands higher, and keeps nothing and all of it as they are', () => {
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    const over = fc.double({ min: -1, max: 1, noNaN: true });
    fc.assert(
      fc.property(share, over, over, share, (cover, a, b, byHeight) => {
        const [low, high] = [stampShare(cover, Math.min(a, b), byHeight), stampShare(cover, Math.max(a, b), byHeight)];
        expect(low).toBeLessThanOrEqual(high);
        expect(low >= 0 && high <= 1).toBeTrue();
        expect(stampShare(0, a, byHeight)).toBe(0);
        expect(stampShare(1, a, byHeight)).toBe(1);
      }),
    );
  });
  it('is refused where maps differ in size, and finds nothing beside the mesh', () => {
    expect(() => new Stamper(framed(square), { baseColor: even(3, [0, 0, 0], true), roughness: even(1, [0], false, 64) }, GROUND)).toThrowError(
      /128 × 128 and of 64 × 64/,
    );
    expect(
      new Stamper(framed(square), skin(), GROUND).press(stampOf([0, 3, 0], { radiusM: 0.2 }), { maps: {}, sizeM: 1, reliefM: 0, mid: 0.5 }),
    ).toBeNull();
  });
});

describe('strokes that were written down', () => {
  const file = {
    kind: 'strokes',
    version: 1,
    strokes: [
      {
        brush: { radiusM: 0.3, falloff: 0.5 },
        aim: 'add',
        points: [
          [0, 0, 0],
          [0.4, 0.1, 0.2, 0.5],
        ],
      },
    ],
  };
  it('paint a mask or vertices, the same each time', () => {
    const strokes = parseStrokes(JSON.stringify(file));
    const painted = () => {
      const painter = new MeshMaskPainter(square, 64, 64, new Uint8Array(64 * 64));
      expect(replayStrokes(strokes, painter, square)).toEqual({ beside: 0 });
      return painter.bytesNow();
    };
    const once = painted();
    expect((once as Uint8Array).some((v) => v > 200)).toBeTrue();
    expect(painted()).toEqual(once);
    const patch = makePatch(2, 40);
    const vertices = new VertexPainter(patch);
    replayStrokes(strokes, vertices, patch);
    expect(vertices.colours).not.toEqual(patch.geomcolor);
    expect(replayStrokes({ strokes: [{ ...strokes.strokes[0], points: [[0, 9, 0]] }] }, vertices, patch)).toEqual({ beside: 1 });
  });
  it('are refused with the stroke and the point that is wrong', () => {
    const wrong = (change: object, message: RegExp) =>
      expect(() => parseStrokes(JSON.stringify({ ...file, strokes: [file.strokes[0], { ...file.strokes[0], ...change }] }))).toThrowError(
        RangeError,
        message,
      );
    wrong({ aim: 'spray' }, /Stroke 2: its aim is one of add, erase, set, smooth, not "spray"/);
    wrong(
      {
        points: [
          [0, 0, 0],
          [1, 2],
        ],
      },
      /Stroke 2: point 2 is/,
    );
    wrong({ points: [] }, /Stroke 2: it has no points/);
    wrong({ brush: { radiusM: 0 } }, /Stroke 2: the radius/);
    wrong({ brush: { strength: 7 } }, /Stroke 2: the strength/);
    wrong({ channel: 'q' }, /Stroke 2: its channel/);
    expect(() => parseStrokes('{')).toThrowError(/not JSON/);
    expect(() => parseStrokes('null')).toThrowError(/no strokes/);
  });
});
