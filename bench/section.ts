import type { BlendSurface, ImageChannel } from '@pebble/core';
import {
  BLEND_ROLES,
  BlendMaterials,
  FLAT_GROUND,
  SectionCutter,
  generateSurface,
  makeBlend,
  makeCue,
  makeLayer,
  makeStack,
  sourcesOfMaps,
} from '@pebble/core';
import { ms, often, table, timed } from './measure';

export async function section(): Promise<void> {
  await cuts(6, 512, 1);
  await cuts(16, 1024, 2);
}

async function cuts(count: number, points: number, reach: number): Promise<void> {
  const names = ['terrace-stone', 'laterite-clay', 'cushion-moss', 'river-gravel'] as const;
  const made = names.map((name, i) => generateSurface(name, { seed: i, size: 512 }));
  const surfaces = Object.fromEntries(made.map((s) => [s.name, { ...s.facts, roles: new Set(BLEND_ROLES) as BlendSurface['roles'] }]));
  const layers = Object.fromEntries(
    Array.from({ length: count }, (_, i) => [
      `l${i}`,
      makeLayer(names[i % 4], `Layer ${i}`, i + 1, {
        coverage: i ? { v: makeCue('vertexColour', { channel: (['r', 'g', 'b'] as const)[i % 3] }) } : {},
      }),
    ]),
  );
  const blend = makeBlend('x', { extentM: 2.4, cut: { ax: 0.1, ay: 0.3, bx: 0.9, by: 0.7 }, layers });
  const slots = makeStack(blend, surfaces).slots;
  const finders = slots.map((id) => sourcesOfMaps(made.find((s) => s.name === id)!.maps));
  const sources = (slot: number, channel: ImageChannel) => finders[slot](channel)!;
  const cutter = new SectionCutter();
  const materials = new BlendMaterials();
  // Every cut sees another lift, as a drag gives it: the stack and its values are made anew.
  const last = `l${count - 1}`;
  let lift = 0;
  const cut = () => {
    const top = blend.layers[last];
    const dragged = { ...blend, layers: { ...blend.layers, [last]: { ...top, seam: { ...top.seam, liftM: (lift += 1e-5) } } } };
    return cutter.cut(materials.of(makeStack(dragged, surfaces)), dragged.cut, sources, points, FLAT_GROUND);
  };
  // Warmed up: a drag of a few seconds is some hundred cuts.
  for (let i = 0; i < often(400, 4); i++) cut();
  const whole = await timed(200, cut);
  table(`The section of ${count} layers × ${points} points, recomputed as while dragging a lift (200 runs, warm)`, [
    [`computation (reach < ${reach} ms)`, ms(whole)],
  ]);
}
