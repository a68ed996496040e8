import { optimise } from '../compile';
import type { Laid, Material, MaterialGraph, MaterialReads } from '../material';
import { SOLID, readsOf } from '../material';
import { Recent } from '../recent';
import { lowerBlend } from './lower';
import type { Stack } from './stack';
import { stackExtras, stackShape } from './stack';
import type { ValueOptions } from './values';
import { stackValues } from './values';

/** Shapes of stacks whose graphs are kept. */
const MAX_GRAPHS = 12;

/** What is made of a shape when it is first asked for. */
interface Shaped {
  near?: MaterialGraph;
  far?: MaterialGraph;
  reads?: MaterialReads;
}

/** Materials of stacks. Stacks of one shape share their graphs: another number lowers nothing. */
export class BlendMaterials {
  private readonly shapes = new Recent<string, Shaped>(MAX_GRAPHS);

  of(stack: Stack, options: ValueOptions = {}): Material {
    const key = stackShape(stack);
    const shaped = this.shapes.of(key, () => ({}));
    let values: Material['values'] | undefined;
    return {
      key,
      extentM: stack.extentM,
      get near() {
        return (shaped.near ??= lowered(stack, false));
      },
      get far() {
        return (shaped.far ??= lowered(stack, true));
      },
      get values() {
        return (values ??= stackValues(stack, options));
      },
      get reads() {
        return (shaped.reads ??= readsOf(optimise(this.far.outputs).outputs));
      },
      drawn: stackExtras(stack).includes('opacity') ? stack.drawn : SOLID,
      slots: { surfaces: stack.slots, masks: stack.masks, ids: stack.ids },
      laid: { surfaces: surfacesLaid(stack), masks: masksLaid(stack) },
      bounds: { lo: stack.lo, hi: stack.hi },
      layers: stack.layers.map(({ id, layer, surface, slot, repeats }) => ({
        id,
        name: layer.name,
        heights: surface?.roles.has('height') ? { slot, repeats } : null,
      })),
      problems: stack.problems,
    };
  }
}

/** The material of a single stack. */
export const blendMaterial = (stack: Stack, options?: ValueOptions): Material => new BlendMaterials().of(stack, options);

function lowered(stack: Stack, far: boolean): MaterialGraph {
  const { channels, extras, specular, identity, probes } = lowerBlend(stack, { far });
  return { outputs: { ...channels, ...extras, specular, identity }, specularFed: extras.specular !== undefined, probes };
}

/** Surfaces that layers show, those of blends inside as often as these are laid. */
const surfacesLaid = (stack: Stack, times = 1): Laid[] =>
  stack.layers.flatMap(({ inner, slot, repeats }) =>
    inner ? surfacesLaid(inner, times * repeats) : slot >= 0 ? [{ slot, repeats: repeats * times }] : [],
  );
const masksLaid = (stack: Stack, times = 1): Laid[] =>
  stack.layers.flatMap(({ inner, repeats, masks }) => [
    ...masks.map((m) => ({ ...m, repeats: m.repeats * times })),
    ...(inner ? masksLaid(inner, times * repeats) : []),
  ]);
