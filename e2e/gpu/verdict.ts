import type { BentCase } from './bent-cases';

/** Of the bytes of one channel over all documents, the share that may differ by more than 2 (live mode: 99 of 100 stay within). */
const OVERALL = 0.01;
/** The same of one document: where a seam is steep, the fractions that graphics filter with are seen. */
const SINGLY = 0.05;
/** Of channels that hardly depend on how steep a seam is. */
const SINGLY_OF: Readonly<Record<string, number>> = { normal: 0.015, height: 0.02, metallic: 0.02 };
/** What 99 of 100 bytes of one document stay within at most. */
const WORST = 6;
/** Of what is darkened where two layers meet, by 1 − contact·4w(1 − w): up to four times what a weight is off. */
const WORST_OF: Readonly<Record<string, number>> = { occlusion: 10 };

/** What does not agree with the processor, a sentence each. */
export function disagreements(cases: readonly BentCase[]): string[] {
  const out = cases
    .filter(({ channel, p99, beyond }) => p99 > (WORST_OF[channel] ?? WORST) || beyond > (SINGLY_OF[channel] ?? SINGLY))
    .map(
      ({ name, channel, p99, beyond }) => `${name}, ${channel}: ${(100 * beyond).toFixed(1)} % of bytes differ, 99 of 100 by up to ${p99.toFixed(1)}`,
    );
  for (const channel of new Set(cases.map((c) => c.channel))) {
    const of = cases.filter((c) => c.channel === channel);
    const beyond = of.reduce((sum, c) => sum + c.beyond, 0) / of.length;
    if (beyond > OVERALL) out.push(`${channel} over all: ${(100 * beyond).toFixed(1)} % of bytes differ`);
    // A channel that is the same everywhere in every document would say nothing.
    if (!of.some((c) => c.varies > 8)) out.push(`${channel} has one value everywhere`);
  }
  return out;
}
