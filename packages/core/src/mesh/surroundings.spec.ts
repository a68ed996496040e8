import { FLAT_GROUND, SpreadGround, boundsOf, makeSpecimen, makeFlat, onGround, specimenColour } from '../index';

describe('a mesh in texture space', () => {
  it('is what it carries there, then after whole repetitions, else a plane', () => {
    const patch = makeSpecimen('patch', 2);
    const ground = new SpreadGround(patch);
    // Column 40 of 97, row 20: a vertex, away from the rims.
    const vertex = 20 * 97 + 40;
    const [u, v] = patch.texcoord.subarray(vertex * 2, vertex * 2 + 2);
    for (const [du, dv] of [
      [0, 0],
      [1, 0],
      [-1, 1],
    ] as const) {
      const at = ground.along(Float32Array.of(u + du, v + dv));
      for (let c = 0; c < 3; c++) {
        expect(Math.abs(at.position[c] - patch.position[vertex * 3 + c])).toBeLessThan(0.03);
        expect(Math.abs(at.normal[c] - patch.normal[vertex * 3 + c])).toBeLessThan(0.05);
      }
    }
    // Seen over fifty metres a stone fills little of texture space: off it the ground is level.
    const small = new SpreadGround(makeSpecimen('marker-stone', 50));
    const off = small.along(Float32Array.of(0.9, 0.9));
    expect([...off.normal]).toEqual([0, 1, 0]);
    expect([...off.curvature, ...off.occlusion, ...off.part]).toEqual([0, 1, 0]);
  });
  it('leaves the flat where it is drawn', () => {
    const patch = makeSpecimen('patch', 2);
    const flat = makeFlat(1, 8);
    const known = onGround(flat, new SpreadGround(patch));
    expect(known.texcoord).toEqual(flat.texcoord);
    expect(boundsOf(known).hi[1]).toBeGreaterThan(0.02);
    const plain = FLAT_GROUND.along(Float32Array.of(0.3, 0.7));
    const colour = new Float32Array(4);
    specimenColour(Math.fround(0.3), Math.fround(0.7), colour, 0);
    expect(plain.geomcolor).toEqual(colour);
  });
  it('in other vertex colours is what it would be made anew, and knows the rest already', () => {
    const patch = makeSpecimen('patch', 2);
    const first = new SpreadGround(patch);
    const at = Float32Array.of(0.31, 0.72, 0.5, 0.5, 1.4, -0.2);
    const before = first.along(at);
    const other = { ...patch, geomcolor: patch.geomcolor.map((v, i) => (i % 4 === 1 ? 1 - v : v)) };
    const known = new SpreadGround(other, first).along(at);
    expect(known).toEqual(new SpreadGround(other).along(at));
    expect(known.position).toEqual(before.position);
    expect(known.geomcolor).not.toEqual(before.geomcolor);
  });
});
