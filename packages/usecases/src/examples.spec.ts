import type { GraphContext, MasterDocument } from '@pebble/core';
import { BLEND_ROLES, MasterMaterials, TARGETS, asVariant, evaluate, flatDomain, leftovers, materialPrice, optimise } from '@pebble/core';
import { EXAMPLE_MASTERS, STILL_MASTERS } from './index';

const roles = new Set([...BLEND_ROLES, 'id'] as const);
const facts = { sizeM: 1, reliefM: 0.02, mid: 0.5, roles: roles as never };
const CONTEXT: GraphContext = {
  surfaces: Object.fromEntries(
    ['roof-tile', 'weathered-copper', 'lime-plaster', 'laterite-clay', 'copper-still-ids', 'copper-still-tile', 'terrace-stone'].map((id) => [
      id,
      facts,
    ]),
  ),
  blends: {},
  masters: {},
};
/** Those that show no blend: what that is, the server's demo says. */
const ALONE = Object.values({ ...EXAMPLE_MASTERS, ...STILL_MASTERS }).filter((m) => !Object.values(m.operations).some((o) => o.step === 'blend'));

describe('the masters of Orrin Ridge', () => {
  for (const master of ALONE)
    it(`${master.name} has three to five variants that set what is there, without a mistake`, () => {
      const ids = Object.keys(master.variants);
      expect(ids.length).toBeGreaterThanOrEqual(3);
      expect(ids.length).toBeLessThanOrEqual(5);
      for (const id of [null, ...ids]) {
        if (id) expect(leftovers(master, id)).toEqual([]);
        expect(new MasterMaterials().of(asVariant(master, id), CONTEXT).problems)
          .withContext(`${id}`)
          .toEqual([]);
      }
    });
  it('that came with effects fit the handheld', () => {
    for (const master of [
      EXAMPLE_MASTERS['beeswax-blocks'],
      EXAMPLE_MASTERS['steam-swirl'],
      EXAMPLE_MASTERS['cistern-gauge'],
      EXAMPLE_MASTERS['leaf-scatter'],
    ]) {
      const { samples, operations } = materialPrice(new MasterMaterials().of(master, CONTEXT));
      expect(operations).withContext(master.name).toBeLessThanOrEqual(TARGETS.handheld.operations);
      expect(samples).withContext(master.name).toBeLessThanOrEqual(TARGETS.handheld.samples);
    }
  });

  const planes = (d: MasterDocument, output: 'emissive' | 'subsurface' | 'opacity', now = {}) => {
    const material = new MasterMaterials().of(d, CONTEXT);
    const node = material.far.outputs[output]!;
    return evaluate(optimise({ x: node }).outputs, { domain: flatDomain(96, 96, d.extentM), values: { ...material.values, ...now } })['x'];
  };
  it('beeswax: neither translucency touches what is opaque, however it is turned', () => {
    const wax = EXAMPLE_MASTERS['beeswax-blocks'];
    const turned = (real: boolean, amount: number): MasterDocument => {
      const d = structuredClone(wax);
      d.switches['real'].on = real;
      for (const id of ['glow', 'through']) Object.assign(d.parameters[id].holds, { value: [amount] });
      return d;
    };
    const rim = (i: number) => {
      const at = [((i % 96) + 0.5) / 96, (Math.floor(i / 96) + 0.5) / 96].map((v) => Math.abs(((v * 2) % 1) - 0.5));
      return Math.max(...at) > 0.4751;
    };
    for (const [real, output] of [
      [false, 'emissive'],
      [true, 'subsurface'],
    ] as const)
      for (const amount of [0, 0.3, 1])
        planes(turned(real, amount), output).forEach((plane) =>
          plane.forEach((v, i) => {
            if (rim(i) && v !== 0) fail(`${output} at ${amount}: ${v}`);
            if (!rim(i) && amount === 1 && v < 0) fail(`${output}: ${v}`);
          }),
        );
    expect(Math.max(...planes(turned(true, 1), 'subsurface')[0])).toBeGreaterThan(0.5);
  });
  it('steam: the loop closes, and nothing of it reaches the rim of its card', () => {
    const steam = EXAMPLE_MASTERS['steam-swirl'];
    const at = (time: number) => planes(steam, 'opacity', { time: [time] })[0];
    const [begin, middle, end] = [at(0), at(1.3), at(steam.loopS)];
    begin.forEach((v, i) => expect(Math.abs(v - end[i])).toBeLessThan(1e-3));
    expect(begin.some((v, i) => Math.abs(v - middle[i]) > 0.05)).toBeTrue();
    for (let i = 0; i < 96; i++) for (const k of [i, 95 * 96 + i, i * 96, i * 96 + 95]) expect(begin[k]).toBe(0);
  });
});
