// A mesh and its finished maps, from files to one file.
import type { SentFile } from '@pebble/core';
import { SKIES, cellsAgree, computeLight, coveredCells, inTiles, setsOf, tilesAmong } from '@pebble/core';
import { writeGlb } from '@pebble/formats/mesh';
import type { GlbMaterial } from '@pebble/formats/mesh';
import { nodeCodec } from '@pebble/formats/node';
import { probeImage } from '@pebble/formats';
import type { Ports } from '@pebble/usecases';
import { inkOf, lookAtFiles, mapsOfFiles, matchSlots, planImport, planQuestions, planRequests, plannedGroups, settleUnasked } from '@pebble/usecases';
import { gltfMaterial } from '@pebble/usecases/finished';
import { writeWhole } from '@pebble/usecases/folder';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { pairs } from './beside';
import { readMeshFile } from './meshes';
import type { Print } from './options';
import { UsageError, number, options } from './options';

/** Files by their paths, and what is made of them for a while. */
function filePorts(cwd: string): Ports {
  const made = new Map<string, Uint8Array>();
  const get = async (name: string) => made.get(name) ?? new Uint8Array(await readFile(path.resolve(cwd, name)));
  return {
    codec: nodeCodec,
    light: () => computeLight(SKIES.overcast),
    blobs: {
      get,
      async put(bytes) {
        const name = `made ${made.size}`;
        made.set(name, bytes);
        return name;
      },
      async *stream(name) {
        yield await get(name);
      },
    },
  };
}

/** What is known of a file before it is looked at. */
async function sentFile(file: string, cwd: string): Promise<SentFile> {
  const none = { fileName: path.basename(file), blob: null, width: 0, height: 0, channels: 0, depth: 8 as const };
  const bytes = await readFile(path.resolve(cwd, file)).catch(() => null);
  if (!bytes) return { ...none, problem: `${file} cannot be read` };
  try {
    const { width, height, channels, depth } = probeImage(bytes);
    return { ...none, blob: file, width, height, channels, depth: depth > 16 ? 32 : depth > 8 ? 16 : 8, problem: null };
  } catch (error) {
    return { ...none, problem: `${file}: ${(error as Error).message}` };
  }
}

export async function hookUp(args: string[], cwd: string, print: Print): Promise<void> {
  const { values, positionals, on, many } = options(args, ['out', 'set'], ['out'], ['json', 'doubtful'], ['wear']);
  const [meshFile, ...files] = positionals;
  if (!meshFile || !files.length) throw new UsageError('Name one mesh, and the files of its maps');
  const wanted = pairs(many['wear'], 'wear');
  const { model: read } = await readMeshFile(meshFile, cwd);
  const model = inTiles(read, tilesAmong(files.map((f) => path.basename(f))))?.model ?? read;
  const slots = [...new Set(model.lods.flat().map((p) => p.slot))];
  const set = number(values, 'set', 1, 1, 16, true) - 1;
  const bare = model.lods.flat().find((p) => setsOf(p).length <= set);
  if (bare)
    throw new Error(
      `${meshFile}: ${bare.name} has ${setsOf(bare).length ? `no set ${set + 1} of texture coordinates` : 'no texture coordinates'}, so no map can lie on it. Unwrap it first`,
    );
  const ports = filePorts(cwd);
  const sent = await Promise.all(files.map((file) => sentFile(file, cwd)));
  const readable = sent.flatMap(({ blob, fileName }) => (blob ? [{ blob, fileName }] : []));
  const plan = planImport(sent, await lookAtFiles(ports, readable, () => undefined));
  const out = (text: string) => void (on.has('json') || print(text));
  const left = [
    ...plan.refused.map((f) => f.problem ?? ''),
    ...settleUnasked(plan, on.has('doubtful')).map((f) => `${f.fileName}: left out. ${f.why}`),
  ];
  left.forEach(out);
  const [question] = plan.rows.some((r) => r.holds !== 'skip') ? planQuestions(plan) : ['No file can be used'];
  if (question) throw new Error(question);
  const groups = plannedGroups(plan);
  const cells = new Map(
    slots.map((slot) => [
      slot,
      coveredCells(model.lods[0].filter((p) => p.slot === slot).map((p) => ({ index: p.mesh.index, texcoord: setsOf(p)[set] }))),
    ]),
  );
  const agrees = (slot: string, key: string) => {
    const [ink, covered] = [inkOf(plan, key), cells.get(slot)];
    return ink && covered ? cellsAgree(ink, covered) : null;
  };
  const worn = wear(slots, groups, wanted, path.basename(meshFile).replace(/\.[^.]*$/, ''), agrees);
  if (!worn.size)
    throw new Error(
      `No set belongs to a slot by its name. Slots are ${slots.join(', ')}; sets are ${groups.map((g) => g.name).join(', ')}. Say it by --wear SLOT=SET`,
    );
  const incoming = planRequests(plan).flatMap((r) => r.surfaces);
  const made = new Map<string, GlbMaterial>();
  const materials = new Map<string, GlbMaterial>();
  for (const [slot, key] of worn) {
    const at = groups.findIndex((g) => g.key === key);
    const material = made.get(key) ?? (await gltfMaterial(ports, key, (await mapsOfFiles(ports, incoming[at], () => undefined)).pixels, { set }));
    made.set(key, material);
    materials.set(slot, material);
  }
  const name = path.basename(values['out']).replace(/\.[^.]*$/, '');
  await writeWhole(path.resolve(cwd, values['out']), await writeGlb(name, model, materials));
  const rows = slots.map((slot) => ({
    slot,
    wears: groups.find((g) => g.key === worn.get(slot))?.name ?? null,
    files: Object.keys(materials.get(slot)?.textures ?? {}),
  }));
  if (on.has('json')) print(JSON.stringify({ file: values['out'], slots: rows, leftOut: left }, null, 2));
  else for (const row of rows) print(`${row.slot}: ${row.wears ? `${row.wears} (${row.files.join(', ')})` : 'nothing'}`);
  if (left.length) throw new Error(`${left.length} of ${files.length} files were left out`);
}

/** Which set each slot wears: what was said, else by name. @throws Error naming a slot or a set that is not there */
function wear(
  slots: readonly string[],
  groups: readonly { key: string; name: string }[],
  wanted: ReadonlyMap<string, string>,
  mesh: string,
  agrees: (slot: string, key: string) => number | null,
): Map<string, string> {
  const said = new Map(
    [...wanted].map(([slot, name]) => {
      if (!slots.includes(slot)) throw new Error(`The mesh has no slot called ${slot}; it has ${slots.join(', ')}`);
      const found = groups.find((g) => [g.key, g.name.toLowerCase()].includes(name.toLowerCase()));
      if (!found) throw new Error(`There is no set called ${name}; there are ${groups.map((g) => g.key).join(', ')}`);
      return [slot, found.key] as const;
    }),
  );
  const open = slots.filter((slot) => !said.has(slot));
  const free = groups.filter((g) => ![...said.values()].includes(g.key));
  return new Map([...said, ...[...matchSlots(open, said.size ? free : groups, mesh, agrees)].map(([slot, { key }]) => [slot, key] as const)]);
}
