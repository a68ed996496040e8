import type { BlendDocument, BlendSurface, ImageChannel } from '@pebble/core';
import { BLEND_ROLES, SectionCutter, generateSurface, makeCue, makeLayer, makeStack, sourcesOfMaps, specimenColour } from '@pebble/core';
import { ms, table, timed } from './measure';

export async function section(): Promise<void> {
  const names = ['terrace-stone', 'laterite-clay', 'cushion-moss', 'river-gravel'] as const;
  const made = names.map((name, i) => generateSurface(name, { seed: i, size: 512 }));
  const surfaces = Object.fromEntries(made.map((s) => [s.name, { ...s.facts, roles: new Set(BLEND_ROLES) as BlendSurface['roles'] }]));
  const layers = Object.fromEntries(
    Array.from({ length: 6 }, (_, i) => [
      `l${i}`,
      makeLayer(names[i % 4], `Layer ${i}`, i + 1, {
        coverage: i ? { v: makeCue('vertexColour', { channel: (['r', 'g', 'b'] as const)[i % 3] }) } : {},
      }),
    ]),
  );
  const blend: BlendDocument = {
    kind: 'blend',
    version: 1,
    name: 'x',
    extentM: 2.4,
    specimen: 'patch',
    cut: { ax: 0.1, ay: 0.3, bx: 0.9, by: 0.7 },
    layers,
  };
  const slots = makeStack(blend, surfaces).slots;
  const finders = slots.map((id) => sourcesOfMaps(made.find((s) => s.name === id)!.maps));
  const sources = (slot: number, channel: ImageChannel) => finders[slot](channel)!;
  const cutter = new SectionCutter();
  // Every cut sees another lift, as a drag gives it: the stack and its values are made anew.
  let lift = 0;
  const cut = () => {
    const top = blend.layers['l5'];
    const dragged = { ...blend, layers: { ...blend.layers, l5: { ...top, seam: { ...top.seam, liftM: (lift += 1e-5) } } } };
    return cutter.cut(makeStack(dragged, surfaces), dragged.cut, sources, 512, specimenColour);
  };
  // Warmed up: a drag of a few seconds is some hundred cuts.
  for (let i = 0; i < 400; i++) cut();
  const whole = await timed(200, cut);
  table('The section of 6 layers × 512 points, recomputed as while dragging a lift (200 runs, warm)', [['computation (reach < 1 ms)', ms(whole)]]);
}
