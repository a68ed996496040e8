import type { Builder, DagNode, Values } from '../compile';
import { COMPONENTS, CompileError } from '../compile';
import type { SlotLists } from '../blend';
import type { MasterDocument, MasterOperation, Source } from '../document';
import { MAX_OPERATIONS } from '../document';
import { linearOf } from '../image';
import { inFlow } from './key';
import { laidSurface } from './laid-surface';
import { neutralShading } from './neutral';
import type { GraphContext, GraphNote, GraphValue, Lowering, StepInput, StepSetting, GraphStep, StepSite, SurfaceValue, ValueReader } from './step';
import { stepKind } from './catalogue';
import { GraphError, isSurface } from './step';

/** Operations that may wait for each other: what feeds is worked out before what is fed, so only those in a circle do. */
const MAX_CIRCLE = 100;

/** The value that says how many seconds of the loop have passed: the same for all of a material. */
export const TIME_VALUE = 'time';

/** An id as part of a GLSL name: letters and digits alone, no two ids alike. */
const safe = (id: string): string => id.replace(/[_Z-]/g, (c) => ({ _: 'Z0', '-': 'Z1', Z: 'ZZ' })[c] as string);
/** The value that a parameter is, by its name. */
export const parameterValue = (id: string): string => `p${safe(id)}`;
/** What the values of a step of a kind begin with, that it has beside its inputs. */
export const stepPrefix = (id: string): string => `n${safe(id)}Z0`;
/** The value that an input's own number is, by its name. */
export function valueName(document: MasterDocument, { operation, port }: { operation: string; port: string }, context: GraphContext): string {
  const op = document.operations[operation];
  const at = op
    ? stepKind(op.step, operation)
        .inputs(op, context)
        .findIndex((i) => i.name === port)
    : -1;
  return `v${safe(operation)}Z0${at < 0 ? safe(port.replace(/\./g, '_')) : at}`;
}

/** A master that is lowered as one operation of another. */
interface Within {
  /** Prefix of its values. */
  prefix: string;
  lists: SlotLists;
  /** What stands in for a parameter of it; null for its own. */
  feeds(parameter: string): GraphValue | null;
  read(reader: ValueReader): void;
  note(code: GraphNote['code'], message: string): void;
}

/** Turns operations of a document into nodes, each when it is first asked for. */
export class GraphLowering implements Lowering {
  readonly lists: SlotLists;
  readonly notes: GraphNote[] = [];
  readonly readers: ValueReader[] = [];
  private readonly done = new Map<string, Record<string, GraphValue> | GraphError>();
  private readonly under: string[] = [];

  constructor(
    readonly b: Builder,
    private readonly document: MasterDocument,
    private readonly context: GraphContext,
    private readonly far: boolean,
    private readonly nested: Within | null = null,
    /** See `StepSite.all`. */
    private readonly all = false,
  ) {
    this.lists = nested?.lists ?? { slots: [], masks: [], ids: [] };
  }

  private called = (name: string): string => `${this.nested?.prefix ?? ''}${name}`;
  private read = (reader: ValueReader): void => void (this.nested ? this.nested.read(reader) : this.readers.push(reader));
  private note = (operation: string, code: GraphNote['code'], message: string): void =>
    void (this.nested ? this.nested.note(code, message) : this.notes.push({ operation, code, message }));

  /** Works out all that sources need, each before what it feeds: a row of operations may be as long as it likes. Mistakes are kept for who asks. */
  ahead(from?: readonly Source[]): void {
    const { document } = this;
    const count = Object.keys(document.operations).length;
    if (count > MAX_OPERATIONS)
      throw new GraphError('too-many', `${count} operations are more than the ${MAX_OPERATIONS} that a master may have`, '');
    for (const id of inFlow(document, from))
      try {
        this.of(id);
      } catch (error) {
        if (!(error instanceof GraphError)) throw error;
      }
  }

  /** All outputs of an operation. @throws GraphError */
  of(id: string): Record<string, GraphValue> {
    const found = this.done.get(id);
    if (found instanceof GraphError) throw found;
    if (found) return found;
    try {
      const made = this.made(id);
      this.done.set(id, made);
      return made;
    } catch (error) {
      const known = error instanceof GraphError ? error : this.mistake(error, id);
      this.done.set(id, known);
      throw known;
    }
  }

  /** What a source gives. @param at who asks, for messages; @throws GraphError */
  source(source: Source, at: { operation: string; port: string }, input?: StepInput): GraphValue {
    const { b, document } = this;
    if (source.from === 'value') {
      if (this.all && !this.nested) return b.constant(...source.value);
      const name = this.called(valueName(document, at, this.context));
      const wide = source.value.length;
      const { operation, port } = at;
      this.read((d) => {
        const now = operation ? d.operations[operation]?.inputs[port] : d.outputs[port as 'height'];
        return { [name]: now?.from === 'value' && now.value.length === wide ? now.value : source.value };
      });
      return b.value(name, (['float', 'vec2', 'vec3', 'vec4'] as const)[wide - 1]);
    }
    if (source.from === 'parameter') return this.parameter(source.parameter, at, input);
    if (source.from === 'published') {
      const named = document.published[source.published];
      if (!named) throw new GraphError('missing-link', 'The published value that it reads is gone. Choose another', at.operation, at.port);
      return this.output(named.operation, named.port, at);
    }
    return this.output(source.operation, source.port, at);
  }

  private output(id: string, port: string, at: { operation: string; port: string }): GraphValue {
    if (!Object.hasOwn(this.document.operations, id))
      throw new GraphError('missing-link', `What ${at.port} was linked to is gone. Link another`, at.operation, at.port);
    const given = this.of(id);
    if (!Object.hasOwn(given, port)) {
      const name = this.document.operations[id].step;
      throw new GraphError(
        'unknown-port',
        `${name} has no output ${port}: it has ${Object.keys(given).join(', ')}. Link another`,
        at.operation,
        at.port,
      );
    }
    return given[port];
  }

  private parameter(id: string, at: { operation: string; port: string }, input?: StepInput): GraphValue {
    const parameter = this.document.parameters[id];
    if (!parameter) throw new GraphError('missing-link', `The parameter that ${at.port} follows is gone. Choose another`, at.operation, at.port);
    const fed = this.nested?.feeds(id);
    if (fed) return fed;
    const { holds } = parameter;
    if (holds.kind === 'surface') return this.surfaceOf(id, holds.surface, at);
    if (holds.kind === 'map')
      throw new GraphError('type-mismatch', `${parameter.name} holds a map, and ${at.port} takes ${input?.type ?? 'numbers'}`, at.operation, at.port);
    const name = this.called(parameterValue(id));
    const wide = holds.kind === 'colour' ? 3 : holds.value.length;
    this.read((d) => {
      const now = d.parameters[id]?.holds ?? holds;
      return { [name]: now.kind === 'colour' ? linearOf(now.value) : now.kind === 'number' ? now.value : new Array<number>(wide).fill(0) };
    });
    return this.b.value(name, (['float', 'vec2', 'vec3', 'vec4'] as const)[wide - 1]);
  }

  private readonly laid = new Map<string, SurfaceValue>();
  /** The surface that a parameter holds, laid over the extent. */
  private surfaceOf(id: string, surface: string, at: { operation: string }): SurfaceValue {
    const { b, lists, context, far, laid } = this;
    const known = laid.get(id);
    if (known) return known;
    const prefix = this.called(`${parameterValue(id)}Z0`);
    const value: StepSite['value'] = (name, type, read) => (this.read(read), b.value(`${prefix}${name}`, type));
    const there = context.surfaces[surface] !== undefined;
    if (!there && !this.nested)
      this.note(at.operation, 'missing-surface', `${this.document.parameters[id].name} holds no surface: it gives neutral values. Choose one`);
    const made = {
      surface: there ? laidSurface({ b, lists, context, far, prefix, value }, surface, b.node('texcoord'), b.constant(1)) : neutralShading({ b }),
    };
    laid.set(id, made);
    return made;
  }

  private made(id: string): Record<string, GraphValue> {
    const operation = this.document.operations[id];
    if (this.under.includes(id)) {
      const names = [...this.under.slice(this.under.indexOf(id)), id].map((i) => nameOf(this.document.operations[i]));
      throw new GraphError('cycle', `It feeds itself: ${names.join(' → ')}. Take one of the links away`, id);
    }
    if (this.under.length >= MAX_CIRCLE)
      throw new GraphError('cycle', `It feeds itself over more than ${MAX_CIRCLE} operations. Take one of the links away`, id);
    const kind = stepKind(operation.step, id);
    this.under.push(id);
    try {
      const site = this.site(id, operation, kind);
      return operation.bypassed ? this.bypass(site, kind) : kind.lower(site);
    } finally {
      this.under.pop();
    }
  }

  /** Every output gives the first input that fits. */
  private bypass(site: StepSite, kind: GraphStep): Record<string, GraphValue> {
    const inputs = kind.inputs(site.operation, this.context).filter((i) => i.type !== 'map');
    const first = kind.through ?? inputs.find((i) => site.fed(i.name))?.name ?? inputs[0]?.name;
    if (first === undefined) throw new GraphError('missing-input', 'It takes nothing in, so it cannot be bypassed', site.id);
    const value = site.either(first);
    return Object.fromEntries(
      kind.outputs(site.operation, this.context).map(({ name, type }) => {
        const channel = isSurface(value) && type !== 'surface' ? value.surface.channels[name as 'height'] : value;
        return [name, channel ?? value];
      }),
    );
  }

  private site(id: string, operation: MasterOperation, kind: GraphStep): StepSite {
    const { b, document, context, far, lists } = this;
    const inputs = kind.inputs(operation, context);
    const prefix = this.called(stepPrefix(id));
    const fail: StepSite['fail'] = (code, message, port, at) => {
      throw new GraphError(code, message, id, port, at);
    };
    const nothingYet = (port: string): SurfaceValue => {
      this.note(id, 'missing-surface', `Nothing feeds ${portName(inputs, port)} yet: a neutral surface stands in`);
      return { surface: neutralShading({ b }) };
    };
    const either = (port: string): GraphValue => {
      const input = inputs.find((i) => i.name === port);
      if (!input) return fail('unknown-port', `${kind.name} has no input ${port}`, port);
      const source = operation.inputs[port];
      if (source) return this.source(source, { operation: id, port }, input);
      if (input.type === 'surface') return nothingYet(port);
      return typeof input.initial === 'string' ? b.node(input.initial) : this.initial(input, id);
    };
    return {
      b,
      id,
      operation,
      document,
      context,
      far,
      all: this.all,
      lists,
      prefix,
      either,
      input: (port) => {
        const value = either(port);
        if (isSurface(value)) return fail('type-mismatch', `${port} takes numbers, and a surface comes in. Link one of its channels`, port);
        return this.fitted(value, inputs.find((i) => i.name === port) as StepInput, id);
      },
      surface: (port): SurfaceValue => {
        const value = either(port);
        if (!isSurface(value) && isIdle(document, operation.inputs[port])) return nothingYet(port);
        return isSurface(value)
          ? value
          : fail('type-mismatch', `${port} takes a surface, and a ${value.type} comes in. Make a surface of it first (makesurface)`, port);
      },
      fed: (port) => Object.hasOwn(operation.inputs, port),
      setting: (name) => operation.settings[name] ?? kind.settings.find((s) => s.name === name)?.initial ?? '',
      count: (name) => {
        const { low = 1, high = Infinity, label, most = '', initial } = kind.settings.find((s) => s.name === name) as StepSetting;
        const count = Number(operation.settings[name] ?? initial);
        if (Number.isInteger(count) && count >= low && count <= high) return count;
        return fail(
          'too-many',
          `${label} is ${operation.settings[name]}: a whole number from ${low} to ${high} is possible${most && `, ${most}`}. Choose one`,
        );
      },
      time: () => {
        this.read(() => ({ [TIME_VALUE]: [0] }));
        return b.value(TIME_VALUE);
      },
      value: (name, type, read) => {
        this.read(read);
        return b.value(`${prefix}${name}`, type);
      },
      number: (port, type, initial) => {
        const name = this.called(valueName(document, { operation: id, port }, context));
        const wide = COMPONENTS[type];
        this.read((d, c) => {
          const now = d.operations[id]?.inputs[port];
          return { [name]: now?.from === 'value' && now.value.length === wide ? now.value : initial(c) };
        });
        return b.value(name, type);
      },
      within: (master, now, feeds) =>
        new GraphLowering(
          b,
          master,
          context,
          far,
          {
            prefix,
            lists,
            feeds,
            read: (reader) =>
              this.read((d, c, known) => {
                const inner = now(d, c);
                return inner ? reader(inner, c, known) : {};
              }),
            note: (code, message) => this.note(id, code, `In ${master.name}: ${message}`),
          },
          this.all,
        ),
      read: this.read,
      level: (uv, slot, channel) => b.node('imagelevel', [b.derivative(uv, 'x'), b.derivative(uv, 'y')], { slot, channel }),
      note: (code, message) => this.note(id, code, message),
      fail,
    };
  }

  /** Numbers that an input starts with, as a value: turning them for the first time compiles nothing. */
  private initial = (input: StepInput, id: string): DagNode =>
    this.source({ from: 'value', value: [...(input.initial as readonly number[])] }, { operation: id, port: input.name }, input) as DagNode;

  private fitted(node: DagNode, { type, name }: StepInput, id: string): DagNode {
    if (type === 'any' || type === 'either' || node.type === type) return node;
    if (node.type === 'float' && type !== 'surface' && type !== 'map') return this.b.combine(...new Array<DagNode>(COMPONENTS[type]).fill(node));
    throw new GraphError('type-mismatch', `${name} takes a ${type}, and a ${node.type} comes in. ${remedy(node.type, type)}`, id, name);
  }

  private mistake(error: unknown, id: string): GraphError {
    if (error instanceof CompileError) {
      const op = this.document.operations[id];
      return new GraphError('type-mismatch', error.message.replace(/^[\w]+: /, `${op ? nameOf(op) : ''}: `), id, error.port);
    }
    throw error;
  }
}

/** Whether a source is a switch that nothing feeds: what it will be is not known yet. */
function isIdle({ operations }: MasterDocument, source: Source | undefined): boolean {
  const op = source?.from === 'link' ? operations[source.operation] : undefined;
  return op?.step === 'switch' && !Object.values(op.inputs).some((s) => s.from !== 'value');
}

/** What a port is called. */
const portName = (inputs: readonly StepInput[], port: string): string => inputs.find((i) => i.name === port)?.label ?? port;
const nameOf = ({ name, step }: MasterOperation): string => name || step;
const remedy = (has: string, wants: string): string =>
  wants === 'float'
    ? 'Take one of its components (extract), or its luminance'
    : `Make one of ${has === 'vec4' ? 'its components (swizzle)' : 'numbers (combine)'}`;

/** All values, from the readers in the order in which they came. */
export function readValues(readers: readonly ValueReader[], document: MasterDocument, context: GraphContext): Values {
  const known: Record<string, readonly number[]> = {};
  for (const read of readers) Object.assign(known, read(document, context, known));
  return known;
}
