/** The first or the second set of texture coordinates that a mesh came with. */
export type UvSet = 1 | 2;
/** In what a cue measures: metres, degrees, parts of one, one over metres, distance between colours. */
export type CueUnit = 'm' | '°' | '' | '1/m';
