import { stepKinds } from './catalogue';
import type { GraphStep } from './step';

const words = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean);

/** How well a text is found by a query: 0 not at all. What lacks a word comes after all that lacks none. */
export function matchScore(query: string, name: string, more = ''): number {
  const wanted = words(query);
  if (!wanted.length) return 1;
  const [called, meant] = [name.toLowerCase(), words(more)];
  let [score, lacks] = [0, 0];
  for (const word of wanted) {
    const best =
      called === word ? 100 : called.startsWith(word) ? 60 : words(name).some((w) => w.startsWith(word)) ? 45 : called.includes(word) ? 30 : 0;
    const by = meant.includes(word)
      ? 26
      : meant.some((m) => m.startsWith(word))
        ? 18
        : word.length > 3 && meant.some((m) => m.includes(word))
          ? 8
          : 0;
    // People write "edges" for "edge", "darkening" for "darken".
    const stem =
      best || by
        ? 0
        : meant.some((m) => m.length > 3 && word.length > 3 && (word.startsWith(m.slice(0, -1)) || m.startsWith(word.slice(0, -1))))
          ? 10
          : 0;
    const found = Math.max(best, by, stem);
    if (!found) lacks++;
    score += found;
  }
  // Of two that match alike the shorter name is meant.
  if (lacks === wanted.length) return 0;
  return Math.max(0.01, score / wanted.length - called.length * 0.05) / 1000 ** lacks;
}

/** Steps that are meant by a name, another name or a purpose, the likeliest first. @param fits which of them may be taken */
export const findSteps = (query: string, fits: (kind: GraphStep) => boolean = () => true): { kind: GraphStep; score: number }[] =>
  stepKinds()
    .map((kind) => ({ kind, score: fits(kind) ? matchScore(query, kind.name, `${kind.words} ${kind.help} ${kind.group}`) : 0 }))
    .filter(({ score }) => score > 0)
    .sort((a, b) => b.score - a.score);
