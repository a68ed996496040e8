import type { Planes } from './planes';
import { correlation, mean, steps } from './planes';
import type { ChannelRange } from './traces';

/** What speaks for packed channels and for ID colours in an image whose channels differ, 0–1 each. */
export function colourEvidence(parts: readonly Planes[], found: readonly ChannelRange[], lossy: boolean): { packed: number; id: number } {
  const id = idEvidence(parts, lossy);
  return { id, packed: id > 0.5 ? 0 : packedEvidence(parts, found, lossy) };
}

/**
 * Steps of the colour cube per channel when colours are counted, the largest step within a flat area, the share that areas
 * must cover, and how far texels may lie from the colour of theirs (root of mean squares).
 */
const EXACT = { cube: 16, flat: 5 / 255, covers: 0.75, loose: 0.012 };
const LOSSY = { cube: 8, flat: 20 / 255, covers: 0.6, loose: 0.05 };
/** Colours that fewer texels than this share have are edges. */
const AREA = 0.004;
/**
 * Loss rings over the whole of small areas, and leaves few texels flat. Of what is as garish as only IDs are, that share is
 * enough to say so, though not for sure.
 */
const RINGING = { chroma: 0.7, covers: 0.2 };

/** Few colours in flat areas, colourful, and hardly anything between the colour of an area and that of its texels. */
function idEvidence(parts: readonly Planes[], lossy: boolean): number {
  const { cube, flat: level, covers, loose } = lossy ? LOSSY : EXACT;
  // Pictures of things are seldom so colourful, and need no counting of areas.
  const { chroma, texels } = chromaOf(parts);
  if (chroma < 0.25) return 0;
  const bins = new Map<number, Bin>();
  for (const { width, height, channels, seen } of parts) {
    const [r, g, b] = channels;
    for (let y = 0; y < height - 1; y++)
      for (let x = 0, i = y * width; x < width - 1; x++, i++) {
        if (seen && !seen[i]) continue;
        const [right, down] = [i + 1, i + width];
        const step = Math.max(
          Math.abs(r[i] - r[right]),
          Math.abs(r[i] - r[down]),
          Math.abs(g[i] - g[right]),
          Math.abs(g[i] - g[down]),
          Math.abs(b[i] - b[right]),
          Math.abs(b[i] - b[down]),
        );
        if (step >= level) continue;
        const key = (Math.round(r[i] * cube) * (cube + 1) + Math.round(g[i] * cube)) * (cube + 1) + Math.round(b[i] * cube);
        let bin = bins.get(key);
        if (!bin) bins.set(key, (bin = { n: 0, sum: [0, 0, 0], squares: 0 }));
        bin.n++;
        bin.sum[0] += r[i];
        bin.sum[1] += g[i];
        bin.sum[2] += b[i];
        bin.squares += r[i] * r[i] + g[i] * g[i] + b[i] * b[i];
      }
  }
  const areas = merged([...bins.values()].filter(({ n }) => n / texels > AREA));
  if (areas.length < 2 || areas.length > 40) return 0;
  const covered = areas.reduce((sum, { n }) => sum + n, 0) / texels;
  const spread = areas.reduce((sum, { n, sum: s, squares }) => sum + Math.max(0, squares - (s[0] ** 2 + s[1] ** 2 + s[2] ** 2) / n), 0);
  const looseness = Math.sqrt(spread / (covered * texels));
  if (looseness >= loose) return 0;
  if (covered > covers) return Math.min(0.97, 0.75 + covered * 0.25);
  return lossy && chroma > RINGING.chroma && covered > RINGING.covers ? 0.55 + 0.2 * covered : 0;
}

/** Mean difference of the largest and the least channel, over texels that have a neighbour right and below. */
function chromaOf(parts: readonly Planes[]): { chroma: number; texels: number } {
  let [sum, texels] = [0, 0];
  for (const { width, height, channels, seen } of parts) {
    const [r, g, b] = channels;
    for (let y = 0; y < height - 1; y++)
      for (let x = 0, i = y * width; x < width - 1; x++, i++) {
        if (seen && !seen[i]) continue;
        sum += Math.max(r[i], g[i], b[i]) - Math.min(r[i], g[i], b[i]);
        texels++;
      }
  }
  return { chroma: sum / Math.max(1, texels), texels };
}

interface Bin {
  n: number;
  sum: [number, number, number];
  squares: number;
}
/** Colours nearer than this are one: shades that run into one another become one loose area. */
const APART = 0.16;

function merged(bins: readonly Bin[]): Bin[] {
  const out: (Bin & { members: Bin[] })[] = [];
  const near = (a: Bin, b: Bin) => Math.hypot(...a.sum.map((v, c) => v / a.n - b.sum[c] / b.n)) < APART;
  for (const bin of bins) {
    const joined = out.filter((area) => area.members.some((m) => near(m, bin)));
    const all = [bin, ...joined];
    for (const area of joined) out.splice(out.indexOf(area), 1);
    out.push({
      n: all.reduce((sum, b) => sum + b.n, 0),
      sum: [0, 1, 2].map((c) => all.reduce((sum, b) => sum + b.sum[c], 0)) as Bin['sum'],
      squares: all.reduce((sum, b) => sum + b.squares, 0),
      members: [bin, ...joined.flatMap((area) => area.members)],
    });
  }
  return out;
}

/** How alike two rows of steps are, in size too: 1 the same, 0 unrelated (Lin's concordance about 0). */
function concordance(a: Float32Array, b: Float32Array): number {
  let [aa, bb, ab] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    aa += a[i] * a[i];
    bb += b[i] * b[i];
    ab += a[i] * b[i];
  }
  return aa + bb > 1e-9 ? (2 * ab) / (aa + bb) : 0;
}

/** Texels over which steps are taken: wider than what a lossy file shares between colours, and than rounding. */
const FAR = 4;
/** Every second row says as much as all. */
const ROWS = 2;
/**
 * Where each pair of channels correlates by more, both from texel to texel and further off, one light made them all: that is a
 * picture, however garish. Loss shares edges between channels. No packed map of the tuning set comes near.
 */
const ONE_LIGHT = { exact: 0.7, lossy: 0.86 };
/** How likely such a picture is packed all the same. */
const UNLIKELY = 0.1;
/** Two channels nearly one count as this much concordance of all three. */
const NEARLY_ONE = 0.66;
/** Weights of what speaks for packing: fitted by hand to the tuning set. */
const WEIGHTS = { together: [-7, 0.6], ends: [10, 0.2], chroma: [12, 0.28] } as const;

const PAIRS = [
  [0, 1],
  [1, 2],
  [0, 2],
] as const;

/** Mean difference of the largest and the least channel, and the share of texels with a channel at an end. */
function garishness(parts: readonly Planes[]): { chroma: number; ends: number } {
  let [chroma, ends, count] = [0, 0, 0];
  for (const { channels, seen } of parts) {
    const [r, g, b] = channels;
    for (let i = 0; i < r.length; i++) {
      if (seen && !seen[i]) continue;
      count++;
      const most = Math.max(r[i], g[i], b[i]);
      const least = Math.min(r[i], g[i], b[i]);
      chroma += most - least;
      if (most > 0.97 || least < 0.02) ends++;
    }
  }
  return { chroma: chroma / Math.max(1, count), ends: ends / Math.max(1, count) };
}

/**
 * Channels of a picture of something rise and fall together and by as much, those of packed maps need not; and data fills
 * its range, where colours of things stay within. Two channels that are nearly one (green and blue of a patina) still make
 * a colour when the third goes its own way.
 */
function packedEvidence(parts: readonly Planes[], found: readonly ChannelRange[], lossy: boolean): number {
  const empty = [0, 1, 2].filter((c) => found[c].hi - found[c].lo <= 3 / 255).length;
  if (empty === 3) return 0;
  const taken = (far: number) =>
    parts.map((p) => p.channels.map((plane) => steps(plane, p.width, p.height, Math.min(far, p.width - 1, p.height - 1), ROWS)));
  const along = taken(FAR);
  const oneLight = [along, taken(1)].every((all) =>
    PAIRS.every(([a, b]) => mean(all.map((planes) => correlation(planes[a], planes[b]))) > (lossy ? ONE_LIGHT.lossy : ONE_LIGHT.exact)),
  );
  if (oneLight) return UNLIKELY;
  const pairs = PAIRS.map(([a, b]) => ({
    like: mean(along.map((planes) => concordance(planes[a], planes[b]))),
    apart: Math.abs(found[a].mean - found[b].mean),
  }));
  const nearlyOne = pairs.some(({ like, apart }) => like > 0.93 && apart < 0.14);
  const together = Math.max(mean(pairs.map((p) => p.like)), nearlyOne ? NEARLY_ONE : 0);
  const seen = { together, ...garishness(parts) };
  const score = (Object.keys(WEIGHTS) as (keyof typeof WEIGHTS)[]).reduce((sum, k) => sum + WEIGHTS[k][0] * (seen[k] - WEIGHTS[k][1]), 0);
  const packed = 1 / (1 + Math.exp(-score));
  return empty ? Math.min(0.97, 0.8 + 0.17 * packed) : packed;
}
