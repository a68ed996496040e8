import * as fc from 'fast-check';
import { lineDomain } from '../compile';
import { linkTo, makeOperation, valueOf } from '../document';
import { shadeKey, wrapped } from '../light';
import { NOTHING, graph, noSources, outputOf } from '../testing/graphs';
import { MasterMaterials } from './material';

const share = fc.double({ min: 0, max: 1, noNaN: true });
const emissive = (step: string, inputs: object) =>
  outputOf(graph({ e: makeOperation(step, 1, { inputs: inputs as never }) }, { emissive: linkTo('e') }), 'emissive', 1).map((p) => p[0]);

describe('glow', () => {
  it('is colour · strength · how far the mask is between from and full', () => {
    fc.assert(
      fc.property(share, share, share, fc.double({ min: 0, max: 8, noNaN: true }), (mask, from, wide, strength) => {
        fc.pre(wide > 0.05);
        const out = emissive('glow', {
          mask: valueOf(mask),
          from: valueOf(from),
          full: valueOf(from + wide),
          strength: valueOf(strength),
          colour: valueOf(1, 0.5, 0.25),
        });
        const lit = Math.min(1, Math.max(0, (mask - from) / wide));
        out.forEach((v, c) => expect(v).toBeCloseTo([1, 0.5, 0.25][c] * lit * strength, 3));
      }),
      { numRuns: 40 },
    );
  });
});

describe('translucency', () => {
  it('cheap is nothing at all where the mask is 0, however it is turned', () => {
    fc.assert(
      fc.property(share, share, (amount, tint) => {
        expect(emissive('translucentglow', { mask: valueOf(0), amount: valueOf(amount), tint: valueOf(tint, 1, tint) })).toEqual([0, 0, 0]);
      }),
      { numRuns: 30 },
    );
  });
  it('cheap is base colour · tint · mask · amount elsewhere', () => {
    const out = emissive('translucentglow', {
      mask: valueOf(0.5),
      amount: valueOf(0.4),
      baseColor: valueOf(0.8, 0.6, 0.4),
      tint: valueOf(1, 0.5, 0.25),
    });
    out.forEach((v, c) => expect(v).toBeCloseTo([0.8, 0.3, 0.1][c] * 0.2, 5));
  });
  it('true lets light in by mask · amount · (1 − thickness)', () => {
    const d = graph(
      { e: makeOperation('translucency', 1, { inputs: { mask: valueOf(0.5), amount: valueOf(0.8), thickness: valueOf(0.25) } }) },
      { subsurface: linkTo('e') },
    );
    expect(outputOf(d, 'subsurface', 1)[0][0]).toBeCloseTo(0.3, 5);
  });
  it('lit, sends out as much as came in, over all directions; with none of it the light is what it was, to the bit', () => {
    for (const through of [0, 0.3, 1]) {
      let sum = 0;
      const steps = 20000;
      for (let i = 0; i < steps; i++) sum += wrapped(((i + 0.5) / steps) * 2 - 1, through) * ((2 * 2 * Math.PI) / steps);
      expect(sum).toBeCloseTo(Math.PI, 3);
    }
    fc.assert(
      fc.property(share, share, fc.double({ min: -1, max: 1, noNaN: true }), share, share, (albedo, rough, nl, nh, vh) => {
        expect(shadeKey(albedo, 0, rough, nl, 0.5, nh, vh, 0)).toBe(shadeKey(albedo, 0, rough, nl, 0.5, nh, vh));
        if (nl < 0) expect(shadeKey(albedo, 0, rough, nl, 0.5, nh, vh)).toBe(0);
      }),
    );
  });
});

describe('glitter', () => {
  const glint = (side: number, over: number, cells = 64) => {
    const texcoord = Float32Array.from({ length: side * side * 2 }, (_, i) => ((i % 2 ? Math.floor(i / 2 / side) : (i >> 1) % side) + 0.5) / side);
    const view = Float32Array.from({ length: side * side * 3 }, (_, i) => [0.36, 0.8, 0.48][i % 3]);
    const d = graph({ e: makeOperation('glitter', 1, { inputs: { cells: valueOf(cells), share: valueOf(0.2) } }) }, { roughness: linkTo('e') });
    return outputOf(d, 'roughness', 1, NOTHING, noSources, { domain: lineDomain(texcoord, over, { viewdirection: view }) })[0];
  };
  const mean = (plane: Float32Array) => plane.reduce((a, b) => a + b, 0) / plane.length;
  it('glints in its share of cells, by one half of it on the whole', () => {
    const plane = glint(64, 1e-4);
    expect(plane.filter((v) => v > 0).length / plane.length).toBeCloseTo(0.2, 1.5);
    expect(mean(plane)).toBeCloseTo(0.1, 1.5);
    expect(Math.max(...plane)).toBeGreaterThan(0.9);
  });
  it('is an even shimmer of that brightness from afar', () => {
    for (const v of glint(16, 0.1)) expect(v).toBeCloseTo(0.1, 5);
  });
});

describe('displacement', () => {
  it('is (height − middle) · amount · mask', () => {
    const d = graph(
      { e: makeOperation('displacement', 1, { inputs: { in: valueOf(0.9), middle: valueOf(0.4), amount: valueOf(0.2), mask: valueOf(0.5) } }) },
      { height: linkTo('e') },
    );
    expect(outputOf(d, 'height', 1)[0][0]).toBeCloseTo(0.05, 6);
  });
});

describe('water', () => {
  const at = (height: number, inputs: object = {}) => {
    const d = graph(
      {
        g: makeOperation('makesurface', 1, { inputs: { baseColor: valueOf(0.6, 0.5, 0.4), height: valueOf(height) } }),
        w: makeOperation('water', 2, {
          inputs: {
            below: linkTo('g'),
            level: valueOf(0.1),
            clear: valueOf(0.2),
            murk: valueOf(0.2, 0.4, 0.6),
            scatter: valueOf(0.1, 0.2, 0.3),
            wet: valueOf(0),
            ...inputs,
          },
        }),
      },
      { surface: linkTo('w'), subsurface: linkTo('w', 'cover') },
    );
    return {
      colour: outputOf(d, 'baseColor', 1).map((p) => p[0]),
      height: outputOf(d, 'height', 1)[0][0],
      cover: outputOf(d, 'subsurface', 1)[0][0],
    };
  };
  it('swallows light by depth: after the clear depth the murk colour is left', () => {
    for (const depth of [0.02, 0.2, 0.4]) {
      const { colour, height, cover } = at(0.1 - depth);
      expect([height, cover]).toEqual([jasmine.anything(), 1] as never);
      expect(height).toBeCloseTo(0.1, 6);
      colour.forEach((v, c) => {
        const passes = [0.2, 0.4, 0.6][c] ** (depth / 0.2);
        expect(v).toBeCloseTo([0.6, 0.5, 0.4][c] * passes + [0.1, 0.2, 0.3][c] * (1 - passes), 4);
      });
    }
  });
  it('leaves what stands out of it as it is, but for what is wet', () => {
    const dry = at(0.3);
    expect(dry.cover).toBe(0);
    dry.colour.forEach((v, c) => expect(v).toBeCloseTo([0.6, 0.5, 0.4][c], 6));
    const [wet] = at(0.105, { wet: valueOf(0.5), rim: valueOf(0.05) }).colour;
    expect(wet).toBeLessThan(0.45);
  });
});

describe('outputs that only some materials have', () => {
  it('are there where something feeds them, and not elsewhere', () => {
    const of = (outputs: object) =>
      Object.keys(new MasterMaterials().of(graph({ g: makeOperation('glow', 1), n: makeOperation('noise2d', 2) }, outputs), NOTHING).far.outputs);
    expect(of({})).not.toContain('emissive');
    expect(of({ emissive: linkTo('g'), opacity: linkTo('n') })).toEqual(jasmine.arrayContaining(['emissive', 'opacity']));
  });
  it('refuse what does not fit, by name', () => {
    const [problem] = new MasterMaterials().of(graph({ g: makeOperation('glow', 1) }, { opacity: linkTo('g') }), NOTHING).problems;
    expect(problem.message).toBe('The output opacity takes a float, and a vec3 comes in');
  });
});
