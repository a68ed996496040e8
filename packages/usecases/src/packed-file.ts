// One file of channels, as the kind of file that is wanted.
import type { AnyDocument, Image, Ktx2Kind, MapSet, PackTarget, RecipeFile, Role, RowImage, TargetDocument } from '@pebble/core';
import {
  OUTPUT_CHANNELS,
  ROLE_FACTS,
  TEXTURE_FILES,
  fitsBlocks,
  isColourFile,
  keptAs,
  packChannels,
  packLevels,
  readWhole,
  rowPacker,
  runtimeMap,
  settingsOf,
} from '@pebble/core';
import type { FileWay, Ports } from './ports';
import { UseCaseError } from './errors';

/** Maps to be packed, opened when their file's turn comes. */
export type OpenMaps = Partial<Record<Role, RowImage>>;

export const AS_PNG: FileWay = { as: 'png', block: 'plain', mips: false };

/** Roles that channels are fed from. */
export const rolesIn = (channels: RecipeFile['channels']): Role[] => [
  ...new Set(Object.values(channels).flatMap((route) => (route.from === 'map' ? [route.role] : []))),
];
/** Roles that are read though no channel holds them: what roughness loses in smaller levels, the normal map says. */
export const readBeside = (channels: RecipeFile['channels'], { mips }: Pick<FileWay, 'mips'>): Role[] =>
  mips && rolesIn(channels).includes('roughness') && !rolesIn(channels).includes('normal') ? ['normal'] : [];
/** Channels of a file that holds one map and nothing else. */
export const wholeRole = (role: Role): RecipeFile['channels'] =>
  Object.fromEntries(
    OUTPUT_CHANNELS.slice(0, ROLE_FACTS[role].components).map((c, i) => [c, { from: 'map', role, channel: i as 0 | 1 | 2, invert: false }]),
  );
/** Whether channels hold directions and nothing else. */
export const holdsDirections = (channels: RecipeFile['channels']): boolean => rolesIn(channels).join() === 'normal';

/** A target and its id. */
export interface InTarget {
  id: string;
  body: TargetDocument;
}

/** Channels up to the last that is routed. */
const used = (channels: RecipeFile['channels']): 1 | 2 | 3 | 4 => {
  const last = OUTPUT_CHANNELS.filter((c) => channels[c]).at(-1);
  return (last ? OUTPUT_CHANNELS.indexOf(last) + 1 : 1) as 1 | 2 | 3 | 4;
};

/** What the settings of a source's maps make of a file: how its texels are kept in a target, its size there, its levels. */
export function keptIn(
  source: AnyDocument | undefined,
  channels: RecipeFile['channels'],
  size: { width: number; height: number },
  { id, body }: InTarget,
): { block: Ktx2Kind; width: number; height: number; mips: boolean } {
  const maps = source?.kind === 'surface' ? source.maps : {};
  const all = rolesIn(channels).map((role) => settingsOf(role, maps[role] ?? {}, body, id));
  // What somebody said of a map outweighs what the target says of its role.
  const said = all.find(({ from }) => from.format === 'map' || from.format === 'here') ?? all.at(0);
  const format = said?.values.format ?? body.formats.baseColor;
  const sizes = all.map(({ values }) => runtimeMap(size.width, size.height, values));
  const { width, height } = sizes.reduce(
    (a, b) => (b.width * b.height > a.width * a.height ? b : a),
    sizes.at(0) ?? { ...size, levels: 1, bytes: 0, problem: null },
  );
  const block = keptAs(format, body.formats.baseColor, used(channels));
  const fits = block === 'UASTC' || block === 'ETC1S' || block === 'plain' || fitsBlocks(width, height, block);
  return { block: fits ? block : 'plain', width, height, mips: all.length === 0 || all.some(({ values }) => values.mips) };
}

/** How a recipe says that a file is kept. @param target whose blocks it takes where it leaves that to the target */
export function wayOf(file: RecipeFile, source: AnyDocument | undefined, size: { width: number; height: number }, target: InTarget | null): FileWay {
  const as = file.as ?? 'png';
  if (as !== 'ktx2') return { ...AS_PNG, as };
  const block = file.block ?? 'plain';
  return { as, mips: file.mips ?? true, block: block !== 'target' ? block : target ? keptIn(source, file.channels, size, target).block : 'plain' };
}

/** What speaks against a file being kept so, one sentence; null when nothing does. */
export function wayProblem(file: RecipeFile, { as, block }: FileWay, { width, height }: { width: number; height: number }): string | null {
  const { depths, lossy } = TEXTURE_FILES[as];
  const colour = isColourFile(file.channels);
  if (!(depths as readonly number[]).includes(file.depth)) return `${as.toUpperCase()} holds ${depths.join(' or ')} bits, not ${file.depth}`;
  if (as === 'jpg' && file.channels.a) return 'JPEG holds no alpha. Write PNG or KTX2, or route alpha elsewhere';
  if (lossy && !colour && !file.lossy) return 'it holds data, which JPEG would change. Write another kind, or say that it may';
  if (block !== 'plain' && file.depth !== 8) return `blocks of ${block} are made of 8 bits, not ${file.depth}`;
  if (block.startsWith('BC') && (width % 4 || height % 4)) return `blocks of ${block} want multiples of 4, and it is ${width} × ${height}`;
  return null;
}

/** The levels of a file from whole maps, as many as it is to have. */
export const levelsOf = (channels: RecipeFile['channels'], maps: MapSet, target: PackTarget, { mips }: Pick<FileWay, 'mips'>): Image[] =>
  mips ? packLevels(channels, maps, target) : [packChannels(channels, maps, target)];

/** Levels as a file. @throws UseCaseError where this place writes PNG alone */
export async function fileOfLevels(
  { codec, write }: Pick<Ports, 'codec' | 'write'>,
  channels: RecipeFile['channels'],
  levels: readonly Image[],
  { as, block }: FileWay,
): Promise<Uint8Array> {
  if (as === 'png') return codec.encode(levels[0]);
  if (!write) throw new UseCaseError('bad-plan', `${as.toUpperCase()} is not written here`);
  return write(levels, as, { block, directions: holdsDirections(channels) });
}

/** Packs and writes at once, PNG a few rows at a time; closes what it opened, wherever it stops. */
export async function* encodePacked(
  ports: Pick<Ports, 'codec' | 'write'>,
  channels: RecipeFile['channels'],
  open: () => Promise<OpenMaps>,
  target: PackTarget,
  way: FileWay = AS_PNG,
): AsyncGenerator<Uint8Array> {
  const maps = await open();
  try {
    if (way.as === 'png') {
      const packer = rowPacker(channels, maps, target);
      return yield* ports.codec.encoders.png.encode(packer, packer.rows);
    }
    const whole: MapSet = {};
    for (const [role, map] of Object.entries(maps)) whole[role as Role] = await readWhole(map);
    yield await fileOfLevels(ports, channels, levelsOf(channels, whole, target, way), way);
  } finally {
    await Promise.all(Object.values(maps).map((map) => map.close()));
  }
}
