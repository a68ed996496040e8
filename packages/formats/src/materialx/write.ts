// Materials as MaterialX 1.39: standard operations as standard nodes, our own as node definitions with their graph.
import type { DagNode, Drawn, ImageChannel, Operation, UniformRow, ValueType } from '@pebble/core';
import { COMPONENTS, allOperations, channelOf, laneFunction, operation, slotOf, topological } from '@pebble/core';
import { NotStandard, StandardLanes } from './lanes';
import type { Term } from './lanes';
import type { Node } from './xml';
import { element, xmlText } from './xml';

export const MATERIALX_VERSION = '1.39';
const TYPE: Record<ValueType, string> = { float: 'float', vec2: 'vector2', vec3: 'vector3', vec4: 'vector4' };

/** What is written: nodes as they are worked out, and what they are told. */
export interface MaterialXSource {
  name: string;
  help: string;
  /** Optimised; by their roles. */
  outputs: Readonly<Record<string, DagNode>>;
  /** What its numbers are, by the names that its nodes give them, and what they hold. */
  rows: ReadonlyMap<string, UniformRow>;
  values: Readonly<Record<string, readonly number[]>>;
  drawn: Drawn;
  /** The file of a map. */
  fileOf: (slot: number, channel: ImageChannel) => string;
}

/** Operations on components that standard nodes of the same name and the same ports do exactly so, wherever both are defined. */
const SAME = new Set(
  'add subtract multiply divide absval floor ceil sign sqrt exp ln sin cos min max clamp mix invert dotproduct crossproduct power extract combine2 combine3 combine4'.split(
    ' ',
  ),
);
/** Ports that are called otherwise there. */
const PORTS: Readonly<Record<string, readonly string[]>> = {
  dotproduct: ['in1', 'in2'],
  crossproduct: ['in1', 'in2'],
  mix: ['bg', 'fg', 'mix'],
  clamp: ['in', 'low', 'high'],
  invert: ['in'],
  extract: ['in'],
  combine2: ['in1', 'in2'],
  combine3: ['in1', 'in2', 'in3'],
  combine4: ['in1', 'in2', 'in3', 'in4'],
};
const portsOf = ({ name, inputs }: Operation): readonly string[] =>
  PORTS[name] ?? (inputs.length === 1 ? ['in'] : inputs.map((_, i) => `in${i + 1}`));

/** Names as MaterialX takes them: letters, digits and underscores, no digit first, none twice. */
class Names {
  private readonly taken = new Set<string>();
  of(wanted: string): string {
    const base = wanted.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(?=\d)/, '_') || 'unnamed';
    let name = base;
    for (let n = 2; this.taken.has(name); n++) name = `${base}_${n}`;
    this.taken.add(name);
    return name;
  }
}
const numbers = (values: readonly number[]): string => values.map((v) => String(Math.fround(v))).join(', ');

/** Definitions of operations that MaterialX does not have, one for each use that differs. */
class Definitions {
  readonly list: Node[] = [];
  private readonly known = new Map<string, string>();

  /** The category by which a node is used. */
  of(node: DagNode, names: Names): string {
    const op = operation(node.op);
    const types = node.args.map((a) => a.type);
    const key = `${node.op}(${types.join()})${JSON.stringify(node.attrs)}`;
    const found = this.known.get(key);
    if (found) return found;
    const category = names.of(`PB_${node.op}`);
    this.known.set(key, category);
    const nodedef = `ND_${category}`;
    const inputs = op.inputs.map(({ name }, i) =>
      element('input', { name, type: TYPE[types[i]], value: numbers(new Array<number>(COMPONENTS[types[i]]).fill(0)) }),
    );
    const output = element('output', { name: 'out', type: TYPE[node.type] });
    this.list.push(element('nodedef', { name: nodedef, node: category, nodegroup: 'pebble', doc: op.help }, [...inputs, output]));
    this.list.push(this.graph(op, node, category, nodedef) ?? this.text(op, node, category, nodedef));
    return category;
  }

  /** Of standard nodes; null where they cannot say it. */
  private graph(op: Operation, node: DagNode, category: string, nodedef: string): Node | null {
    if (!op.lanes) return null;
    const l = new StandardLanes();
    const parts = node.args.map((arg, i) => {
      const from = { interfacename: op.inputs[i].name };
      if (arg.type === 'float') return [l.put('dot', [element('input', { name: 'in', type: 'float', ...from })])];
      return Array.from({ length: COMPONENTS[arg.type] }, (_, c) =>
        l.put('extract', [
          element('input', { name: 'in', type: TYPE[arg.type], ...from }),
          element('input', { name: 'index', type: 'integer', value: String(c) }),
        ]),
      );
    });
    let out: Term[];
    try {
      out = op.lanes(l, parts as Term[][], node);
    } catch (error) {
      if (error instanceof NotStandard) return null;
      throw error;
    }
    // A number that nothing feeds is a node of its own, so that it can be an output.
    const whole =
      out.length === 1
        ? l.put('dot', [l.input('in', out[0])])
        : l.put(
            `combine${out.length}`,
            out.map((t, i) => l.input(`in${i + 1}`, t)),
            TYPE[node.type],
          );
    return element('nodegraph', { name: `NG_${category}`, nodedef }, [
      ...l.nodes,
      element('output', { name: 'out', type: TYPE[node.type], nodename: whole.node as string }),
    ]);
  }

  /** Of GLSL, for what works on whole numbers: MaterialX has no bits. */
  private text(op: Operation, node: DagNode, category: string, nodedef: string): Node {
    const made = op.lanes ? laneFunction(op.name, op.lanes, node) : { name: '', text: '' };
    return element('implementation', { name: `IM_${category}`, nodedef, target: 'genglsl', function: made.name, sourcecode: made.text });
  }
}

/** Leaves that the place of evaluation fills in, as standard nodes. The coordinate runs down here and up there. */
function leaf(name: string, node: DagNode, put: (category: string, attributes: Record<string, string>, inputs: readonly Node[]) => string): string {
  const type = TYPE[node.type];
  const text = (key: string, of: string, value: string) => element('input', { name: key, type: of, value });
  if (name === 'texcoord' || name === 'uv1' || name === 'uv2') {
    const up = put('texcoord', { type }, [text('index', 'integer', name === 'uv2' ? '1' : '0')]);
    const scaled = put('multiply', { type }, [element('input', { name: 'in1', type, nodename: up }), text('in2', type, '1, -1')]);
    return put('add', { type }, [element('input', { name: 'in1', type, nodename: scaled }), text('in2', type, '0, 1')]);
  }
  if (name === 'position' || name === 'normal') return put(name, { type }, [text('space', 'string', 'world')]);
  if (name === 'viewdirection') {
    // MaterialX looks from the eye to the place.
    const from = put('viewdirection', { type }, [text('space', 'string', 'world')]);
    return put('multiply', { type }, [element('input', { name: 'in1', type, nodename: from }), text('in2', type, '-1, -1, -1')]);
  }
  return put('geompropvalue', { type }, [text('geomprop', 'string', `pebble_${name}`)]);
}

/** The text of a MaterialX 1.39 document. */
export function writeMaterialX({ name, help, outputs, rows, values, drawn, fileOf }: MaterialXSource): string {
  const names = new Names();
  const title = names.of(name);
  // Categories and names of nodes must not meet those of the standard library.
  allOperations().forEach((op) => names.of(op.materialx));
  const definitions = new Definitions();
  const inputs = new Map<string, Node>();
  const inside: Node[] = [];
  const where = new Map<DagNode, string>();
  const put = (category: string, attributes: Record<string, string>, children: readonly Node[]): string => {
    const id = names.of(`n${inside.length}`);
    inside.push(element(category, { name: id, ...attributes }, children));
    return id;
  };
  const from = (port: string, arg: DagNode): Node => {
    const type = TYPE[arg.type];
    if (arg.op === 'constant') return element('input', { name: port, type, value: numbers(arg.attrs['value'] as readonly number[]) });
    if (arg.op === 'value') return element('input', { name: port, type, interfacename: interfaceOf(arg) });
    return element('input', { name: port, type, nodename: where.get(arg) as string });
  };
  /** The input of the graph that a number is. */
  function interfaceOf(node: DagNode): string {
    const key = String(node.attrs['name']);
    const found = inputs.get(key);
    if (found) return found.attributes['name'];
    const row = rows.get(key);
    const called = names.of((row?.name ?? key).replace(/^u_/, ''));
    const type = TYPE[node.type];
    const wide = COMPONENTS[node.type];
    const bounds: Record<string, string> = row?.range
      ? { uisoftmin: numbers(new Array<number>(wide).fill(row.range[0])), uisoftmax: numbers(new Array<number>(wide).fill(row.range[1])) }
      : {};
    inputs.set(
      key,
      element('input', {
        name: called,
        type,
        value: numbers(values[key] ?? new Array<number>(wide).fill(0)),
        ...(row?.what ? { doc: row.what } : {}),
        ...bounds,
      }),
    );
    return called;
  }
  const spread = (arg: DagNode, type: ValueType): string | null =>
    arg.type === type || arg.type !== 'float'
      ? null
      : put(
          `combine${COMPONENTS[type]}`,
          { type: TYPE[type] },
          Array.from({ length: COMPONENTS[type] }, (_, i) => from(`in${i + 1}`, arg)),
        );
  const order = topological(Object.values(outputs), (n) => (n.op === 'image' || n.op === 'imagedetail' ? n.args.slice(0, 1) : n.args));
  for (const node of order) {
    const op = operation(node.op);
    const type = TYPE[node.type];
    if (op.leaf === 'value') interfaceOf(node);
    else if (op.leaf === 'pixel') where.set(node, leaf(node.op, node, put));
    else if (node.op === 'image' || node.op === 'imagedetail') where.set(node, image(node));
    else if (!op.leaf && SAME.has(node.op)) {
      const ports = portsOf(op);
      const wide = op.inputs.every((p) => p.type === 'any') && node.op !== 'dotproduct';
      const children = node.args.map((arg, i) => {
        // How far a mix goes may be one number for all components.
        const whole = wide && !(node.op === 'mix' && i === 2) ? spread(arg, node.type) : null;
        return whole ? element('input', { name: ports[i], type, nodename: whole }) : from(ports[i], arg);
      });
      const index = node.op === 'extract' ? [element('input', { name: 'index', type: 'integer', value: String(node.attrs['index']) })] : [];
      where.set(node, put(op.materialx, { type }, [...children, ...index]));
    } else if (!op.leaf)
      where.set(
        node,
        put(
          definitions.of(node, names),
          { type },
          node.args.map((arg, i) => from(op.inputs[i].name, arg)),
        ),
      );
  }
  /** A channel of a map. Files have the first row at the top, and coordinates run up. */
  function image(node: DagNode): string {
    const channel = channelOf(node);
    const down = from('in1', node.args[0]);
    const scaled = put('multiply', { type: 'vector2' }, [down, element('input', { name: 'in2', type: 'vector2', value: '1, -1' })]);
    const up = put('add', { type: 'vector2' }, [
      element('input', { name: 'in1', type: 'vector2', nodename: scaled }),
      element('input', { name: 'in2', type: 'vector2', value: '0, 1' }),
    ]);
    const colour = channel === 'baseColor';
    const kind = colour ? 'color3' : channel === 'normal' || channel === 'id' ? 'vector3' : 'float';
    const file = element('input', {
      name: 'file',
      type: 'filename',
      value: fileOf(slotOf(node), channel),
      ...(colour ? { colorspace: 'srgb_texture' } : {}),
    });
    const looked = put('image', { type: kind }, [file, element('input', { name: 'texcoord', type: 'vector2', nodename: up })]);
    if (colour) return put('convert', { type: 'vector3' }, [element('input', { name: 'in', type: 'color3', nodename: looked })]);
    if (channel !== 'normal') return looked;
    const parts = [0, 1].map((c) => {
      const part = put('extract', { type: 'float' }, [
        element('input', { name: 'in', type: 'vector3', nodename: looked }),
        element('input', { name: 'index', type: 'integer', value: String(c) }),
      ]);
      const twice = put('multiply', { type: 'float' }, [
        element('input', { name: 'in1', type: 'float', nodename: part }),
        element('input', { name: 'in2', type: 'float', value: '2' }),
      ]);
      return put('subtract', { type: 'float' }, [
        element('input', { name: 'in1', type: 'float', nodename: twice }),
        element('input', { name: 'in2', type: 'float', value: '1' }),
      ]);
    });
    return put(
      'combine2',
      { type: 'vector2' },
      parts.map((p, i) => element('input', { name: `in${i + 1}`, type: 'float', nodename: p })),
    );
  }

  const ports: Node[] = [];
  const graphOutputs: Node[] = [];
  const give = (role: string, port: string, type: string, nodename: string): void => {
    const out = `${role}_out`;
    graphOutputs.push(element('output', { name: out, type, nodename }));
    ports.push(element('input', { name: port, type, nodegraph: title, output: out }));
  };
  /** A node that gives an output, also where that is a number alone. */
  const nodeOf = (node: DagNode): string => where.get(node) ?? put('dot', { type: TYPE[node.type] }, [from('in', node)]);
  const colourOf = (node: DagNode): string =>
    put('convert', { type: 'color3' }, [element('input', { name: 'in', type: 'vector3', nodename: nodeOf(node) })]);
  for (const [role, port] of [
    ['baseColor', 'base_color'],
    ['emissive', 'emissive'],
  ])
    if (outputs[role]) give(role, port, 'color3', colourOf(outputs[role]));
  for (const role of ['roughness', 'metallic', 'occlusion']) if (outputs[role]) give(role, role, 'float', nodeOf(outputs[role]));
  if (outputs['opacity']) give('opacity', 'alpha', 'float', nodeOf(outputs['opacity']));
  if (outputs['normal']) {
    const half = put('multiply', { type: 'vector3' }, [
      element('input', { name: 'in1', type: 'vector3', nodename: nodeOf(outputs['normal']) }),
      element('input', { name: 'in2', type: 'vector3', value: '0.5, 0.5, 0.5' }),
    ]);
    const stored = put('add', { type: 'vector3' }, [
      element('input', { name: 'in1', type: 'vector3', nodename: half }),
      element('input', { name: 'in2', type: 'vector3', value: '0.5, 0.5, 0.5' }),
    ]);
    give('normal', 'normal', 'vector3', put('normalmap', { type: 'vector3' }, [element('input', { name: 'in', type: 'vector3', nodename: stored })]));
  }
  const height = outputs['height'] ? nodeOf(outputs['height']) : null;
  if (height) graphOutputs.push(element('output', { name: 'height_out', type: 'float', nodename: height }));
  const mode = { solid: '0', 'cut-out': '1', glass: '2', additive: '2' }[drawn.as];
  const shader = names.of(`${title}_shader`);
  const moved = names.of(`${title}_displacement`);
  const root = element('materialx', { version: MATERIALX_VERSION, colorspace: 'lin_rec709' }, [
    ...definitions.list,
    element('nodegraph', { name: title, ...(help ? { doc: help } : {}) }, [...inputs.values(), ...inside, ...graphOutputs]),
    element('gltf_pbr', { name: shader, type: 'surfaceshader' }, [
      ...ports,
      element('input', { name: 'alpha_mode', type: 'integer', value: mode }),
      ...(drawn.as === 'cut-out' ? [element('input', { name: 'alpha_cutoff', type: 'float', value: String(drawn.cut) })] : []),
    ]),
    ...(height
      ? [
          element('displacement', { name: moved, type: 'displacementshader' }, [
            element('input', { name: 'displacement', type: 'float', nodegraph: title, output: 'height_out' }),
            element('input', { name: 'scale', type: 'float', value: '1' }),
          ]),
        ]
      : []),
    element('surfacematerial', { name: names.of(`${title}_material`), type: 'material' }, [
      element('input', { name: 'surfaceshader', type: 'surfaceshader', nodename: shader }),
      ...(height ? [element('input', { name: 'displacementshader', type: 'displacementshader', nodename: moved })] : []),
    ]),
  ]);
  return xmlText(root);
}
