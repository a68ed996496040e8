// Where a rule begins on a mesh, so that it changes something there.
import type { Cue } from '../coverage';
import type { Mesh } from './mesh';

/** Shares of the vertices between which most of what is there lies. */
const MOST = [0.1, 0.5, 0.9] as const;
/** A ramp that begins anew is so much of that wide. */
const WIDE = 0.25;

/** Altitudes or steepnesses at the vertices of a mesh, in the unit of the cue; null for cues that look at anything else. */
function looksAt(cue: Cue, { position, normal }: Mesh, standsAtM: number): ((vertex: number) => number) | null {
  if (cue.kind === 'altitude') {
    const above = cue.from === 'world' ? standsAtM : 0;
    return (i) => position[i * 3 + 1] + above;
  }
  if (cue.kind === 'slope') return (i) => (Math.acos(Math.min(1, Math.max(-1, normal[i * 3 + 1]))) * 180) / Math.PI;
  return null;
}

/**
 * A cue by altitude or slope whose ramp lies where most of a mesh is: one that is there already stays, as do cues of other kinds; else
 * its centre is the middle of what is there. @param standsAtM altitude of the mesh's origin above the sea
 */
export function beginsWithin(cue: Cue, mesh: Mesh, standsAtM: number): Cue {
  const value = looksAt(cue, mesh, standsAtM);
  const count = mesh.position.length / 3;
  if (!value || !count) return cue;
  const sorted = Float32Array.from({ length: count }, (_, i) => value(i)).sort();
  const [low, middle, high] = MOST.map((share) => sorted[Math.min(count - 1, Math.floor(share * count))]);
  if (cue.centre >= low && cue.centre <= high) return cue;
  const digits = (v: number) => Number(v.toPrecision(v >= 1000 ? 4 : 3));
  return { ...cue, centre: digits(middle), width: high > low ? digits(Math.max(1e-3, (high - low) * WIDE)) : cue.width };
}
