import type { StageChannel } from '@pebble/stage';

/** The channels that anything on the stage can be looked at in. */
export const CHANNELS: readonly { id: StageChannel; name: string }[] = [
  { id: 'lit', name: 'Lit' },
  { id: 'baseColor', name: 'Base colour' },
  { id: 'normal', name: 'Normal' },
  { id: 'roughness', name: 'Roughness' },
  { id: 'occlusion', name: 'Occlusion' },
  { id: 'metallic', name: 'Metallic' },
  { id: 'height', name: 'Height' },
];
/** Those that only some materials have. */
export const EXTRAS = [
  { id: 'emissive', name: 'Emissive' },
  { id: 'opacity', name: 'Opacity' },
  { id: 'subsurface', name: 'Subsurface' },
] as const;
