import type { BlendRole, GraphContext, GraphError, MasterDocument, Material } from '@pebble/core';
import {
  FormulaError,
  BLEND_ROLES,
  Builder,
  MasterMaterials,
  emitGlsl,
  inOrder,
  lowerFormula,
  materialPrice,
  optimise,
  parseFormula,
  permutationsOf,
  priceOf,
  samplersOf,
  stepKind,
  topological,
} from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { evaluateSquare, gather } from '@pebble/usecases';
import { writeWhole } from '@pebble/usecases/folder';
import path from 'node:path';
import { Beside, readDocument } from './beside';
import type { Print } from './options';
import { UsageError, options, sizeOf } from './options';

/** A master with everything that it shows, from folders and blends beside it. */
async function open(
  file: string,
  cwd: string,
  surfaces: string[],
  set: string[],
): Promise<{ document: MasterDocument; material: Material; beside: Beside; context: GraphContext }> {
  const at = path.resolve(cwd, file);
  const document = await readDocument(at, 'master');
  for (const text of set) setValue(document, text);
  const beside = Beside.at(at, { cwd, surfaces, painted: [] });
  await beside.shown(document);
  const context: GraphContext = { surfaces: beside.facts, blends: beside.blends, masters: beside.masters };
  const materials = new MasterMaterials();
  const { error } = materials.lowering(document, context);
  if (error) throw placed(document, error);
  return { document, material: materials.of(document, context), beside, context };
}

/** A mistake with the name of where it is. */
function placed(document: MasterDocument, error: GraphError): Error {
  const op = document.operations[error.operation];
  const where = op ? `${op.name || op.step} (${error.operation})` : 'the outputs';
  return new Error(
    `${document.name}, ${where}${error.port ? `, ${error.port}` : ''}${error.at ? `, character ${error.at.from + 1}` : ''}: ${error.message}`,
  );
}

/** `name=value`: a parameter by its name or id; numbers with commas, a colour as #rrggbb; switches on or off. */
function setValue(document: MasterDocument, text: string): void {
  const [, name, value] = /^([^=]+)=(.*)$/.exec(text) ?? [];
  if (!name) throw new UsageError(`--set takes name=value, not "${text}"`);
  const of = <T extends { name: string }>(list: Record<string, T>) =>
    list[name] ?? Object.values(list).find((e) => e.name.toLowerCase() === name.trim().toLowerCase());
  const flip = of(document.switches);
  if (flip) {
    if (!/^(on|off)$/.test(value)) throw new UsageError(`${name} is a switch: it takes on or off, not "${value}"`);
    flip.on = value === 'on';
    return;
  }
  const parameter = of(document.parameters);
  if (!parameter) {
    const names = [...inOrder(document.parameters), ...inOrder(document.switches)].map((p) => p.name);
    throw new UsageError(`${document.name} has no parameter ${name}; there are ${names.join(', ') || 'none'}`);
  }
  const { holds } = parameter;
  if (holds.kind === 'colour') {
    if (!/^#[0-9a-fA-F]{6}$/.test(value)) throw new UsageError(`${name} is a colour: it takes #rrggbb, not "${value}"`);
    holds.value = value.toLowerCase();
  } else if (holds.kind !== 'number') holds.surface = value;
  else {
    const numbers = value.split(',').map(Number);
    if (numbers.length !== holds.value.length || value.trim() === '' || !numbers.every(Number.isFinite))
      throw new UsageError(`${name} takes ${holds.value.length === 1 ? 'a number' : `${holds.value.length} numbers with commas`}, not "${value}"`);
    holds.value = numbers;
  }
}

const SHOWN = ['surface', 'set'];

export async function compile(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, many } = options(args, ['emit', 'out'], [], [], SHOWN);
  if (positionals.length !== 1) throw new UsageError('Name one master document');
  const emit = values['emit'] ?? 'glsl';
  if (emit !== 'glsl' && emit !== 'json') throw new UsageError(`--emit takes glsl or json, not "${emit}"`);
  const { document, material } = await open(positionals[0], cwd, many['surface'], many['set']);
  const { outputs, hoisted } = optimise(material.far.outputs, { hoist: true });
  const program = emitGlsl(outputs, 'live');
  const price = materialPrice(material);
  const text =
    emit === 'glsl'
      ? `// ${document.name}: ${price.samples} samples, ${price.operations} operations a pixel\n${program.source}`
      : JSON.stringify(
          {
            name: document.name,
            price,
            samplers: samplersOf(material.far),
            permutations: permutationsOf(document).count,
            outputs: program.outputs,
            inputs: program.inputs,
            units: program.units,
            values: Object.fromEntries(program.values.map(({ name, type }) => [name, { type, value: material.values[name] ?? null }])),
            computed: hoisted.map(({ name, node }) => ({ name, type: node.type })),
            surfaces: material.slots.surfaces,
            operations: inOrder(document.operations).map(({ id, step, name }) => ({ id, step, name, materialx: stepKind(step, id).materialx })),
            notes: material.problems.map(({ layer, message }) => ({ operation: layer, message })),
            glsl: program.source,
          },
          null,
          2,
        );
  if (values['out'] === undefined) return print(text);
  await writeWhole(path.resolve(cwd, values['out']), new TextEncoder().encode(`${text}\n`));
}

export async function evaluateMaster(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, many } = options(args, ['output', 'size', 'out'], ['output', 'out'], [], SHOWN);
  if (positionals.length !== 1) throw new UsageError('Name one master document');
  const role = values['output'] as BlendRole;
  if (!BLEND_ROLES.includes(role)) throw new UsageError(`--output takes ${BLEND_ROLES.join(', ')}, not "${values['output']}"`);
  const size = sizeOf(values, 1024);
  const { material, beside } = await open(positionals[0], cwd, many['surface'], many['set']);
  for (const { message } of material.problems) print(message);
  const from = await gather(material, beside.reader(), [role], () => undefined);
  const maps = await evaluateSquare({}, { material, on: null }, from, size, [role], () => undefined);
  const image = maps[role];
  if (!image) throw new Error(`${role} could not be evaluated`);
  await writeWhole(path.resolve(cwd, values['out']), await nodeCodec.encode(image));
}

export async function formula(args: string[], _: string, print: Print): Promise<void> {
  const { positionals, on } = options(args, [], [], ['json']);
  if (positionals.length !== 1) throw new UsageError('Give one formula, in quotes');
  const [text] = positionals;
  try {
    const { body, inputs } = parseFormula(text);
    const b = new Builder();
    const types = Object.fromEntries(inputs.map(({ name, type }) => [name, type ?? 'float']));
    const node = lowerFormula(b, body, (name) => b.value(name, types[name]));
    const order = topological([node]);
    // As if every input differed from pixel to pixel.
    const varied = lowerFormula(b, body, (name) => {
      const one = b.node('part');
      return types[name] === 'float' ? one : b.combine(...new Array<typeof one>(Number(types[name].slice(3))).fill(one));
    });
    const price = priceOf({ out: varied });
    if (!on.has('json')) return print(`${node.type} of ${inputs.map(({ name }) => `${types[name]} ${name}`).join(', ') || 'nothing'}`);
    print(
      JSON.stringify(
        {
          type: node.type,
          inputs: inputs.map(({ name }) => ({ name, type: types[name] })),
          operations: order.filter((n) => n.args.length).map(({ op, type }) => ({ op, type })),
          price,
        },
        null,
        2,
      ),
    );
  } catch (error) {
    if (!(error instanceof FormulaError)) throw error;
    if (on.has('json')) {
      print(JSON.stringify({ error: error.message, from: error.from, to: error.to }, null, 2));
      throw new Error(`character ${error.from + 1}: ${error.message}`);
    }
    throw new Error(`${text}\n${' '.repeat(error.from)}^\ncharacter ${error.from + 1}: ${error.message}`);
  }
}
