import { idColour } from '@pebble/core';

/** What the documents of the still call its mesh and the map that tells its slots apart. */
export const STILL = { specimen: 'copper-still-tile', ids: 'copper-still-ids' };
/** Its slots in the ID map. */
export const STILL_COLOURS: Readonly<Record<string, string>> = { copper: idColour(0), pipe: idColour(4), iron: idColour(2) };
