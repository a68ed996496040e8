// What any step gives: pictures, the numbers that occur, curves over one of its inputs, and where it reaches.
import type { DagNode, Domain, Sources, Values } from '../compile';
import { Builder, COMPONENTS, CpuProgram, flatDomain, optimise, topological } from '../compile';
import type { MaterialGraph } from '../material';
import type { LoweredMaster } from './material';
import { neutralShading } from './neutral';
import type { GraphValue } from './step';
import { GraphError, isSurface } from './step';

/** What an output shows itself by: a surface by its base colour. */
export const shownNode = (value: GraphValue): DagNode => (isSurface(value) ? value.surface.channels.baseColor : value);

/** The value of an output of an operation; null where it cannot be worked out. */
export function stepValue({ steps }: LoweredMaster, operation: string, port: string): GraphValue | null {
  const given = steps.get(operation);
  return !given || given instanceof GraphError ? null : (given[port] ?? null);
}

export interface StepLook {
  /** A plane of numbers a component, from the top-left. */
  planes: Float32Array[];
  lo: number;
  hi: number;
  /** Share of the numbers beyond 0–1. */
  outside: number;
}

/** Where steps are looked at, and with what. */
export interface LookFrom {
  values: Values;
  sources: Sources;
  /** Places over one repetition, or over those of a mesh. */
  domain: Domain;
}

/** Pictures of every step at once. @param ports the output of each operation that is looked at */
export function stepLooks(lowered: LoweredMaster, at: LookFrom, ports: Readonly<Record<string, string>>): Map<string, StepLook> {
  const outputs: Record<string, DagNode> = {};
  for (const [id, port] of Object.entries(ports)) {
    const value = stepValue(lowered, id, port);
    if (value) outputs[id] = shownNode(value);
  }
  const found = new Map<string, StepLook>();
  if (!Object.keys(outputs).length) return found;
  for (const [id, list] of Object.entries(planesAt(outputs, at))) found.set(id, { planes: list, ...rangeOf(list) });
  return found;
}

function rangeOf(planes: readonly Float32Array[]): Omit<StepLook, 'planes'> {
  let [lo, hi, outside, count] = [Infinity, -Infinity, 0, 0];
  for (const plane of planes)
    for (const v of plane) {
      if (v < lo) lo = v;
      if (v > hi) hi = v;
      if (v < -1e-6 || v > 1 + 1e-6) outside++;
      count++;
    }
  return { lo, hi, outside: count ? outside / count : 0 };
}

/** Planes of outputs at every place of a domain. */
export const planesAt = (outputs: Readonly<Record<string, DagNode>>, at: LookFrom): Record<string, Float32Array[]> =>
  planesOf(new CpuProgram(optimise(outputs).outputs), at);

/** The same of a program that is there. */
export function planesOf(program: CpuProgram, options: LookFrom): Record<string, Float32Array[]> {
  const { width, height } = options.domain;
  const out = Object.fromEntries(
    Object.entries(program.outputs).map(([name, { type }]) => [
      name,
      Array.from({ length: COMPONENTS[type] }, () => new Float32Array(width * height)),
    ]),
  );
  program.run(options, (tile, planes) => {
    for (const name of Object.keys(out))
      planes(name).forEach((plane, c) => {
        for (let y = 0; y < tile.height; y++) out[name][c].set(plane.subarray(y * tile.width, (y + 1) * tile.width), (tile.y + y) * width + tile.x);
      });
  });
  return out;
}

/** How often numbers occur: `bins` counts over `[lo, hi]`, and the content's range without its furthest hundredth. */
export interface Histogram {
  lo: number;
  hi: number;
  bins: number[];
  from: number;
  to: number;
}
export function histogramOf(plane: Float32Array, bins = 48): Histogram {
  const sorted = Float32Array.from(plane).sort();
  const [lo, hi] = [sorted[0] ?? 0, sorted[sorted.length - 1] ?? 0];
  const counts = new Array<number>(bins).fill(0);
  const span = hi - lo || 1;
  for (const v of plane) counts[Math.min(bins - 1, Math.floor(((v - lo) / span) * bins))]++;
  const at = (share: number) => sorted[Math.round(share * (sorted.length - 1))] ?? 0;
  return { lo, hi, bins: counts, from: at(0.01), to: at(0.99) };
}

export interface PlotRequest {
  /** What is drawn: outputs of operations, the first one being looked at. */
  curves: readonly { operation: string; port: string }[];
  /** What runs along: an output, or a value by its name (an input's own number, a parameter). */
  along: { operation: string; port: string } | { value: string };
  from: number;
  to: number;
  /** Where everything else is taken from, as a share of one repetition. */
  at: readonly [number, number];
  points: number;
}
export interface Plot {
  x: Float32Array;
  /** One a curve: planes of components; null where it cannot be worked out. `follows`: whether it hangs on what runs along. */
  curves: ({ planes: Float32Array[]; follows: boolean } | null)[];
  /** What occurs of that which runs along, over one repetition; null where it is one number. */
  occurs: Histogram | null;
}

/** Outputs as functions of something they hang on, everything else being as it is at one place. @param at where that occurs which runs along */
export function plotOf(lowered: LoweredMaster, request: PlotRequest, { values, sources, domain: places }: LookFrom): Plot {
  const { curves, along, from, to, at, points } = request;
  const b = new Builder();
  const nodes = curves.map(({ operation, port }) => {
    const value = stepValue(lowered, operation, port);
    return value ? b.taken(shownNode(value)) : null;
  });
  const asked = 'value' in along ? null : stepValue(lowered, along.operation, along.port);
  const roots = nodes.filter((n): n is DagNode => n !== null);
  const moving =
    'value' in along
      ? topological(roots).find((n) => n.op === 'value' && n.attrs['name'] === along.value)
      : asked
        ? b.taken(shownNode(asked))
        : undefined;
  const sweep = b.node('sweep');
  const spread = moving && COMPONENTS[moving.type] > 1 ? b.combine(...new Array<DagNode>(COMPONENTS[moving.type]).fill(sweep)) : sweep;
  const swept = nodes.map((node) => node && (moving ? b.replaced(node, moving, spread) : node));
  const x = Float32Array.from({ length: points }, (_, i) => from + ((to - from) * i) / Math.max(1, points - 1));
  const texcoord = Float32Array.from({ length: points * 2 }, (_, i) => at[i % 2]);
  const domain: Domain = { ...flatDomain(points, 1, 1, { texcoord, sweep: x }), footprint: { x: [1 / 512, 0], y: [0, 1 / 512] } };
  const outputs = Object.fromEntries(swept.flatMap((node, i) => (node ? [[`c${i}`, node]] : [])));
  const planes = Object.keys(outputs).length ? planesAt(outputs, { domain, values, sources }) : {};
  let occurs: Histogram | null = null;
  if (moving && moving.op !== 'value') {
    const content = planesAt({ moving }, { domain: places, values, sources })['moving'];
    occurs = histogramOf(content[0]);
  }
  return { x, occurs, curves: swept.map((node, i) => node && { planes: planes[`c${i}`], follows: node !== nodes[i] }) };
}

/** The colour by which what a step reaches is seen: nothing in the trade looks like it. */
export const PROBE_COLOUR = [1, 0, 0.55] as const;
/** A change smaller than this is seen by nobody: half a step of eight bits. */
const UNSEEN = 0.5 / 255;

/** Whether what an operation gives changes anything of a material at a place: 1 or 0. It is turned to two other values, so that no chance hides it. */
export function reachOf(b: Builder, graph: MaterialGraph, value: GraphValue): DagNode {
  const targets = isSurface(value) ? Object.values(value.surface.channels) : [value];
  const names = ['baseColor', 'normal', 'roughness', 'occlusion', 'metallic', 'height'] as const;
  let most = b.constant(0);
  for (const target of targets) {
    const taken = b.taken(target);
    const others = [b.subtract(b.constant(0.87), b.multiply(taken, b.constant(0.61))), b.add(taken, b.constant(0.43))];
    for (const other of others)
      for (const name of names) {
        const before = b.taken(graph.outputs[name]);
        const after = b.replaced(before, taken, other);
        if (after === before) continue;
        const apart = b.node('absval', [b.subtract(after, before)]);
        for (let c = 0; c < COMPONENTS[apart.type]; c++) most = b.max(most, COMPONENTS[apart.type] > 1 ? b.extract(apart, c) : apart);
      }
  }
  return b.node('step', [b.constant(UNSEEN), most]);
}

const outputsOf = (b: Builder, { outputs }: MaterialGraph): Record<keyof MaterialGraph['outputs'], DagNode> =>
  Object.fromEntries(Object.entries(outputs).map(([name, node]) => [name, b.taken(node)])) as Record<keyof MaterialGraph['outputs'], DagNode>;

/** A material's graph painted where a step reaches. */
export function probedGraph(graph: MaterialGraph, value: GraphValue): MaterialGraph {
  const b = new Builder();
  const reach = reachOf(b, graph, value);
  const outputs = outputsOf(b, graph);
  outputs.baseColor = b.mix(outputs.baseColor, b.constant(...PROBE_COLOUR), reach);
  return { outputs, probes: [] };
}

/** A material's graph that works out these steps and nothing else: its base colour is all that they give, added up. */
export function workedOut({ steps }: LoweredMaster, ids: readonly string[]): MaterialGraph {
  const b = new Builder();
  const { channels, specular } = neutralShading({ b });
  let sum = channels.baseColor;
  for (const id of ids) {
    const given = steps.get(id);
    if (!given || given instanceof GraphError) continue;
    for (const value of Object.values(given))
      for (const node of isSurface(value) ? Object.values(value.surface.channels) : [value]) {
        const taken = b.taken(node);
        const wide = COMPONENTS[taken.type];
        const part = (c: number) => (wide === 1 ? taken : b.extract(taken, Math.min(c, wide - 1)));
        sum = b.add(sum, wide === 3 ? taken : b.combine(part(0), part(1), part(2)));
        if (wide === 4) sum = b.add(sum, b.combine(part(3), part(3), part(3)));
      }
  }
  return { outputs: { ...channels, baseColor: sum, specular, identity: sum }, probes: [] };
}

/** Share of the places that a step changes, 0–1. */
export function reachShare(graph: MaterialGraph, value: GraphValue, at: LookFrom): number {
  const b = new Builder();
  const [plane] = planesAt({ reach: reachOf(b, graph, value) }, at)['reach'];
  return plane.reduce((sum, v) => sum + v, 0) / plane.length;
}

/** The channel of the stage in which the output of a step is seen as it is. */
export const shownChannel = (value: GraphValue): 'lit' | 'normal' => (isSurface(value) ? 'lit' : 'normal');

/** A material's graph that shows the output of a step: a surface as itself, numbers in the channel of normals. */
export function shownGraph(graph: MaterialGraph, value: GraphValue): MaterialGraph {
  const b = new Builder();
  const outputs = outputsOf(b, graph);
  if (isSurface(value)) {
    const { channels, specular } = value.surface;
    for (const [name, node] of Object.entries(channels)) outputs[name as 'height'] = b.taken(node);
    outputs.specular = b.taken(specular);
    return { outputs, probes: [] };
  }
  const node = b.taken(value);
  const wide = COMPONENTS[node.type];
  const part = (c: number) => (wide === 1 ? node : c < wide ? b.extract(node, c) : b.constant(0));
  // The channel of normals shows a number x as (x + 1) / 2: numbers are stretched so that they are seen as they are.
  const held = [0, 1, 2].map((c) => b.node('hold', [part(c), b.constant(0), b.constant(1)]));
  outputs.normal = b.combine(...held.map((x) => b.subtract(b.multiply(x, b.constant(2)), b.constant(1))));
  return { outputs, probes: [] };
}
