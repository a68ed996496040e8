import { MESHES_SCHEMA } from '@pebble/contracts';
import type { SentFile } from '@pebble/core';
import { editBetween, slotsOf, tilesAmong } from '@pebble/core';
import { FormatError } from '@pebble/formats';
import type { NamedBlob } from '@pebble/usecases';
import { importMesh, readAgain } from '@pebble/usecases/specimens';
import type { JobDefinition, Outcome } from '../kind';
import { sentFiles, unreadable } from './sent';

/**
 * Meshes become specimens at once; the pictures that they carry are told of, to be asked about like any others. A file that
 * is there already is not read twice; the only one of its name, come with other bytes, is read again into its specimen.
 */
export const meshes: JobDefinition<'meshes'> = {
  ask: {
    summary: 'Make specimens of uploaded meshes',
    body: MESHES_SCHEMA,
    order: (request) => ({
      label: request.meshes.length === 1 ? `Read ${request.meshes[0].fileName}` : `Read ${request.meshes.length} meshes`,
      payload: request,
    }),
  },
  async run({ ports, report, documents }, { meshes: files, companions }) {
    const create: NonNullable<Outcome['create']> = [];
    const edit: NonNullable<Outcome['edit']> = [];
    const there = await documents.all('specimen');
    const pictures: NamedBlob[] = [];
    const refused: SentFile[] = [];
    const tiled = tilesAmong(companions.map((c) => c.fileName)).size > 0;
    for (const [i, mesh] of files.entries())
      try {
        const alike = there.filter((s) => s.body.file.fileName === mesh.fileName);
        const same = alike.find((s) => s.body.file.blob === mesh.blob);
        // Textures in tiles that come later divide the slots of a mesh that is there.
        if (same && !tiled) continue;
        // Several of one name are different things of different folders: none takes the place of another.
        const old = same ?? (files.filter((m) => m.fileName === mesh.fileName).length === 1 && alike.length === 1 ? alike[0] : null);
        const made = await importMesh(ports, mesh, companions, (done, note) => report((i + done) / files.length, note));
        if (same && slotsOf(same.body).join() === slotsOf(made.body).join()) continue;
        if (old) {
          const label = `Read ${mesh.fileName} again`;
          edit.push({ id: old.id, patch: editBetween(old.body, readAgain(old.body, made.body), label).patch, label });
        } else create.push({ body: made.body });
        pictures.push(...made.pictures);
      } catch (error) {
        if (!(error instanceof FormatError)) throw error;
        const where = error.byte === undefined ? '' : ` (byte ${error.byte})`;
        refused.push(unreadable(mesh.fileName, `${error.message}${where}.`));
      }
    return { create, edit, result: { files: [...(await sentFiles(pictures, ports)), ...refused] } };
  },
};
