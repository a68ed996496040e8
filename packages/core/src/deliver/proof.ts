// The measured difference between what was authored and what a bundle holds.
import type { Quality } from '../pack';
import type { BundleFile } from './manifest';

/** How far a decoded file of a bundle is from what was authored. */
export interface ProofRow {
  path: string;
  /** Whether its kind of file keeps every bit. */
  lossless: boolean;
  quality: Quality;
}
/** How a lit picture of the decoded maps differs from that of the authored ones, values 0–255. */
export interface LitRow {
  asset: string;
  slot: string;
  target: string;
  max: number;
  mean: number;
  deltaE: { mean: number; p99: number };
}
export interface Proof {
  rows: ProofRow[];
  lit: LitRow[];
}

const same = (q: Quality): boolean => q.channels.every((c) => c.psnr === null);
/** Decibels and degrees by which two decoders may differ in what they measure. */
const SLACK = { db: 0.05, degrees: 0.02, deltaE: 0.02 };

/** What is wrong with a proof, by path: a lossless file that differs, a lossy one that is worse than the bundle states. */
export function proofProblems(
  { rows }: Pick<Proof, 'rows'>,
  files: readonly Pick<BundleFile, 'path' | 'quality'>[],
): { path: string; message: string }[] {
  const stated = new Map(files.map((f) => [f.path, f.quality]));
  return rows.flatMap(({ path, lossless, quality }) => {
    if (lossless) return same(quality) ? [] : [{ path, message: `${path} keeps every bit, and differs from what was authored` }];
    const said = stated.get(path);
    if (!said) return same(quality) ? [] : [{ path, message: `${path} is lossy, and the bundle does not say by how much` }];
    const worse = quality.channels.findIndex((c, i) => (c.psnr ?? Infinity) < (said.channels[i]?.psnr ?? Infinity) - SLACK.db);
    if (worse >= 0)
      return [
        {
          path,
          message: `${path}: channel ${worse + 1} is ${quality.channels[worse].psnr?.toFixed(1)} dB, the bundle says ${said.channels[worse]?.psnr?.toFixed(1) ?? 'equal'}`,
        },
      ];
    if ((quality.angle?.mean ?? 0) > (said.angle?.mean ?? 0) + SLACK.degrees)
      return [
        { path, message: `${path}: directions are off by ${quality.angle?.mean.toFixed(2)}°, the bundle says ${said.angle?.mean.toFixed(2)}°` },
      ];
    if ((quality.deltaE?.mean ?? 0) > (said.deltaE?.mean ?? 0) + SLACK.deltaE)
      return [
        { path, message: `${path}: colours are off by ΔE ${quality.deltaE?.mean.toFixed(2)}, the bundle says ${said.deltaE?.mean.toFixed(2)}` },
      ];
    return [];
  });
}

/** Worst figures of a proof, for one line. */
export function proofSummary({ rows, lit }: Proof): {
  identical: number;
  lossless: number;
  lossy: number;
  psnr: number | null;
  degrees: number;
  deltaE: number;
  litDeltaE: number;
} {
  const lossy = rows.filter((r) => !r.lossless);
  const psnrs = lossy.flatMap((r) => r.quality.channels.flatMap((c) => c.psnr ?? []));
  return {
    identical: rows.filter((r) => r.lossless && same(r.quality)).length,
    lossless: rows.filter((r) => r.lossless).length,
    lossy: lossy.length,
    psnr: psnrs.length ? Math.min(...psnrs) : null,
    degrees: Math.max(0, ...lossy.map((r) => r.quality.angle?.mean ?? 0)),
    deltaE: Math.max(0, ...lossy.map((r) => r.quality.deltaE?.mean ?? 0)),
    litDeltaE: Math.max(0, ...lit.map((l) => l.deltaE.p99)),
  };
}
