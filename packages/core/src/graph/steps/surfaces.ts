// Steps on all of a surface at once.
import type { DagNode } from '../../compile';
import { lowerStack, makeStack, mixedShading, stackShape, stackValues } from '../../blend';
import type { Shading, Stack } from '../../blend';
import type { BlendDocument, MasterDocument, MasterOperation } from '../../document';
import type { BlendRole } from '../../surface';
import { BLEND_ROLES, ROLE_FACTS } from '../../surface';
import { intervalOf } from '../interval';
import { neutralShading } from '../neutral';
import { CHANNELS, allOf, channelType, laidSurface } from '../laid-surface';
import type { GraphContext, StepInput, GraphStep, StepSite, SurfaceValue } from '../step';

const texcoord: StepInput = { name: 'texcoord', type: 'vec2', initial: 'texcoord' };
const FLAT = [0, 0, 1];
const surfaceIn = (name: string): StepInput => ({ name, type: 'surface', initial: [] });
const channelInput = (role: BlendRole): StepInput => ({
  name: role,
  type: channelType(role),
  initial: role === 'height' ? [0] : ROLE_FACTS[role].neutral,
  ...(role === 'baseColor' ? { colour: true as const } : {}),
  ...(role === 'height' ? { unit: 'm' } : { low: 0, high: 1 }),
});
const withChannels = ({ surface }: SurfaceValue, channels: Partial<Shading['channels']>): SurfaceValue => ({
  surface: { ...surface, channels: { ...surface.channels, ...channels } },
});

/** A blend with the numbers that parameters stand for. A place in it is written with points: `layers.moss.seam.soft`. @param gone is told of places that are no longer there */
function blendBy(
  operation: MasterOperation,
  document: MasterDocument,
  { blends }: GraphContext,
  gone: (port: string) => void = () => undefined,
): BlendDocument | null {
  const blend = blends[String(operation.settings['blend'] ?? '')];
  if (!blend) return null;
  const places = Object.entries(operation.inputs).filter(([port]) => port.includes('.'));
  if (!places.length) return blend;
  const changed = JSON.parse(JSON.stringify(blend)) as BlendDocument;
  for (const [port, source] of places) {
    const holds = source.from === 'parameter' ? document.parameters[source.parameter]?.holds : undefined;
    const given =
      source.from === 'value' ? source.value[0] : holds?.kind === 'number' ? holds.value[0] : holds?.kind === 'colour' ? holds.value : undefined;
    if (given !== undefined && !putAt(changed, port.split('.'), given)) gone(port);
  }
  return changed;
}

/** Puts a number or a colour where one of its kind stands; anywhere else nothing happens. @returns whether it could */
function putAt(body: unknown, path: readonly string[], given: number | string): boolean {
  let at = body as Record<string, unknown>;
  for (const key of path.slice(0, -1)) {
    if (typeof at !== 'object' || at === null || !Object.hasOwn(at, key)) return false;
    at = at[key] as Record<string, unknown>;
  }
  const last = path[path.length - 1];
  if (typeof at !== 'object' || at === null || !Object.hasOwn(at, last) || typeof at[last] !== typeof given) return false;
  at[last] = given;
  return true;
}

const stackBy = (
  operation: MasterOperation,
  document: MasterDocument,
  context: GraphContext,
  site?: Pick<StepSite, 'lists' | 'note'>,
): Stack | null => {
  const gone = (port: string) =>
    site?.note(
      'missing-place',
      `The blend has no ${port.split('.').slice(-2).join(' ')} there any more: what follows it decides nothing. Let go of it`,
    );
  const blend = blendBy(operation, document, context, gone);
  return blend && makeStack(blend, context.surfaces, context.blends, false, site?.lists);
};

export const SURFACES: GraphStep[] = [
  {
    name: 'surface',
    group: 'surfaces',
    help: 'All maps of a surface at once, missing ones being neutral; each channel also by itself',
    words: 'material from maps, maps together, packed maps, layer',
    materialx: 'PB_surface',
    inputs: () => [texcoord, { name: 'normalstrength', type: 'float', initial: [1], low: 0, high: 4 }],
    outputs: () => [{ name: 'out', type: 'surface' }, ...CHANNELS],
    settings: [{ name: 'surface', label: 'surface', kind: 'surface', initial: '' }],
    lower: (site) => {
      const id = String(site.setting('surface'));
      if (!site.context.surfaces[id]) {
        site.note(
          'missing-surface',
          id ? 'Its surface is gone: it gives neutral values. Choose another' : 'No surface is chosen: it gives neutral values. Choose one',
        );
        return allOf(neutralShading(site));
      }
      return allOf(laidSurface(site, id, site.input('texcoord'), site.input('normalstrength')));
    },
    shape: ({ settings }, _, { surfaces }) => [...(surfaces[String(settings['surface'] ?? '')]?.roles ?? [])].sort().join(),
  },
  {
    name: 'blend',
    group: 'surfaces',
    help: 'A blend with all of its layers; its numbers become parameters by a click on their tokens',
    words: 'layers, layered surface, height blend, terrain, ground',
    materialx: 'PB_blend',
    inputs: ({ inputs }) => [
      texcoord,
      ...Object.keys(inputs)
        .filter((port) => port.includes('.'))
        .map((name): StepInput => ({ name, type: 'float', initial: [0] })),
    ],
    outputs: () => [{ name: 'out', type: 'surface' }, ...CHANNELS],
    settings: [{ name: 'blend', label: 'blend', kind: 'blend', initial: '' }],
    lower: (site) => {
      const { b, operation, document, context, far, prefix, input, read, fail } = site;
      const stack = stackBy(operation, document, context, site);
      if (!stack) return fail('missing-blend', operation.settings['blend'] ? 'Its blend is gone. Choose another' : 'No blend is chosen. Choose one');
      if (!stack.layers.length) return fail('missing-blend', 'Its blend has no layer to show. Open it in Blend and switch one on');
      read((d, c) => {
        const now = stackBy(d.operations[site.id] ?? operation, d, c);
        return now ? stackValues(now, {}, prefix) : {};
      });
      return allOf(lowerStack(b, stack, { far, prefix, uv: input('texcoord') }));
    },
    shape: (operation, document, context) => {
      const stack = stackBy(operation, document, context);
      return stack ? `${stackShape(stack)}@${stack.slots.join()}` : 'none';
    },
  },
  {
    name: 'crossover',
    group: 'surfaces',
    help: 'One surface over another by its coverage, the heights deciding the seam',
    words: 'layer, mix surfaces, height blend, material layer, dirt, moss, snow',
    materialx: 'PB_crossover',
    inputs: () => [
      surfaceIn('below'),
      surfaceIn('above'),
      { name: 'coverage', type: 'float', initial: [0.5], low: 0, high: 1 },
      { name: 'soft', type: 'float', initial: [0.12], low: 0, high: 1 },
      { name: 'lift', type: 'float', initial: [0], unit: 'm', low: -0.2, high: 0.2 },
      { name: 'follow', type: 'float', initial: [0], low: 0, high: 1 },
      { name: 'contact', type: 'float', initial: [0.25], low: 0, high: 1 },
    ],
    outputs: () => [
      { name: 'out', type: 'surface' },
      { name: 'weight', type: 'float' },
    ],
    settings: [],
    through: 'below',
    lower: (site) => {
      const { b, surface, input, prefix, value } = site;
      const [below, above] = [surface('below').surface, surface('above').surface];
      const [under, over] = [below.channels.height, above.channels.height];
      const landed = b.add(b.add(over, b.multiply(input('follow'), under)), input('lift'));
      // The larger of both reliefs: a constant of the layer, never of a pixel.
      const span = value('span', 'float', (_, __, known) => {
        const relief = (node: DagNode) => {
          const { lo, hi } = intervalOf(node, known);
          return hi - lo;
        };
        return { [`${prefix}span`]: [Math.max(relief(over), relief(under), 1e-6)] };
      });
      const coverage = b.clamp(input('coverage'), b.constant(0), b.constant(1));
      const weight = b.node('crossover', [
        landed,
        under,
        span,
        coverage,
        b.clamp(input('soft'), b.constant(0), b.constant(1)),
        above.spread,
        below.spread,
      ]);
      const top = { ...above, channels: { ...above.channels, height: landed } };
      return { out: { surface: mixedShading(b, below, top, weight, input('contact')) }, weight };
    },
  },
  {
    name: 'tint',
    group: 'surfaces',
    help: 'A surface with its base colour times a colour, by an amount',
    words: 'colour, recolour, dye, hue, wet, darken',
    materialx: 'PB_tint',
    inputs: () => [
      surfaceIn('in'),
      { name: 'colour', type: 'vec3', initial: [1, 1, 1], colour: true },
      { name: 'amount', type: 'float', initial: [1], low: 0, high: 1 },
    ],
    outputs: () => [{ name: 'out', type: 'surface' }],
    settings: [],
    lower: ({ b, surface, input }) => {
      const value = surface('in');
      const { baseColor } = value.surface.channels;
      return { out: withChannels(value, { baseColor: b.mix(baseColor, b.multiply(baseColor, input('colour')), input('amount')) }) };
    },
  },
  {
    name: 'detailnormal',
    group: 'surfaces',
    help: 'A surface with a detail normal laid over its own, by a strength',
    words: 'detail, micro normal, scratches, reoriented normal mapping',
    materialx: 'PB_detailnormal',
    inputs: () => [
      surfaceIn('in'),
      { name: 'detail', type: 'vec3', initial: FLAT },
      { name: 'strength', type: 'float', initial: [1], low: 0, high: 4 },
    ],
    outputs: () => [{ name: 'out', type: 'surface' }],
    settings: [],
    lower: ({ b, surface, input }) => {
      const value = surface('in');
      const detail = b.node('mixnormal', [b.constant(...FLAT), input('detail'), input('strength')]);
      return { out: withChannels(value, { normal: b.node('overnormal', [value.surface.channels.normal, detail]) }) };
    },
  },
  {
    name: 'ownnormal',
    group: 'surfaces',
    help: "A surface laid over an asset's own baked normal: the big shapes are the asset's, the small ones the surface's",
    words: 'baked normal, unique normal, asset normal, high to low',
    materialx: 'PB_ownnormal',
    inputs: () => [surfaceIn('in'), { name: 'normal', type: 'vec3', initial: FLAT }],
    outputs: () => [{ name: 'out', type: 'surface' }],
    settings: [],
    lower: ({ b, surface, input }) => {
      const value = surface('in');
      return { out: withChannels(value, { normal: b.node('overnormal', [input('normal'), value.surface.channels.normal]) }) };
    },
  },
  {
    name: 'separatesurface',
    group: 'surfaces',
    help: 'The channels of a surface, each by itself',
    words: 'break surface, get base colour, get roughness, get height',
    materialx: 'PB_separatesurface',
    inputs: () => [surfaceIn('in')],
    outputs: () => CHANNELS,
    settings: [],
    lower: ({ surface }) => surface('in').surface.channels,
  },
  {
    name: 'makesurface',
    group: 'surfaces',
    help: 'A surface of channels: those that nothing feeds are taken from the surface that comes in, or are neutral',
    words: 'set channels, replace roughness, combine to surface',
    materialx: 'PB_makesurface',
    inputs: () => [surfaceIn('in'), ...BLEND_ROLES.map(channelInput)],
    outputs: () => [{ name: 'out', type: 'surface' }],
    settings: [],
    lower: (site) => {
      const { surface, input, fed } = site;
      const base = fed('in') ? surface('in') : { surface: neutralShading(site) };
      // Without a surface the numbers of its own count; over one, only what was said.
      const given = BLEND_ROLES.filter((role) => !fed('in') || fed(role));
      return { out: withChannels(base, Object.fromEntries(given.map((role) => [role, input(role)]))) };
    },
    shape: ({ inputs }) => Object.keys(inputs).sort().join(),
  },
];
