import { beginsWithin, fieldMesh, hillside, makeCue } from '../index';

describe('a rule that begins on a mesh', () => {
  const mesh = fieldMesh(hillside(129), 1, 1720);
  const heights = [...mesh.position].filter((_, i) => i % 3 === 1).sort((a, b) => a - b);
  const at = (share: number) => heights[Math.floor(share * heights.length)];
  it('by altitude lies where most of it is, above the sea or above its origin', () => {
    const world = beginsWithin(makeCue('altitude', { from: 'world' }), mesh, 1720);
    expect(world.centre).toBeCloseTo(at(0.5) + 1720, 0);
    const object = beginsWithin(makeCue('altitude', { from: 'object' }), mesh, 1720);
    expect(object.centre).toBeCloseTo(at(0.5), 0);
    for (const cue of [world, object]) expect(cue.width).toBeCloseTo((at(0.9) - at(0.1)) / 4, 0);
  });
  it('stays where it is within what is there already, and so do others', () => {
    const slope = makeCue('slope', { centre: 12, width: 5 });
    expect(beginsWithin(slope, mesh, 0)).toBe(slope);
    const noise = makeCue('noise', { centre: 99 });
    expect(beginsWithin(noise, mesh, 0)).toBe(noise);
    // Steeper than anything there.
    const cliff = beginsWithin(makeCue('slope', { centre: 89.5, width: 1 }), mesh, 0);
    expect(cliff.centre).toBeGreaterThan(1);
    expect(cliff.centre).toBeLessThan(40);
    // On a plane there is no middle to be had but its own.
    const flat = fieldMesh({ width: 3, height: 3, spacingM: 1, altitude: new Float32Array(9).fill(5) });
    expect(beginsWithin(makeCue('altitude', { from: 'object', centre: 0.5, width: 0.3 }), flat, 0)).toEqual(
      jasmine.objectContaining({ centre: 5, width: 0.3 }),
    );
  });
});
