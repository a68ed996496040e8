// Which finished maps belong to which slot of a mesh, by what they are called.

/** Something finished that a slot may wear. */
export interface Finished {
  key: string;
  name: string;
}

/** What a slot was found to wear, and why. */
export interface Match {
  key: string;
  by: 'name' | 'layout' | 'only one' | 'left over';
}

/** Words that say what kind of thing a name is of, not which one. */
const KINDS =
  /^(m|mi|mm|mat|mats|material|materials|shader|t|tx|tex|texture|textures|map|maps|sm|sk|mesh|geo|obj|object|slot|set|surface|lod|lp|hp|low|high|final|baked?)$/;
/** How much of two names has to agree. */
const ALIKE = 0.45;
/** What is not better by this much is no better. */
const CLEARLY = 0.02;
/** How far a picture has to agree with where a slot lies on its texture, and by how much better than others. */
const FITS = { least: 0.6, clearly: 0.1 };

/** Words of a name, in small letters, without leading zeros. */
const wordsOf = (name: string): string[] =>
  name
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/([A-Z])([A-Z][a-z])/g, '$1 $2')
    .normalize('NFKD')
    .toLowerCase()
    .match(/\p{L}+|\d+/gu)
    ?.map((w) => w.replace(/^0+(?=\d)/, '')) ?? [];

/** One word, but for its number: wheel and wheels. */
const same = (a: string, b: string): boolean =>
  a === b || (a.length > 2 && b.length > 2 && Math.abs(a.length - b.length) <= 2 && (a.startsWith(b) || b.startsWith(a)) && !/\d/.test(a + b));

/** Names by what tells them apart: words that all of them have, and those of kinds, say nothing. */
function telling(names: readonly string[], besides: readonly string[]): string[][] {
  const all = names.map(wordsOf);
  const everywhere = (w: string) => all.length > 1 && all.every((words) => words.some((x) => same(x, w)));
  return all.map((words) => {
    const left = words.filter((w) => !KINDS.test(w) && !everywhere(w) && !besides.some((b) => same(b, w)));
    return left.length ? left : words;
  });
}

/** How alike two names are, 0–1: letters of the words that both have, or of the one that the other holds. */
function alike(a: readonly string[], b: readonly string[]): number {
  const length = (words: readonly string[]) => words.reduce((n, w) => n + w.length, 0);
  const total = length(a) + length(b);
  if (!total) return 0;
  const rest = [...b];
  let shared = 0;
  for (const word of a) {
    const at = rest.findIndex((x) => same(x, word));
    if (at >= 0) shared += word.length + rest.splice(at, 1)[0].length;
  }
  const [short, long] = [a.join(''), b.join('')].sort((x, y) => x.length - y.length);
  const held = short.length > 2 && !/^\d+$/.test(short) && long.includes(short) ? 2 * short.length * 0.9 : 0;
  return Math.max(shared, held) / total;
}

/**
 * What each slot wears by its name; slots that nothing clearly belongs to are left out. The only thing there is goes on all
 * slots; where one slot and one thing are left over, these go together.
 * @param mesh its name, whose words say nothing of slots
 * @param agrees how far what is finished agrees with where a slot lies on its texture, 0–1; null where nothing is known
 */
export function matchSlots(
  slots: readonly string[],
  finished: readonly Finished[],
  mesh = '',
  agrees: (slot: string, key: string) => number | null = () => null,
): Map<string, Match> {
  const found = new Map<string, Match>();
  if (finished.length === 1) return new Map(slots.map((slot) => [slot, { key: finished[0].key, by: 'only one' }]));
  const besides = slots.length > 1 && finished.length > 1 ? wordsOf(mesh) : [];
  const [slotWords, names] = [
    telling(slots, besides),
    telling(
      finished.map((f) => f.name),
      besides,
    ),
  ];
  const scores = slots.map((_, s) => finished.map((_, f) => alike(slotWords[s], names[f])));
  const best = (list: readonly number[]): number => {
    const at = list.reduce((top, v, i) => (v > list[top] ? i : top), 0);
    return list[at] >= ALIKE && list.every((v, i) => i === at || v < list[at] - CLEARLY) ? at : -1;
  };
  slots.forEach((slot, s) => {
    const f = best(scores[s]);
    if (f >= 0) found.set(slot, { key: finished[f].key, by: 'name' });
  });
  const free = () => {
    const used = new Set([...found.values()].map((m) => m.key));
    return { bare: slots.filter((slot) => !found.has(slot)), unused: finished.filter((f) => !used.has(f.key)) };
  };
  // Names that say nothing: a picture shows where it was made for.
  const open = free();
  for (const slot of open.bare) {
    const list = open.unused.map((f) => ({ key: f.key, fits: agrees(slot, f.key) ?? 0 })).sort((a, b) => b.fits - a.fits);
    const [first, second] = list;
    if (first && first.fits >= FITS.least && first.fits >= (second?.fits ?? 0) + FITS.clearly) found.set(slot, { key: first.key, by: 'layout' });
  }
  const { bare, unused } = free();
  if (bare.length === 1 && unused.length === 1) found.set(bare[0], { key: unused[0].key, by: 'left over' });
  return found;
}
