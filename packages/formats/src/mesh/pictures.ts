// Pictures that a glTF document's materials use, under names that say slot and use.
import { Members, dataOf, whole } from './check';
import type { Json } from './container';
import type { MeshNotes, EmbeddedPicture, Siblings } from './kinds';
import { plainName } from './kinds';

/** Names of slots: those of the materials, told apart where two are the same. */
export function slotNames(materials: readonly Json[]): string[] {
  const out: string[] = [];
  materials.forEach((material, i) => {
    const plain = (typeof material['name'] === 'string' && material['name'].trim().slice(0, 100)) || `slot ${i + 1}`;
    let name = plain;
    for (let k = 2; out.includes(name); k++) name = `${plain} ${k}`;
    out.push(name);
  });
  return out;
}

/** Uses of a picture by a material: where the format puts it and how a file name says it. */
const USES: readonly { at: readonly string[]; word: string }[] = [
  { at: ['pbrMetallicRoughness', 'baseColorTexture'], word: 'basecolor' },
  // glTF's normals point up.
  { at: ['normalTexture'], word: 'normal_gl' },
  { at: ['pbrMetallicRoughness', 'metallicRoughnessTexture'], word: 'orm' },
  { at: ['occlusionTexture'], word: 'occlusion' },
  { at: ['emissiveTexture'], word: 'emissive' },
];

const member = (of: unknown, path: readonly string[]): unknown =>
  path.reduce<unknown>((value, key) => (value && typeof value === 'object' ? (value as Json)[key] : undefined), of);

export async function picturesOf(
  json: Json,
  buffers: readonly Uint8Array[],
  slots: readonly string[],
  siblings: Siblings,
  notes: MeshNotes,
): Promise<EmbeddedPicture[]> {
  const members = new Members(json);
  const textures = members.list('textures');
  const images = members.list('images');
  const views = members.list('bufferViews');
  const out: EmbeddedPicture[] = [];
  const taken = new Set<number>();
  for (const [m, material] of members.list('materials').entries())
    for (const { at, word } of USES) {
      const texture = textures[member(material, [...at, 'index']) as number];
      const source =
        texture &&
        (member(texture, ['extensions', 'KHR_texture_basisu', 'source']) ??
          member(texture, ['extensions', 'EXT_texture_webp', 'source']) ??
          texture['source']);
      const image = images[source as number];
      // A picture that is used twice comes once, under the first use: occlusion in red goes with roughness and metallic.
      if (!image || taken.has(source as number)) continue;
      taken.add(source as number);
      const bytes = await bytesOf(image, source as number, views, buffers, siblings);
      if (bytes) out.push({ fileName: `${slots[m].replace(/[^\p{L}\p{N}]+/gu, '_')}_${word}${endingOf(bytes)}`, bytes });
      else notes.add('mesh-pictures', `Slot ${slots[m]} uses ${nameOf(image)} as ${word.split('_')[0]}, which did not come with the file.`);
    }
  return out;
}

const nameOf = (image: Json): string =>
  typeof image['uri'] === 'string' && !image['uri'].startsWith('data:') ? plainName(image['uri']) : 'a picture';

async function bytesOf(
  image: Json,
  at: number,
  views: readonly Json[],
  buffers: readonly Uint8Array[],
  siblings: Siblings,
): Promise<Uint8Array | null> {
  const place = `images[${at}]`;
  const { uri } = image;
  if (typeof uri === 'string') return uri.startsWith('data:') ? dataOf(uri, place) : siblings(plainName(uri));
  const view = views[image['bufferView'] as number];
  if (!view) return null;
  const from = whole(view, 'byteOffset', place, 0);
  return buffers[view['buffer'] as number].subarray(from, from + whole(view, 'byteLength', place));
}

const endingOf = (b: Uint8Array): string => (b[0] === 0xff ? '.jpg' : b[0] === 0xab ? '.ktx2' : b[0] === 0x52 ? '.webp' : '.png');
