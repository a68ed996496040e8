import { TERRAIN_METRES } from '@pebble/core';
import { number } from './shapes';

/** What the numbers of heights mean, in metres. */
export const TERRAIN_FACTS = {
  acrossM: number(...TERRAIN_METRES.acrossM),
  rangeM: number(...TERRAIN_METRES.rangeM),
  footM: number(...TERRAIN_METRES.footM),
} as const;
