// What is said of single maps, and maps made of maps.
import type { MapClues, MapSettings, Recognition, Role, Step, StepDefinition, StepKind, TargetDocument } from '@pebble/core';
import {
  DEFAULT_FACTS,
  ROLES,
  ROLE_FACTS,
  STEPS,
  STEP_KINDS,
  TARGETS,
  derive,
  isStepKind,
  recognise,
  recogniseSurface,
  roleMipChain,
  runtimeMap,
  settingsOf,
  surfaceStems,
} from '@pebble/core';
import type { ImageFacts } from '@pebble/formats';
import { fileMarks, probeImage } from '@pebble/formats';
import { nodeCodec } from '@pebble/formats/node';
import { asRole } from '@pebble/usecases';
import { writeWhole } from '@pebble/usecases/folder';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import type { Print } from './options';
import { UsageError, number, options } from './options';

/** A file that was opened to be inspected, and the surface that its name puts it to. */
interface Opened extends MapClues {
  file: string;
  facts: ImageFacts;
  surface: string;
}

async function openImage(file: string, cwd: string): Promise<Opened> {
  const bytes = await readFile(path.resolve(cwd, file)).catch(() => {
    throw new Error(`${file} cannot be read`);
  });
  try {
    const facts = probeImage(bytes);
    const image = await nodeCodec.decode(bytes, 'data');
    return { file, facts, image, fileName: path.basename(file), surface: '', ...fileMarks(bytes, facts) };
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message}`);
  }
}

export async function inspect(args: string[], cwd: string, print: Print): Promise<void> {
  const { positionals, on } = options(args, [], [], ['json']);
  if (!positionals.length) throw new UsageError('Name at least one file');
  const opened: Opened[] = [];
  // One that cannot be read stops no other.
  const problems: string[] = [];
  for (const file of positionals)
    await openImage(file, cwd).then(
      (o) => opened.push(o),
      (error: unknown) => problems.push((error as Error).message),
    );
  const ended = () => {
    if (problems.length) throw new Error(problems.join('. '));
  };
  for (const folder of new Set(opened.map((o) => path.dirname(o.file)))) {
    const here = opened.filter((o) => path.dirname(o.file) === folder);
    surfaceStems(here.map((o) => path.basename(o.file))).forEach((stem, i) => (here[i].surface = path.join(folder, stem)));
  }
  // Maps of one surface say of one another what they are.
  const found = new Map<Opened, Recognition>();
  for (const surface of new Set(opened.map((o) => o.surface))) {
    const maps = opened.filter((o) => o.surface === surface);
    recogniseSurface(maps).forEach((r, i) => found.set(maps[i], r));
  }
  const rows = opened.map((o) => {
    const { facts, file } = o;
    const r = found.get(o) as Recognition;
    return {
      file,
      width: facts.width,
      height: facts.height,
      channels: facts.channels,
      bitDepth: facts.depth,
      role: r.role,
      roleConfidence: Math.round(r.roleConfidence * 100) / 100,
      colourSpace: r.colourSpace,
      normalDirection: r.normalDirection,
      normalConfidence: Math.round(r.normalConfidence * 1000) / 1000,
      packed: r.packed && { r: null, g: null, b: null, a: null, ...r.packed },
      findings: r.findings.map(({ code, severity, message }) => ({ code, severity, message })),
    };
  });
  if (on.has('json')) {
    if (rows.length || !problems.length) print(JSON.stringify(rows, null, 2));
    return ended();
  }
  for (const r of rows) {
    const role = r.role
      ? `${ROLE_FACTS[r.role].label.toLowerCase()} (${Math.round(r.roleConfidence * 100)} %)`
      : r.packed
        ? 'packed'
        : 'role unknown';
    const green = r.normalDirection ? `, ${{ 'y+': 'Y+', 'y-': 'Y−', unknown: 'green unknown' }[r.normalDirection]}` : '';
    print(`${r.file}: ${r.width} × ${r.height}, ${r.channels} channels, ${r.bitDepth} bit, ${role}, ${r.colourSpace}${green}`);
    for (const f of r.findings) print(`  ${f.severity}: ${f.message}`);
  }
  ended();
}

/** Steps of a command line, all values that it sets among those they take. */
function stepsOf(text: string, set: readonly string[]): Step[] {
  const kinds = text.split(',').map((k) => k.trim());
  const strange = kinds.find((k) => !isStepKind(k));
  if (strange !== undefined) throw new UsageError(`There is no step ${strange}; there are ${STEP_KINDS.join(', ')}`);
  const steps = (kinds as StepKind[]).map((kind, order): Step => ({ order, kind, on: true, values: {} }));
  for (const setting of set) {
    const [, name, value] = /^([^=]+)=(.+)$/.exec(setting) ?? [];
    if (!name) throw new UsageError(`--set takes name=value, not "${setting}"`);
    const takers = steps.filter((s) => Object.hasOwn(STEPS[s.kind].values, name));
    if (!takers.length) {
      const known = steps.flatMap((s) => Object.keys(STEPS[s.kind].values));
      throw new UsageError(`No value of these steps is called ${name}${known.length ? `; they take ${known.join(', ')}` : '; they take none'}`);
    }
    for (const step of takers) {
      const { lo, hi } = (STEPS[step.kind] as StepDefinition).values[name];
      step.values[name] = number({ [`set ${name}`]: value }, `set ${name}`, 0, lo, hi);
    }
  }
  return steps;
}

export async function deriveMap(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, many } = options(args, ['out', 'size', 'relief', 'green'], ['out'], [], ['set']);
  const [text, file, ...rest] = positionals;
  if (!text || !file || rest.length) throw new UsageError('Name the steps, joined by commas, and one file');
  const green = values['green'];
  if (green !== undefined && green !== 'y+' && green !== 'y-') throw new UsageError(`--green takes y+ or y-, not "${green}"`);
  const steps = stepsOf(text, many['set']);
  const facts = {
    sizeM: number(values, 'size', DEFAULT_FACTS.sizeM, 0.001, 10000),
    reliefM: number(values, 'relief', DEFAULT_FACTS.reliefM * 1000, 0, 100000) / 1000,
    mid: 0.5,
  };
  const opened = await openImage(file, cwd);
  const { role, colourSpace, normalDirection } = recognise(opened.image, opened);
  const direction = green ?? (normalDirection === 'y-' ? 'y-' : 'y+');
  if (!green && normalDirection === 'unknown') print(`${file}: its slopes do not tell which way green points; it is read as Y+ (see --green)`);
  const typed = { ...opened.image, colourSpace };
  const source = role === 'normal' || green ? asRole(typed, 'normal', direction) : typed;
  const { image, notes } = derive(source, steps, facts);
  await writeWhole(path.resolve(cwd, values['out']), await nodeCodec.encode(image));
  for (const note of notes) print(note);
}

/** The full chain of a map, a file a level, by what the map holds. */
export async function mips(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals } = options(args, ['role', 'out', 'normal', 'cutoff'], ['role', 'out']);
  const [file, ...rest] = positionals;
  if (!file || rest.length) throw new UsageError('Name one file');
  const role = ROLES.find((r) => r.toLowerCase() === values['role'].toLowerCase());
  if (!role) throw new UsageError(`There is no role ${values['role']}; there are ${ROLES.join(', ')}`);
  if (values['normal'] !== undefined && role !== 'roughness')
    throw new UsageError('--normal is for levels of roughness, which keep what the normal map loses');
  if (values['cutoff'] !== undefined && role !== 'opacity') throw new UsageError('--cutoff is for levels of opacity, which keep what is drawn');
  const { image } = await openImage(file, cwd);
  // Opacity may be the alpha of a colour, whose levels then keep its cover.
  const typed = role === 'opacity' && image.channels === 4 ? ({ ...image, colourSpace: 'srgb' } as const) : asRole(image, role, null);
  const normal = values['normal'] === undefined ? undefined : asRole((await openImage(values['normal'], cwd)).image, 'normal', null);
  const cutoff = values['cutoff'] === undefined ? undefined : number(values, 'cutoff', 0.5, 0.01, 1);
  const levels = roleMipChain(role, typed, { normal, cutoff });
  const stem = path.basename(file).replace(/\.[^.]*$/, '');
  for (const [level, made] of levels.entries())
    await writeWhole(path.join(path.resolve(cwd, values['out']), `${stem}_mip${level}.png`), await nodeCodec.encode(made));
  print(`${levels.length} levels, ${levels[0].width} × ${levels[0].height} to 1 × 1`);
}

async function targetOf(name: string, cwd: string): Promise<{ id: string; body: TargetDocument }> {
  if (Object.hasOwn(TARGETS, name)) return { id: name, body: TARGETS[name as keyof typeof TARGETS] };
  const unknown = () => new UsageError(`There is no target ${name}; there are ${Object.keys(TARGETS).join(', ')}, or name a .json file of one`);
  if (!name.endsWith('.json')) throw unknown();
  const text = await readFile(path.resolve(cwd, name), 'utf8').catch(() => {
    throw unknown();
  });
  let body: TargetDocument;
  try {
    body = JSON.parse(text) as TargetDocument;
  } catch {
    throw new Error(`${name} is not JSON`);
  }
  const missing = body?.kind !== 'target' || !body.formats ? 'kind and formats' : Object.keys(ROLE_FACTS).find((role) => !body.formats[role as Role]);
  if (missing) throw new Error(`${name} is no target document: ${missing} is missing. Copy one from the application`);
  return { id: name, body };
}

export async function memory(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, on } = options(args, ['target'], ['target'], ['json']);
  if (!positionals.length) throw new UsageError('Name at least one file');
  const { id, body } = await targetOf(values['target'], cwd);
  const rows = [];
  for (const file of positionals) {
    const opened = await openImage(file, cwd);
    const { role } = recognise(opened.image, opened);
    // What carries several things needs a format of as many channels.
    const kept = role ?? (opened.facts.channels >= 3 ? 'baseColor' : 'mask');
    const settings: MapSettings = settingsOf(kept, {}, body, id).values;
    const { width, height, levels, bytes, problem } = runtimeMap(opened.facts.width, opened.facts.height, settings);
    rows.push({ file, role, format: settings.format, width, height, levels, bytes, problem });
  }
  const total = rows.reduce((sum, r) => sum + r.bytes, 0);
  if (on.has('json')) return print(JSON.stringify({ target: body.name, files: rows, bytes: total }, null, 2));
  for (const r of rows) {
    print(
      `${r.file}: ${r.role ? ROLE_FACTS[r.role].label.toLowerCase() : 'role unknown'}, ${r.format}, ${r.width} × ${r.height}, ${r.levels} levels, ${r.bytes} bytes`,
    );
    if (r.problem) print(`  ${r.problem}`);
  }
  print(`${body.name}: ${total} bytes`);
}
