import type { MaterialProblem } from '@pebble/core';

/** Every code that a use case refuses with: whether something is not there, or cannot be done with what is. */
const KINDS = {
  'bad-facts': 'cannot',
  'bad-plan': 'cannot',
  'bad-project': 'cannot',
  cycle: 'cannot',
  'empty-blend': 'cannot',
  graph: 'cannot',
  'missing-blend': 'missing',
  'missing-blob': 'missing',
  'missing-channel': 'missing',
  'missing-coverage': 'missing',
  'missing-group': 'missing',
  'missing-map': 'missing',
  'missing-recipe': 'missing',
  'missing-role': 'missing',
  'missing-slot': 'missing',
  'missing-specimen': 'missing',
  'missing-surface': 'missing',
  'no-coordinates': 'cannot',
  'no-file': 'cannot',
  'no-folder': 'cannot',
  'no-height': 'cannot',
  'no-level': 'cannot',
  'no-source': 'cannot',
  'no-uv': 'cannot',
  'no-islands': 'cannot',
  'nothing-to-pack': 'cannot',
  'overlapping-islands': 'cannot',
  'own-source': 'cannot',
  'paint-misfit': 'cannot',
  'role-twice': 'cannot',
  'too-large': 'cannot',
  'too-many-layers': 'cannot',
  'too-many-vertices': 'cannot',
  'unreadable-file': 'cannot',
  unused: 'cannot',
  'unreadable-map': 'cannot',
} as const satisfies Record<string, 'missing' | 'cannot'> & Record<MaterialProblem['code'], 'missing' | 'cannot'>;
export type UseCaseCode = keyof typeof KINDS;

/** Something that cannot be done, said for people: what, where, what to do. */
export class UseCaseError extends Error {
  readonly kind: 'missing' | 'cannot';

  constructor(
    readonly code: UseCaseCode,
    message: string,
    readonly place?: string,
  ) {
    super(message);
    this.name = 'UseCaseError';
    this.kind = KINDS[code];
  }
}
