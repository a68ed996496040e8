import type { Price } from '../compile';
import type { Coverage, Cue, CueKind, WeatheringName } from '../coverage';
import { STAND_IN, cueKind, makeCue, weatheringCoverage } from '../coverage';
import type { BlendDocument, Layer, LayerContent } from '../document';
import { DEFAULT_FAR } from '../document';
import { materialPrice } from '../material';
import { ROLES } from '../surface';
import { blendMaterial } from './material';
import type { BlendSurface, Stack } from './stack';
import { makeStack } from './stack';

export const lessPrice = (a: Price, b: Price): Price => ({ samples: a.samples - b.samples, operations: a.operations - b.operations });
const NOTHING: Price = { samples: 0, operations: 0 };
/** Stands for whatever somebody still has to choose. */
const ANY_SURFACE: BlendSurface = { sizeM: 1, reliefM: 0.05, mid: 0.5, roles: new Set(ROLES) };

/** What a stack costs at every pixel. */
export const stackPrice = (stack: Stack): Price => (stack.layers.length ? materialPrice(blendMaterial(stack)) : NOTHING);

/** What each layer adds, from the bottom: the price with it less the price of what lies below. */
export function* layerPrices(stack: Stack): Generator<{ id: string; own: Price; all: Price }> {
  let below = NOTHING;
  for (let i = 0; i < stack.layers.length; i++) {
    const all = stackPrice({ ...stack, layers: stack.layers.slice(0, i + 1) });
    yield { id: stack.layers[i].id, own: lessPrice(all, below), all };
    below = all;
  }
}

/** What changes of a blend would cost a pixel: the true difference on the stack as it is, not a number of their own. */
export class EditPrices {
  private base: Price | null = null;

  constructor(
    private readonly blend: BlendDocument,
    private readonly surfaces: Readonly<Record<string, BlendSurface>>,
    private readonly blends: Readonly<Record<string, BlendDocument>> = {},
  ) {}

  private price = (blend: BlendDocument): Price => stackPrice(makeStack(blend, { ...this.surfaces, [STAND_IN]: ANY_SURFACE }, this.blends));

  /** @param change works on a copy */
  of(change: (blend: BlendDocument) => void): Price {
    const changed = JSON.parse(JSON.stringify(this.blend)) as BlendDocument;
    change(changed);
    return lessPrice(this.price(changed), (this.base ??= this.price(this.blend)));
  }

  /** One more cue of a kind in a coverage of the blend. */
  cue(kind: CueKind, coverage: (blend: BlendDocument) => Coverage | undefined): Price {
    return this.of((blend) => {
      const into = coverage(blend);
      if (into) into['priced'] = { ...makeCue(kind, { order: 1e9 }), ...cueKind(kind).priced } as Cue;
    });
  }

  /** What a weathering brings into a coverage of the blend. */
  weathering(name: WeatheringName, coverage: (blend: BlendDocument) => Coverage | undefined): Price {
    return this.of((blend) => {
      const into = coverage(blend);
      if (into) for (const [id, cue] of Object.entries(weatheringCoverage(name))) into[`priced ${id}`] = { ...cue, order: 1e9 + cue.order };
    });
  }

  /** Something else in the place of what a layer shows. */
  shows(layer: string, content: LayerContent): Price {
    return this.of(({ layers }) => void (layers[layer] && (layers[layer].shows = content)));
  }

  /** One more layer on top. */
  layer(layer: Layer): Price {
    return this.of(({ layers }) => void (layers['priced'] = { ...layer, order: Math.max(0, ...Object.values(layers).map((l) => l.order)) + 1 }));
  }

  /** An extra of a layer, used where it is not. */
  extra(extra: Extra, layer: string): Price {
    return this.of(({ layers }) => void (layers[layer] && EXTRAS[extra](layers[layer])));
  }
}

/** What a layer has beyond the usual, as changes that use it. */
export const EXTRAS = {
  broken: (l: Layer) => void (l.seam.broken.byM ||= 0.01),
  detail: (l: Layer) => void (l.seam.detailM ||= 0.05),
  seamNormal: (l: Layer) => void (l.seam.normal ||= 1),
  tint: (l: Layer) => void (l.look.tint = '#808080'),
  levels: (l: Layer) => void (l.look.low ||= 0.1),
  roughness: (l: Layer) => void (l.look.roughness ||= 0.1),
  turn: (l: Layer) => void (l.look.turn ||= 90),
  far: (l: Layer) => void (l.laying = { ...l.laying, far: { ...DEFAULT_FAR } }),
  turns: (l: Layer) => void (l.laying = { ...l.laying, turns: { atM: 1, seed: 1 } }),
  cells: (l: Layer) => void (l.laying = { ...l.laying, cells: { atM: 1, turn: 180, seed: 1 } }),
  macro: (l: Layer) => void (l.laying = { ...l.laying, macro: { by: 0.2, atM: 4, seed: 1 } }),
  sides: (l: Layer) => void (l.laying = { ...l.laying, sides: true }),
  multiply: (l: Layer) => void (l.mode = 'multiply'),
  screen: (l: Layer) => void (l.mode = 'screen'),
  overlay: (l: Layer) => void (l.mode = 'overlay'),
};
export type Extra = keyof typeof EXTRAS;
