// Sets of maps for tuning and for judging recognition: what each file is, its bytes, and the surface that it belongs to.
import type { Image, MapSet, Role } from '@pebble/core';
import { GENERATORS, generateSurface, makeImage, makeRandom } from '@pebble/core';
import type { GeneratorName } from '@pebble/core';
import sharp from 'sharp';
import { nodeCodec } from '../node';
import { PATTERNS, madeUp } from './textures';

export interface Labelled {
  surface: string;
  truth: Role | 'packed';
  direction: 'y+' | 'y-' | null;
  /** JPEG quality, or 0. */
  quality: number;
  twoChannel: boolean;
  image: Image;
  /** A name that says the role, as people spell it. */
  name: string;
}

const SUFFIX: Partial<Record<Role, readonly string[]>> = {
  baseColor: ['albedo', 'BaseColor', 'diff', 'col'],
  normal: ['normal', 'nrm', 'nor'],
  roughness: ['roughness', 'rough', 'rgh'],
  occlusion: ['ao', 'occlusion', 'AmbientOcclusion'],
  metallic: ['metallic', 'metal'],
  height: ['height', 'disp'],
  id: ['id'],
};

/** The image after a trip through JPEG. */
export async function lossy(image: Image, quality: number): Promise<Image> {
  const { width, height, channels } = image;
  const eight = image.depth === 8 ? (image.data as Uint8Array) : Uint8Array.from(image.data, (v) => v / 257);
  const bytes = await sharp(eight, { raw: { width, height, channels } })
    .jpeg({ quality, chromaSubsampling: quality > 80 ? '4:4:4' : '4:2:0' })
    .toBuffer();
  return nodeCodec.decode(bytes, image.colourSpace);
}

const flip = (image: Image): Image => ({ ...image, data: image.data.map((v, i) => (i % 3 === 1 ? 255 - v : v)) as Uint8Array });

/** Grey maps as channels of one image, in an order. */
function packed(maps: MapSet, order: readonly Role[]): Image {
  const [first] = order.map((r) => maps[r] as Image);
  const image = makeImage({ width: first.width, height: first.height, channels: order.length });
  order.forEach((role, c) => {
    const map = maps[role] as Image;
    for (let i = 0; i < map.width * map.height; i++) image.data[i * order.length + c] = map.depth === 8 ? map.data[i] : Math.round(map.data[i] / 257);
  });
  return image;
}

const ORDERS: readonly (readonly Role[])[] = [
  ['occlusion', 'roughness', 'metallic'],
  ['roughness', 'metallic', 'occlusion'],
  ['metallic', 'occlusion', 'roughness'],
  ['occlusion', 'roughness', 'height'],
  ['roughness', 'occlusion', 'metallic'],
  ['metallic', 'roughness', 'occlusion'],
  ['occlusion', 'height', 'roughness'],
];

/** Maps of made-up and generated surfaces, from seeds. Every surface has its colours, normals, grey maps, a packed one and IDs. */
export async function recognitionSet(
  seeds: readonly number[],
  size = 256,
  generators: readonly GeneratorName[] = Object.keys(GENERATORS) as GeneratorName[],
): Promise<Labelled[]> {
  const out: Labelled[] = [];
  for (const seed of seeds) {
    const random = makeRandom(seed * 97 + 5);
    const sources: { surface: string; maps: MapSet; id?: Image }[] = [
      ...PATTERNS.map((p) => ({ surface: `${p} ${seed}`, ...madeUp(p, seed, size) })).map((s) =>
        s.id.data.every((v, i) => v === s.id.data[i % 3]) ? { ...s, id: undefined } : s,
      ),
      ...generators.map((g) => ({ surface: `${g} ${seed}`, maps: generateSurface(g, { seed, size }).maps as MapSet })),
    ];
    for (const { surface, maps, id } of sources) {
      const add = async (truth: Labelled['truth'], image: Image, direction: Labelled['direction'] = null, twoChannel = false) => {
        const quality = random() < 0.35 ? 50 + Math.floor(random() * 46) : 0;
        const words = truth === 'packed' ? ['packed'] : (SUFFIX[truth] ?? [truth]);
        out.push({
          surface,
          truth,
          direction,
          quality,
          twoChannel,
          image: quality ? await lossy(image, quality) : image,
          name: `${surface.replace(' ', '_')}_${words[Math.floor(random() * words.length)]}.${quality ? 'jpg' : 'png'}`,
        });
      };
      const down = random() < 0.5;
      for (const [role, map] of Object.entries(maps) as [Role, Image][]) {
        // A constant metallic map says nothing of itself.
        if (map.data.every((v) => v === map.data[0])) continue;
        if (role === 'normal') await add('normal', down ? flip(map) : map, down ? 'y-' : 'y+');
        else await add(role, map);
      }
      await add('packed', packed(maps, ORDERS[Math.floor(random() * ORDERS.length)]));
      if (id) await add('id', id);
      if (random() < 0.4) {
        const normal = down ? flip(maps.normal as Image) : (maps.normal as Image);
        await add('normal', { ...normal, data: normal.data.map((v, i) => (i % 3 === 2 ? 0 : v)) as Uint8Array }, down ? 'y-' : 'y+', true);
      }
    }
  }
  return out;
}
