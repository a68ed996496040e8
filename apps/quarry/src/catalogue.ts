import type { GeneratorName } from '@pebble/core';
import { BLEND_ROLES, GENERATORS } from '@pebble/core';

/** A surface that the quarry has. */
export interface Stone {
  id: string;
  title: string;
  tags: string[];
  generator: GeneratorName;
  seed: number;
  amounts: Record<string, number>;
}

const TAGS: Record<GeneratorName, string[]> = {
  'terrace-stone': ['stone', 'wall', 'dressed'],
  'laterite-clay': ['earth', 'ground', 'dry'],
  'cushion-moss': ['plant', 'ground', 'soft'],
  'tea-leaves': ['plant', 'ground', 'litter'],
  'river-gravel': ['stone', 'ground', 'loose'],
  'lime-plaster': ['wall', 'worn'],
  'weathered-copper': ['metal', 'worn'],
  'roof-tile': ['roof', 'fired'],
  'still-water': ['water', 'ground'],
};
/** Places on the ridge that the surfaces are named for; each has another seed. */
const PLACES = ['upper terrace', 'drying shed', 'cistern yard', 'gateway'] as const;

/** Everything that can be fetched: each kind of surface from four places. */
export const CATALOGUE: Stone[] = (Object.keys(GENERATORS) as GeneratorName[]).flatMap((generator, g) =>
  PLACES.map((place, i) => ({
    id: `${generator}-${place.replace(' ', '-')}`,
    title: `${GENERATORS[generator].title}, ${place}`,
    tags: [...TAGS[generator], place],
    generator,
    seed: 1000 + g * 17 + i * 211,
    amounts: {},
  })),
);
export const SIZES = [256, 512, 1024] as const;
export const ROLES_KEPT = BLEND_ROLES;
/** Titles on a page. */
export const PAGE = 12;

/** Surfaces whose title or tags hold every word, and that have the tag. */
export function search(text: string, tag: string): Stone[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  return CATALOGUE.filter((s) => (!tag || s.tags.includes(tag)) && words.every((w) => `${s.title} ${s.tags.join(' ')}`.toLowerCase().includes(w)));
}
