// Meshes that are brought in, and what lists say of them.
import type { Frame, Mesh, Model, SpecimenDocument, SpecimenPart } from '@pebble/core';
import {
  boundsOf,
  clipMatrix,
  drawMesh,
  eyeOf,
  frameBounds,
  inTiles,
  levelMesh,
  makeImage,
  nameSlug,
  setsOf,
  stackedParts,
  stackingKey,
  tilesAmong,
  titleOf,
} from '@pebble/core';
import type { EmbeddedPicture, Siblings } from '@pebble/formats/mesh';
import { plainName, writeGlb } from '@pebble/formats/mesh';
import { readMesh } from '@pebble/formats/mesh-files';
import type { NamedBlob } from './mesh-intake';
import type { Ports, Report } from './ports';

/** Pictures on the wall are twice the size that they are shown at, drawn at four times it. */
const THUMBNAIL = { width: 384, height: 264 };
/** Warm grey, as of fired clay that was not glazed. */
const CLAY = 0xd8cfc2;

/**
 * A mesh file as a specimen, and the pictures that its slots use. Where its coordinates lie on tiles that files beside it are
 * numbered by, its slots are divided by them.
 * @throws FormatError
 */
export async function importMesh(
  ports: Ports,
  file: NamedBlob,
  companions: readonly NamedBlob[],
  report: Report,
): Promise<{ body: SpecimenDocument; pictures: NamedBlob[] }> {
  report(0.05, file.fileName);
  const bytes = await ports.blobs.get(file.blob);
  const siblings: Siblings = async (name) => {
    const found = companions.find((c) => plainName(c.fileName).toLowerCase() === name.toLowerCase());
    return found ? ports.blobs.get(found.blob) : null;
  };
  const { model: read, pictures, notes } = await readMesh(file.fileName, bytes, siblings);
  const tiled = inTiles(read, tilesAmong(companions.map((c) => c.fileName)));
  const model = tiled?.model ?? read;
  if (tiled) notes.push({ code: 'mesh-tiles', message: `Its textures come in tiles ${tiled.tiles.join(', ')}: each has slots of its own.` });
  report(0.5, `${file.fileName}: drawing it`);
  const name = titleOf(file.fileName.replace(/\.[^.]*$/, '').replace(/([a-z0-9])([A-Z])/g, '$1 $2'));
  const body: SpecimenDocument = {
    kind: 'specimen',
    version: 1,
    name,
    file: { ...file, bytes: bytes.length },
    unitM: 1,
    up: 'y',
    uvSet: 0,
    stacking: {},
    // What is missing shows on its page.
    notes: notes.flatMap((n) => (n.code === 'mesh-no-uv' ? [] : [n.message])).slice(0, 100),
    ...(await keepModel(ports, name, model, { unitM: 1, up: 'y' })),
  };
  report(0.9, `${file.fileName}: keeping its pictures`);
  return { body, pictures: await keepPictures(ports, pictures) };
}

/** A specimen whose file came again with other bytes: what was set stays, as far as its parts and sets are still there. */
export function readAgain(old: SpecimenDocument, fresh: SpecimenDocument): SpecimenDocument {
  const { name, unitM, up, origin } = old;
  const named = (parts: SpecimenDocument['parts'], id: string) => `${parts[id]?.level} ${parts[id]?.name} ${parts[id]?.slot}`;
  const now = new Map(Object.keys(fresh.parts).map((id) => [named(fresh.parts, id), id]));
  const kept = Object.keys(old.stacking).flatMap((key) => {
    const [a, b] = stackedParts(key).map((id) => now.get(named(old.parts, id)));
    return a && b ? [[stackingKey(a, b), true] as const] : [];
  });
  const sets = Math.max(1, ...Object.values(fresh.parts).map((p) => p.sets));
  return { ...fresh, name, unitM, up, uvSet: Math.min(old.uvSet, sets - 1), stacking: Object.fromEntries(kept), ...(origin ? { origin } : {}) };
}

/** What a document says of a model, which is kept as a blob beside its picture. */
export async function keepModel(
  ports: Ports,
  name: string,
  model: Model,
  frame: Frame,
): Promise<Pick<SpecimenDocument, 'model' | 'parts' | 'thumbnail'>> {
  return {
    model: await ports.blobs.put(await writeGlb(nameSlug(name), model), 'model/gltf-binary'),
    parts: partsOf(model),
    thumbnail: await ports.blobs.put(await ports.codec.encode(clayPicture(levelMesh(model, 0, frame))), 'image/png'),
  };
}

async function keepPictures(ports: Ports, pictures: readonly EmbeddedPicture[]): Promise<NamedBlob[]> {
  const out: NamedBlob[] = [];
  for (const { fileName, bytes } of pictures) out.push({ fileName, blob: await ports.blobs.put(bytes, 'application/octet-stream') });
  return out;
}

export function partsOf(model: Model): Record<string, SpecimenPart> {
  const parts = model.lods.flatMap((level, l) => level.map((part) => ({ part, l })));
  return Object.fromEntries(
    parts.map(({ part, l }, k) => [
      `p${k}`,
      {
        order: k + 1,
        name: part.name || 'part',
        slot: part.slot,
        level: l,
        vertices: part.mesh.position.length / 3,
        triangles: part.mesh.index.length / 3,
        sets: setsOf(part).length,
        coloured: part.coloured ?? true,
      },
    ]),
  );
}

/** A specimen by itself, in clay. */
function clayPicture(mesh: Mesh) {
  const { width, height } = THUMBNAIL;
  const orbit = frameBounds(boundsOf(mesh));
  const triangles = new Uint32Array(mesh.index.length / 3).fill(CLAY);
  const large = drawMesh(mesh, clipMatrix(orbit, width / height), eyeOf(orbit), { width: width * 2, height: height * 2 }, { triangles });
  const image = makeImage({ width, height, channels: 4, colourSpace: 'srgb' });
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4;
      const of = (c: number) => [0, 1, 2 * width, 2 * width + 1].map((o) => large.data[(y * 4 * width + x * 2 + o) * 4 + c]);
      const alpha = of(3).reduce((a, b) => a + b, 0) / 4;
      image.data[at + 3] = Math.round(alpha);
      for (let c = 0; c < 3; c++) image.data[at + c] = alpha ? Math.round(of(c).reduce((a, b) => a + b, 0) / (alpha / 63.75)) : 0;
    }
  return image;
}
