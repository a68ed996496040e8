// A master as shaders that anybody can use: complete GLSL ES 3.00, with a table of what it has to be told.
import type { DagNode, GlslProgram, Unit } from '../compile';
import { emitGlsl, optimise, topological } from '../compile';
import type { MasterDocument } from '../document';
import type { PixelInput } from '../geometry';
import { inputFacts, inputType, isPixelInput } from '../geometry';
import { givenOutputs } from '../material';
import { inOrder } from '../order';
import { identifierOf } from './names';
import { feeder } from './key';
import type { GraphContext } from './step';
import { nodesOf } from './price';
import { inputsOf } from './step';
import { TIME_VALUE, parameterValue, stepPrefix, valueName } from './lower';
import type { LoweredMaster } from './material';
import { MasterMaterials } from './material';

/** One number, or several, that a shader has to be told. */
export interface UniformRow {
  name: string;
  type: string;
  unit: string;
  /** Bounds that are usual; null where there are none. */
  range: readonly [number, number] | null;
  initial: readonly number[];
  what: string;
}
/** A texture array that it looks things up in: a layer for each surface or picture. */
export interface TextureRow {
  name: string;
  holds: string;
  layers: readonly string[];
}
export interface WrittenShader {
  fragment: string;
  vertex: string;
  uniforms: readonly UniformRow[];
  textures: readonly TextureRow[];
  inputs: readonly { name: string; type: string; what: string }[];
  outputs: readonly { name: string; type: string; number: number }[];
}

/** How texels of packed arrays are laid out, for whoever fills them. */
const HOLDS: Record<Unit, string> = {
  colour: 'rgb base colour as sRGB, a opacity (SRGB8_ALPHA8)',
  shape: 'rg normal x and y (Y+), b roughness, a occlusion (RGBA8)',
  height: 'r height 0–1, g its deviation under a mip texel (RG32F or RG16F)',
  rare: 'r metallic (R8)',
  glow: 'rgb emissive as sRGB (SRGB8)',
  mask: 'r a mask (R8)',
  id: 'rgb IDs, never filtered (RGBA8)',
};

/** What the numbers of a shader are, by the names that the graph gives them; what they are now is in the material. */
export function valueRows(document: MasterDocument, context: GraphContext): Map<string, UniformRow> {
  const rows = new Map<string, UniformRow>();
  const taken = new Set<string>();
  const free = (wanted: string): string => {
    let name = `u_${wanted}`;
    for (let n = 2; taken.has(name); n++) name = `u_${wanted}_${n}`;
    taken.add(name);
    return name;
  };
  rows.set(TIME_VALUE, {
    name: free('time'),
    type: 'float',
    unit: 's',
    range: [0, document.loopS],
    initial: [0],
    what: 'seconds since the loop began',
  });
  for (const { id, name, help, holds } of inOrder(document.parameters)) {
    if (holds.kind === 'map' || holds.kind === 'surface') continue;
    const wide = holds.kind === 'colour' ? 3 : holds.value.length;
    rows.set(parameterValue(id), {
      name: free(identifierOf(name)),
      type: ['float', 'vec2', 'vec3', 'vec4'][wide - 1],
      unit: holds.kind === 'colour' ? 'linear light' : holds.unit,
      range: holds.kind === 'colour' ? [0, 1] : [holds.low, holds.high],
      initial: [],
      what: help || name,
    });
  }
  for (const [port, source] of Object.entries(document.outputs))
    if (source.from === 'value') {
      const key = valueName(document, { operation: '', port }, context);
      rows.set(key, { name: free(identifierOf(port)), type: '', unit: '', range: null, initial: [], what: `the output ${port}` });
    }
  for (const { id, step, name } of inOrder(document.operations))
    for (const { name: port, label, unit = '', low, high } of inputsOf(document.operations[id], context)) {
      const key = valueName(document, { operation: id, port }, context);
      rows.set(key, {
        name: free(`${identifierOf(name || step)}_${identifierOf(port)}`),
        type: '',
        unit,
        range: low !== undefined && high !== undefined ? [low, high] : null,
        initial: [],
        what: `${label ?? port} of ${name || step}`,
      });
    }
  return rows;
}

/** What a number is that a step has for itself. */
function insideOf({ operations }: MasterDocument, name: string): string {
  const found = inOrder(operations).find(({ id }) => name.startsWith(stepPrefix(id)));
  return found ? `${name.slice(stepPrefix(found.id).length)} of ${found.name || found.step}` : 'a number of the graph';
}

/** A comment of lines in columns. */
function columns(rows: readonly (readonly string[])[]): string {
  const wide = (rows[0] ?? []).map((_, c) => Math.max(...rows.map((r) => r[c].length)));
  return rows.map((r) => `//   ${r.map((text, c) => text.padEnd(wide[c])).join('  ')}`.trimEnd()).join('\n');
}
const numbers = (values: readonly number[]): string => values.map((v) => String(Number(v.toPrecision(7)))).join(', ');

/**
 * The shaders of a master: a fragment shader with `main`, which writes the output that `pb_output` names, and the vertex
 * shader that goes with it. Nothing of ours is needed beside them.
 * @throws GraphError where it cannot be worked out; CompileError `too-many-units`
 */
export function writtenShader(document: MasterDocument, context: GraphContext): WrittenShader {
  const materials = new MasterMaterials();
  const { error } = materials.lowering(document, context);
  if (error) throw error;
  const material = materials.of(document, context);
  const { outputs } = optimise(givenOutputs(material.far));
  const program = emitGlsl(outputs, 'live');
  const rows = valueRows(document, context);
  const called = new Map<string, string>();
  const uniforms = program.values.map(({ name, type }): UniformRow => {
    const row = rows.get(name) ?? { name: `u_${name}`, unit: '', range: null, what: insideOf(document, name) };
    called.set(`u_${name}`, row.name);
    return { ...row, type, initial: material.values[name] ?? new Array<number>(type === 'float' ? 1 : Number(type.slice(3))).fill(0) };
  });
  const renamed = (text: string): string => text.replace(/\bu_\w+/g, (name) => called.get(name) ?? name);
  const textures = program.units.map((unit): TextureRow => {
    const { surfaces, masks, ids } = material.slots;
    const layers = unit === 'mask' ? masks : unit === 'id' ? ids : surfaces;
    return { name: `t_${unit}`, holds: HOLDS[unit], layers: layers.map((l) => (typeof l === 'string' ? l : JSON.stringify(l))) };
  });
  const inputs = inputsUsed(program).map((name) => ({ name: `in_${name}`, type: inputType(name), what: inputFacts(name).help }));
  const list = program.outputs.map(({ name, type }, number) => ({ name, type, number }));
  const table = columns([
    ['name', 'type', 'unit', 'range', 'default', 'what it is'],
    ...uniforms.map((u) => [u.name, u.type, u.unit || '–', u.range ? `${u.range[0]} to ${u.range[1]}` : '–', numbers(u.initial), u.what]),
  ]);
  const head = [
    `// ${document.name}${document.help ? `: ${document.help}` : ''}`,
    `// Drawn ${document.drawn}${document.drawn === 'cut-out' ? `, cut below ${document.cut}` : ''}. Written by Jaunty Pebble.`,
    '//',
    uniforms.length ? `// Uniforms\n${table}` : '// No uniforms.',
    ...(textures.length ? ['// Textures: arrays, a layer each', columns(textures.map((t) => [t.name, t.holds, t.layers.join(', ')]))] : []),
    '// Inputs from the vertex shader',
    columns(inputs.map((i) => [i.name, i.type, i.what])),
    `// Outputs: pb_output chooses which is written; colours are linear light`,
    columns(list.map((o) => [String(o.number), o.name, o.type])),
  ].join('\n');
  const wide = (o: { name: string; type: string }) =>
    o.type === 'float' ? `vec4(vec3(o_${o.name}), 1.0)` : o.type === 'vec3' ? `vec4(o_${o.name}, 1.0)` : `o_${o.name}`;
  const cut = document.drawn === 'cut-out' && list.some((o) => o.name === 'opacity') ? `\n  if (o_opacity < ${literal(document.cut)}) discard;` : '';
  const fragment = `#version 300 es
${head}
precision highp float; precision highp int; precision highp sampler2DArray;
${inputs.map((i) => `in ${i.type} ${i.name};`).join('\n')}
uniform int pb_output;
out vec4 pb_colour;
${renamed(program.source)}
void main() {
  ${list.map((o) => `${o.type} o_${o.name};`).join(' ')}
  pb_evaluate(${list.map((o) => `o_${o.name}`).join(', ')});${cut}
  ${list.map((o) => `if (pb_output == ${o.number}) pb_colour = ${wide(o)};`).join('\n  ')}
}
`;
  const { vertex } = program;
  const fromMesh = inputs.filter((i) => inputFacts(i.name.slice(3) as PixelInput).location !== null);
  const computed = inputs.filter((i) => !fromMesh.includes(i));
  // What is computed of the coordinate needs it, whether or not the fragment does.
  const coordinate = vertex.body.length && !fromMesh.some((i) => i.name === 'in_texcoord');
  const place = fromMesh.some((i) => i.name === 'in_position');
  const seen: Record<string, string> = { in_viewdirection: 'normalize(pb_eye - a_position)', in_viewdistance: 'distance(pb_eye, a_position)' };
  const source = `#version 300 es
// ${document.name}: the vertex shader that goes with its fragment shader. pb_clip takes places to clip space, pb_eye is where the eye is.
precision highp float;
${[...(place ? [] : ['in vec3 a_position;']), ...fromMesh.map((i) => `in ${i.type} a_${i.name.slice(3)};`), ...(coordinate ? ['in vec2 a_texcoord;'] : [])].join('\n')}
uniform mat4 pb_clip; uniform vec3 pb_eye;
${vertex.values.map((v) => renamed(`uniform ${v.type} u_${v.name};`)).join('\n')}
${inputs.map((i) => `out ${i.type} ${i.name};`).join('\n')}
${vertex.outputs.map((v) => `out ${v.type} ${v.name};`).join('\n')}
void main() {
  ${coordinate ? 'vec2 in_texcoord = a_texcoord;' : ''}
  ${fromMesh.map((i) => `${i.name} = a_${i.name.slice(3)};`).join('\n  ')}
  ${computed.map((i) => `${i.name} = ${seen[i.name] ?? `${i.type}(0.0)`};`).join('\n  ')}
  ${vertex.body.map(renamed).join('\n  ')}
  gl_Position = pb_clip * vec4(a_position, 1.0);
}
`;
  return { fragment, vertex: source.replace(/\n[ \t]*\n+/g, '\n'), uniforms, textures, inputs, outputs: list };
}

/** A line of what a shader works out. */
export interface CodeLine {
  text: string;
  /** Whether it is part of the operation that was asked for, and of nothing before it. */
  own: boolean;
}
/**
 * The lines of `pb_evaluate`, those of an operation being told apart: what it works out and what feeds it does not.
 * @param operation null for none
 */
export function codeOf(document: MasterDocument, context: GraphContext, lowered: LoweredMaster, operation: string | null): CodeLine[] {
  const op = operation === null ? undefined : document.operations[operation];
  const own = operation === null ? [] : nodesOf(lowered.steps.get(operation));
  const before = Object.values(op?.inputs ?? {}).flatMap((s) => {
    const from = feeder(document, s);
    return from === null ? [] : nodesOf(lowered.steps.get(from));
  });
  const given = givenOutputs(lowered.far);
  const named = (nodes: readonly DagNode[], by: string) => Object.fromEntries(nodes.map((n, i) => [`${by}${i}`, n]));
  const { outputs } = optimise({ ...given, ...named(own, '>'), ...named(before, '<') });
  const of = (by: string) => Object.entries(outputs).flatMap(([name, node]) => (name.startsWith(by) ? [node] : []));
  const known = new Set(topological(of('<')));
  const marked = new Set(topological(of('>')).filter((n) => !known.has(n)));
  const called = valueNames(document, context);
  const lines: CodeLine[] = [];
  const shown = Object.fromEntries(Object.keys(given).map((name) => [name, outputs[name]]));
  emitGlsl(shown, 'live', 0, false, (text, node) =>
    lines.push({ text: text.replace(/\bu_\w+/g, (name) => called.get(name) ?? name), own: marked.has(node) }),
  );
  return lines;
}
const valueNames = (document: MasterDocument, context: GraphContext): Map<string, string> =>
  new Map([...valueRows(document, context)].map(([key, { name }]) => [`u_${key}`, name]));

const literal = (v: number): string => (Number.isInteger(v) ? `${v}.0` : String(v));
const inputsUsed = ({ inputs }: GlslProgram): PixelInput[] => inputs.filter(isPixelInput);
