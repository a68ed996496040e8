import type { GraphContext, GraphError, MasterDocument, Material, Sources } from '@pebble/core';
import {
  EXTRA_ROLES,
  FormulaError,
  BLEND_ROLES,
  Builder,
  MasterMaterials,
  TIME_VALUE,
  asVariant,
  differenceOf,
  flatDomain,
  inOrder,
  lowerFormula,
  materialAt,
  materialPrice,
  materialReads,
  parseFormula,
  permutationsOf,
  priceOf,
  samplersOf,
  simplified,
  stepKind,
  topological,
  writtenShader,
} from '@pebble/core';
import { nodeCodec } from '@pebble/formats/node';
import { evaluateSquare, gather, materialXOf, sourcesOf } from '@pebble/usecases';
import { writeWhole } from '@pebble/usecases/folder';
import path from 'node:path';
import { Beside, readDocument } from './beside';
import type { Print } from './options';
import { UsageError, options, sizeOf } from './options';

/** A master with everything that it shows, from folders and blends beside it. */
interface Opened {
  document: MasterDocument;
  material: Material;
  beside: Beside;
  context: GraphContext;
}
async function open(file: string, cwd: string, surfaces: string[], set: string[], variant?: string): Promise<Opened> {
  const at = path.resolve(cwd, file);
  const whole = await readDocument(at, 'master');
  const document = asVariant(whole, variantNamed(whole, variant));
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

/** The variant of a name, or of an id. @throws UsageError */
function variantNamed({ name: of, variants }: MasterDocument, name: string | undefined): string | undefined {
  if (name === undefined) return undefined;
  const found = inOrder(variants).find((v) => v.id === name || v.name.toLowerCase() === name.trim().toLowerCase());
  if (found) return found.id;
  throw new UsageError(
    `${of} has no variant ${name}; there are ${
      inOrder(variants)
        .map((v) => v.name)
        .join(', ') || 'none'
    }`,
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

export const MAP_ROLES = [...BLEND_ROLES, ...EXTRA_ROLES] as const;
const SHOWN = ['surface', 'set'];

/** Ways in which a master leaves, by name. */
const EMITS = {
  glsl: ({ document, context }: Opened) => writtenShader(document, context).fragment,
  'glsl-vertex': ({ document, context }: Opened) => writtenShader(document, context).vertex,
  mtlx: ({ document, context }: Opened) => materialXOf(document, context),
  json: ({ document, material, context }: Opened) => {
    const { uniforms, textures, inputs, outputs } = writtenShader(document, context);
    return JSON.stringify(
      {
        name: document.name,
        price: materialPrice(material),
        samplers: samplersOf(material.far),
        permutations: permutationsOf(document).count,
        drawn: material.drawn,
        loopS: document.loopS,
        outputs,
        inputs,
        uniforms,
        textures,
        variants: inOrder(document.variants).map(({ name, values, switches }) => ({
          name,
          sets: [...Object.values(values).map((v) => v.name), ...Object.values(switches).map((s) => s.name)],
        })),
        surfaces: material.slots.surfaces,
        operations: inOrder(document.operations).map(({ id, step, name }) => ({ id, step, name, materialx: stepKind(step, id).materialx })),
        notes: material.problems.map(({ layer, message }) => ({ operation: layer, message })),
      },
      null,
      2,
    );
  },
};
const isEmit = (name: string): name is keyof typeof EMITS => Object.hasOwn(EMITS, name);

export async function compile(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, many } = options(args, ['emit', 'out', 'variant'], [], [], SHOWN);
  if (positionals.length !== 1) throw new UsageError('Name one master document');
  const emit = values['emit'] ?? 'glsl';
  if (!isEmit(emit)) throw new UsageError(`--emit takes ${Object.keys(EMITS).join(', ')}, not "${emit}"`);
  const text = EMITS[emit](await open(positionals[0], cwd, many['surface'], many['set'], values['variant']));
  if (values['out'] === undefined) return print(text);
  await writeWhole(path.resolve(cwd, values['out']), new TextEncoder().encode(`${text}\n`));
}

export async function evaluateMaster(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, many } = options(args, ['output', 'size', 'out', 'variant', 'time'], ['output', 'out'], [], SHOWN);
  if (positionals.length !== 1) throw new UsageError('Name one master document');
  const role = MAP_ROLES.find((r) => r === values['output']);
  if (!role) throw new UsageError(`--output takes ${MAP_ROLES.join(', ')}, not "${values['output']}"`);
  const size = sizeOf(values, 1024);
  const time = Number(values['time'] ?? 0);
  if (!Number.isFinite(time)) throw new UsageError(`--time takes seconds, not "${values['time']}"`);
  const { document, material: still, beside } = await open(positionals[0], cwd, many['surface'], many['set'], values['variant']);
  // Time goes round with the loop.
  const seconds = ((time % document.loopS) + document.loopS) % document.loopS;
  const material = materialAt(still, { [TIME_VALUE]: [seconds] });
  for (const { message } of material.problems) print(message);
  const read = [...materialReads(material, [role], true).roles.values()].flatMap((roles) => [...roles]);
  const from = await gather(material, beside.reader(), read, () => undefined);
  const maps = await evaluateSquare({}, { material, on: null }, from, size, [role], () => undefined);
  const image = maps[role];
  if (!image) throw new Error(`${role} could not be evaluated`);
  await writeWhole(path.resolve(cwd, values['out']), await nodeCodec.encode(image));
}

/** What of a master can be left out, with the proof that nothing changes. */
export async function simplify(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, many, on } = options(args, ['out'], [], ['json'], SHOWN);
  if (positionals.length !== 1) throw new UsageError('Name one master document');
  const { document, material, beside, context } = await open(positionals[0], cwd, many['surface'], many['set']);
  const { findings, after, before, price } = simplified(document, context);
  const next = new MasterMaterials().of(after, context);
  const sources = async (of: Material): Promise<Sources> => {
    const read = [...of.reads.roles.values()].flatMap((roles) => [...roles]);
    return sourcesOf(await gather(of, beside.reader(), read, () => undefined), true);
  };
  const { random, seen } = differenceOf(
    document,
    [material, next],
    [await sources(material), await sources(next)],
    flatDomain(128, 128, document.extentM),
  );
  if (values['out'] !== undefined)
    await writeWhole(path.resolve(cwd, values['out']), new TextEncoder().encode(`${JSON.stringify(after, null, 2)}\n`));
  const called = (id: string) => document.operations[id].name || document.operations[id].step;
  if (on.has('json'))
    return print(
      JSON.stringify(
        {
          name: document.name,
          findings: findings.map(({ operation, kind, saves, instead }) => ({ operation, name: called(operation), kind, saves, instead })),
          price: { before, after: price },
          operations: { before: Object.keys(document.operations).length, after: Object.keys(after.operations).length },
          largestDifference: { random, extent: seen },
        },
        null,
        2,
      ),
    );
  for (const { operation, kind, saves } of findings)
    print(`${called(operation)} (${operation}): ${kind}, saves ${saves.samples} samples, ${saves.operations} operations`);
  print(findings.length ? `${before.operations} operations a pixel become ${price.operations}` : 'Nothing can be left out');
  print(`Largest difference over ${random.places} random inputs: ${random.most}${seen ? `, over the extent: ${seen.most}` : ''}`);
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
