import type { Image, MapSet, Role, StagePixels } from '@pebble/core';
import { ROLE_FACTS, makeImage } from '@pebble/core';
import { bytesOf } from './blob';
import type { StageMaps } from './protocol';

export async function stageImage(role: Role, stage: StagePixels): Promise<Image> {
  const bytes = await bytesOf(stage.blob);
  const data = stage.depth === 8 ? bytes : new Uint16Array(bytes.buffer);
  return makeImage({ ...stage, colourSpace: ROLE_FACTS[role].colourSpace, data });
}

export async function stageImages(maps: StageMaps): Promise<MapSet> {
  const entries = Object.entries(maps) as [Role, StagePixels][];
  return Object.fromEntries(await Promise.all(entries.map(async ([role, stage]) => [role, await stageImage(role, stage)] as const)));
}
