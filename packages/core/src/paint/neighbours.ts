import type { Mesh } from '../mesh/mesh';
import { boundsOf } from '../mesh/mesh';
import { weld } from '../mesh/weld';

/** Neighbours of each place as one flat list; vertices that lie at one place count once. */
export interface Neighbourhood {
  place: Uint32Array;
  first: Uint32Array;
  around: Uint32Array;
  /** Vertices of each place, linked: the next one after a vertex, or itself at the end. */
  next: Uint32Array;
}

/** Places differ by more than this share of the whole. */
const GRAIN = 1e-6;

/** For every vertex the first one that lies where it does. */
export function placesOf({ position }: Pick<Mesh, 'position'>): Uint32Array {
  const { lo, hi } = boundsOf({ position });
  const grain = Math.max(1e-9, GRAIN * Math.hypot(hi[0] - lo[0], hi[1] - lo[1], hi[2] - lo[2]));
  const whole = new Float32Array(position.length);
  // A loop: mapping a typed array goes through its iterator, which takes many times as long.
  for (let i = 0; i < whole.length; i++) whole[i] = Math.round(position[i] / grain);
  return weld([whole], [3]);
}

export function neighbourhood({ position, index }: Pick<Mesh, 'position' | 'index'>): Neighbourhood {
  const count = position.length / 3;
  const place = placesOf({ position });
  const next = Uint32Array.from({ length: count }, (_, i) => i);
  const last = next.slice();
  for (let i = 0; i < count; i++)
    if (place[i] !== i) {
      next[last[place[i]]] = i;
      last[place[i]] = i;
    }
  const first = new Uint32Array(count + 1);
  const each = (take: (from: number, to: number) => void) => {
    for (let t = 0; t + 2 < index.length; t += 3)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [place[index[t + k]], place[index[t + ((k + 1) % 3)]]];
        if (a === b) continue;
        take(a, b);
        take(b, a);
      }
  };
  each((from) => first[from + 1]++);
  for (let i = 1; i <= count; i++) first[i] += first[i - 1];
  const around = new Uint32Array(first[count]);
  const fill = first.slice();
  each((from, to) => (around[fill[from]++] = to));
  return { place, first, around, next };
}
