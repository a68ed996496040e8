// The coverage room: cues folded into how present a layer is at a point, before heights decide; and the same said
// as a sentence, and read from one. Each kind of cue is one file of `kinds`, which everything else goes over.
export type {
  Component,
  CueBeginning,
  CueCommon,
  CueControl,
  CueKindSpec,
  CuePicture,
  CuePlace,
  CueSite,
  CueStart,
  CueUnit,
  NameOf,
  Shown,
  UvSet,
} from './kinds/kind';
export { STAND_IN, cueKind, cueKinds, pictureKey, registerCues, unregisterCue } from './kinds/kind';
export type { Coverage, Cue, CueInput, CueKind, CueOf } from './kinds';
export { CUE_KINDS } from './kinds';
export { NOISE_KINDS } from './kinds/noise';
export { noiseCells } from './kinds/common';
export { stripeCells } from './kinds/stripes';
export * from './cue';
export * from './joins';
export * from './lower';
export * from './text/words';
export * from './text/sentence';
export { Reader, SentenceError } from './text/reader';
export * from './text/parse';
export * from './weathering';
