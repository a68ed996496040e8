import { FIGURE_M, besideBox, boundsOf, eyeOf, figure, frameBounds, movedBy, overdrawOf, plume, withFigure, withPlume } from '../index';

const box = { lo: [-0.5, 0.2, -0.3], hi: [0.7, 1.4, 0.3] };

describe('a figure for scale', () => {
  it('is as tall as it says, looks outwards, stands beside the box on its ground, and fits the box that holds both', () => {
    const mesh = figure();
    const { lo, hi } = boundsOf(mesh);
    expect(hi[1]).toBeCloseTo(FIGURE_M, 2);
    expect(Math.abs(lo[1])).toBeLessThan(0.02);
    // Volume by the divergence theorem: positive only where triangles wind outwards. Somebody of that height takes some 50 to 90 litres.
    let volume = 0;
    for (let k = 0; k < mesh.index.length; k += 3) {
      const [a, b, c] = [0, 1, 2].map((i) => [...mesh.position.subarray(mesh.index[k + i] * 3, mesh.index[k + i] * 3 + 3)]);
      volume += (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])) / 6;
    }
    expect(volume).toBeGreaterThan(0.04);
    expect(volume).toBeLessThan(0.12);
    const there = boundsOf(movedBy(mesh, besideBox(box)));
    expect(there.lo[0]).toBeGreaterThan(box.hi[0]);
    expect(there.lo[1]).toBeCloseTo(box.lo[1], 1);
    const both = withFigure(box);
    for (const c of [0, 1, 2]) {
      expect(both.lo[c]).toBeLessThanOrEqual(Math.min(box.lo[c], there.lo[c]) + 0.02);
      expect(both.hi[c]).toBeGreaterThanOrEqual(Math.max(box.hi[c], there.hi[c]) - 1e-6);
    }
  });
});

describe('a plume of cards', () => {
  const orbit = { ...frameBounds(box), yaw: 0.7, pitch: 0.4 };
  const mesh = plume(box, orbit);
  const eye = [...eyeOf(orbit)];
  const corner = (i: number) => [...mesh.position.subarray(i * 3, i * 3 + 3)];
  it('turns every card to the eye, farthest first, above the box', () => {
    let before = Infinity;
    for (let i = 0; i < mesh.position.length / 3; i += 4) {
      const corners = [0, 1, 2, 3].map((k) => corner(i + k));
      const centre = [0, 1, 2].map((c) => corners.reduce((s, p) => s + p[c], 0) / 4);
      const toEye = eye.map((v, c) => v - centre[c]);
      const away = Math.hypot(...toEye);
      expect(away).toBeLessThanOrEqual(before + 1e-5);
      before = away;
      const [e, f] = [corners[1].map((v, c) => v - corners[0][c]), corners[2].map((v, c) => v - corners[0][c])];
      for (const edge of [e, f]) expect(edge.reduce((s, v, c) => s + v * toEye[c], 0) / (Math.hypot(...edge) * away)).toBeCloseTo(0, 4);
      expect(Math.hypot(...e)).toBeCloseTo(Math.hypot(...f), 5);
      // Counter-clockwise as the eye sees it.
      const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
      expect(n.reduce((s, v, c) => s + v * toEye[c], 0)).toBeGreaterThan(0);
      expect(centre[1]).toBeGreaterThan(box.hi[1]);
    }
  });
  it('is in the picture that its box is framed in', () => {
    const { lo, hi } = boundsOf(mesh);
    const room = withPlume(box);
    expect(hi[1]).toBeLessThan(room.hi[1] + 1e-6);
    expect(room.hi[1]).toBeLessThan(hi[1] + 0.35);
    expect(lo[1]).toBeGreaterThan(box.lo[1]);
  });
  it('is drawn as often as its cards lie over each other: never less than once, at most all of them', () => {
    const { mean, most } = overdrawOf(mesh, orbit, 200);
    expect(mean).toBeGreaterThan(1.5);
    expect(most).toBeLessThanOrEqual(24);
    expect(most).toBeGreaterThan(mean);
    expect(plume(box, orbit)).toEqual(mesh);
  });
});
