import type { DagNode } from '../compile';
import { Builder, channelOf, evaluateOnce, footprintName, operation as registered, optimise, readsMap, slotOf, topological } from '../compile';
import type { MasterDocument } from '../document';
import { linkTo } from '../document';
import type { Laid, Material, MaterialGraph, MaterialProblem, MaterialSlots } from '../material';
import { givenOutputs, readsOf, texturesOf } from '../material';
import { inOrder } from '../order';
import { Recent } from '../recent';
import type { BlendRole, ExtraRole } from '../surface';
import { BLEND_ROLES } from '../surface';
import { intervalOf } from './interval';
import { GraphLowering, readValues } from './lower';
import { mapOf } from './steps/images';
import { masterKey } from './key';
import { extrasOf, shadingOf } from './outputs';
import type { GraphContext, GraphNote, GraphValue, ValueReader } from './step';
import { GraphError } from './step';

/** Shapes of masters whose graphs are kept. */
const MAX_GRAPHS = 12;
/** Metres past which no height goes. */
const HIGHEST = 1000;
/** How much more light than white may come from a place by itself. */
const BRIGHTEST = 1000;

/** A master as it was lowered once for all documents of its shape. */
export interface LoweredMaster {
  far: MaterialGraph;
  /** What each operation gives, by output; a mistake where it cannot be worked out. */
  steps: ReadonlyMap<string, Readonly<Record<string, GraphValue>> | GraphError>;
  near: () => MaterialGraph;
  readers: readonly ValueReader[];
  lists: GraphLowering['lists'];
  notes: readonly GraphNote[];
  /** Why there is no picture; null when there is one. */
  error: GraphError | null;
}

/** Channels as they leave a graph: held in their ranges, nothing being no number. */
function heldOf(b: Builder, role: BlendRole | ExtraRole, node: DagNode): DagNode {
  if (role === 'normal') return registered(node.op).unit ? node : b.node('overnormal', [b.constant(0, 0, 1), node]);
  const [low, high] = role === 'height' ? [-HIGHEST, HIGHEST] : [0, role === 'emissive' ? BRIGHTEST : 1];
  return b.node('hold', [node, b.constant(low), b.constant(high)]);
}

function outputsOf(lowering: GraphLowering, document: MasterDocument): MaterialGraph['outputs'] {
  const { b } = lowering;
  const { channels, extras: own, specular } = shadingOf(lowering, document);
  const held = Object.fromEntries(BLEND_ROLES.map((role) => [role, heldOf(b, role, channels[role])])) as Record<BlendRole, DagNode>;
  const fed = Object.entries({ ...own, ...extrasOf(lowering, document) });
  const extras: Partial<Record<ExtraRole, DagNode>> = Object.fromEntries(fed.map(([name, node]) => [name, heldOf(b, name as ExtraRole, node)]));
  return { specular, ...held, ...extras, identity: held.baseColor };
}

/** Lowers a document: its outputs, and each operation by itself. */
export function lowerMaster(document: MasterDocument, context: GraphContext): LoweredMaster {
  const lower = (far: boolean) => {
    const lowering = new GraphLowering(new Builder(), document, context, far);
    let error: GraphError | null = null;
    let outputs: MaterialGraph['outputs'];
    try {
      lowering.ahead();
      outputs = outputsOf(lowering, document);
    } catch (caught) {
      if (!(caught instanceof GraphError)) throw caught;
      error = caught;
      outputs = outputsOf(new GraphLowering(new Builder(), { ...document, outputs: {} }, context, far), { ...document, outputs: {} });
    }
    return { lowering, error, graph: { outputs, probes: [] } };
  };
  const { lowering, error, graph } = lower(true);
  // What no output needs has values and slots of its own, after those that count.
  const steps = new Map<string, Record<string, GraphValue> | GraphError>();
  if (error?.code !== 'too-many') lowering.ahead(Object.keys(document.operations).map((id) => linkTo(id)));
  for (const id of error?.code === 'too-many' ? [] : Object.keys(document.operations))
    try {
      steps.set(id, lowering.of(id));
    } catch (caught) {
      if (!(caught instanceof GraphError)) throw caught;
      steps.set(id, caught);
    }
  let near: MaterialGraph | undefined;
  const { readers, lists, notes } = lowering;
  return { far: graph, steps, near: () => (near ??= lower(false).graph), readers, lists, notes, error };
}

/** Materials of masters. Documents of one shape share their graphs: another number lowers nothing. */
export class MasterMaterials {
  private readonly shapes = new Recent<string, LoweredMaster>(MAX_GRAPHS);
  /** How often a graph was lowered so far: dragging a value must not raise it. */
  lowered = 0;

  /** @param watch operations that no output needs count as well */
  lowering(document: MasterDocument, context: GraphContext, watch = false): LoweredMaster {
    const key = masterKey(document, context, watch ? Object.keys(document.operations) : undefined);
    return this.shapes.of(key, () => {
      this.lowered++;
      return lowerMaster(document, context);
    });
  }

  of(document: MasterDocument, context: GraphContext): Material {
    const key = masterKey(document, context);
    return materialOf(key, this.lowering(document, context), document, context);
  }
}

/** What a lowered master looks up. */
export const lookedUp = ({ lists }: LoweredMaster): MaterialSlots => ({ surfaces: lists.slots, masks: lists.masks, ids: lists.ids });

/** A material of what was lowered, with values of a document of its shape. */
export function materialOf(key: string, lowered: LoweredMaster, document: MasterDocument, context: GraphContext, outputs = lowered.far): Material {
  const { notes, error } = lowered;
  const values = readValues(lowered.readers, document, context);
  let reads: Material['reads'] | undefined;
  let bounds: Material['bounds'] | undefined;
  let laid: Material['laid'] | undefined;
  return {
    key,
    extentM: document.extentM,
    drawn: { as: document.drawn, cut: document.cut },
    far: outputs,
    get near() {
      return outputs === lowered.far ? lowered.near() : outputs;
    },
    values,
    slots: lookedUp(lowered),
    get laid() {
      return (laid ??= laidBy(outputs, values));
    },
    get reads() {
      return (reads ??= readsOf(optimise(outputs.outputs).outputs));
    },
    get bounds() {
      if (!bounds) {
        const { lo, hi } = intervalOf(outputs.outputs.height, values);
        bounds = { lo, hi: Math.max(hi, lo + 1e-6) };
      }
      return bounds;
    },
    layers: [],
    problems: [...notes.map(problemOf), ...(error ? [problemOf(error)] : [])],
  };
}

const problemOf = ({ operation, code, message }: Pick<GraphError, 'operation' | 'message'> & { code: string }): MaterialProblem => ({
  layer: operation,
  code: (['missing-surface', 'missing-map', 'cycle', 'unused'].includes(code) ? code : 'graph') as MaterialProblem['code'],
  message,
});

/** How often maps lie over the extent, where it is the same everywhere; once where it is not. */
function laidBy({ outputs }: MaterialGraph, values: Material['values']): Material['laid'] {
  const b = new Builder();
  const found = { surfaces: new Map<string, Laid>(), masks: new Map<string, Laid>() };
  const one = Object.fromEntries(
    (['texcoord', 'uv1', 'uv2'] as const).flatMap((of) => [
      [footprintName(of, 'x'), [1, 0]],
      [footprintName(of, 'y'), [0, 1]],
    ]),
  );
  const known = new Map<DagNode, number>();
  const repeatsOf = (uv: DagNode): number => {
    if (!known.has(uv)) {
      let times = 1;
      try {
        const [u, v] = evaluateOnce({ d: b.derivative(b.taken(uv), 'x') }, { ...values, ...one })['d'];
        times = Math.hypot(u, v) || 1;
      } catch {
        // It differs from place to place.
      }
      known.set(uv, times);
    }
    return known.get(uv) as number;
  };
  for (const node of topological(Object.values(outputs))) {
    if (!readsMap(node) || channelOf(node) === 'id') continue;
    const laid = { slot: slotOf(node), repeats: repeatsOf(node.args[0]) };
    (channelOf(node) === 'mask' ? found.masks : found.surfaces).set(`${laid.slot}/${laid.repeats}`, laid);
  }
  return { surfaces: [...found.surfaces.values()], masks: [...found.masks.values()] };
}

/** Textures that a target binds for it: one a packed texture and slot. */
export function samplersOf({ outputs }: Pick<MaterialGraph, 'outputs'>): number {
  return texturesOf(readsOf(optimise(givenOutputs({ outputs })).outputs)).length;
}

/** Switches that decide something, and how many programs that makes. */
export function permutationsOf(document: MasterDocument): { live: string[]; count: number } {
  const used = new Set(Object.values(document.operations).flatMap(({ step, settings }) => (step === 'switch' ? [String(settings['switch'])] : [])));
  const live = inOrder(document.switches).flatMap(({ id }) => (used.has(id) ? [id] : []));
  return { live, count: 2 ** live.length };
}

/** Every map that an operation shows, for lists of what is used. */
export const mapsUsed = (document: MasterDocument): { operation: string; surface: string }[] =>
  Object.entries(document.operations).flatMap(([operation, op]) => {
    const followed = Object.values(op.inputs).flatMap((s) => {
      const holds = s.from === 'parameter' ? document.parameters[s.parameter]?.holds : undefined;
      return holds?.kind === 'surface' && holds.surface ? [{ operation, surface: holds.surface }] : [];
    });
    const surface =
      op.step === 'image' || op.step === 'tiledimage'
        ? mapOf(op, document).surface
        : op.step === 'surface'
          ? String(op.settings['surface'] ?? '')
          : '';
    return surface ? [{ operation, surface }, ...followed] : followed;
  });
