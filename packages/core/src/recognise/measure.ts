import type { Image } from '../image';
import { colourEvidence } from './colours';
import { normalEvidence } from './normals';
import type { NormalEvidence } from './normals';
import type { Planes } from './planes';
import { partsOf } from './planes';
import type { Content, FileClues } from './recognition';
import type { ChannelRange } from './traces';
import { blockEdges, ranges, seamError } from './traces';

/** What measuring an image gives; the evidence that is weighed within a surface too. */
export interface Measured {
  channels: Image['channels'];
  depth: Image['depth'];
  parts: Planes[];
  ranges: ChannelRange[];
  /** Channels carry the same thing. */
  grey: boolean;
  blocks: number;
  seam: number;
  normal: NormalEvidence | null;
  twoChannel: boolean;
  content: Content;
  contentConfidence: number;
  /** Shares of texels that are clear, and clear and black; of colours with alpha. */
  clear: { share: number; black: number };
}

/** Largest mean |length − 1| of vectors that are meant as directions. */
const UNIT = { exact: 0.09, lossy: 0.16 };
/** Differences below this are rounding, or what a lossy file makes of grey. */
const SAME = { exact: 1.5 / 255, lossy: 6 / 255 };

const sameChannels = (parts: readonly Planes[], most: number): boolean =>
  parts.every(({ channels: [r, g, b], seen }) => {
    let [off, count] = [0, 0];
    for (let i = 0; i < r.length; i++) {
      if (seen && !seen[i]) continue;
      count++;
      if (Math.abs(r[i] - g[i]) > most || Math.abs(r[i] - b[i]) > most) off++;
    }
    return off <= count * 0.01;
  });

/** Shares of all texels that are clear, and clear and black. */
function clearShare({ channels, data }: Image): Measured['clear'] {
  if (channels !== 4) return { share: 0, black: 0 };
  let [share, black] = [0, 0];
  // Every fourth says as much.
  const stride = data.length > 2 ** 20 ? 16 : 4;
  for (let i = 0; i < data.length; i += stride) {
    if (data[i + 3] > 0) continue;
    share++;
    if (Math.max(data[i], data[i + 1], data[i + 2]) <= 1) black++;
  }
  const count = Math.ceil(data.length / stride);
  return { share: share / count, black: black / count };
}

/** Measures everything that recognition goes by. */
export function measure(image: Image, clues: FileClues = {}): Measured {
  const parts = partsOf(image);
  const found = ranges(image);
  const blocks = image.depth === 8 ? blockEdges(parts) : 0;
  const same = image.channels < 3 ? image.channels === 1 || found[1].lo === 1 : sameChannels(parts, clues.lossy ? SAME.lossy : SAME.exact);
  const { twoChannel, normal } = same ? { twoChannel: false, normal: null } : directions(parts, image.channels, found, clues.lossy === true);
  // A grey picture with alpha, unless its two channels are directions.
  const grey = same || (image.channels === 2 && !(normal && isTwoChannelNormal(normal, clues.lossy === true)));
  const seam = seamError(image);
  const { channels, depth } = image;
  return {
    channels,
    depth,
    parts,
    ranges: found,
    grey,
    blocks,
    seam,
    normal: grey ? null : normal,
    twoChannel: !grey && twoChannel,
    clear: clearShare(image),
    ...contentOf(parts, found, grey, normal, twoChannel, clues.lossy === true),
  };
}

/** What its channels say when they are read as directions, of two or of three components. */
function directions(
  parts: readonly Planes[],
  channels: number,
  found: readonly ChannelRange[],
  lossy: boolean,
): Pick<Measured, 'twoChannel'> & { normal: NormalEvidence } {
  if (channels === 2) return { twoChannel: true, normal: normalEvidence(parts, true) };
  // A third channel that is 0 or 1 throughout, as far as loss lets it be.
  const third = found[2];
  const full = third.lo > (lossy ? 0.9 : 0.996);
  if (third.mean >= (lossy ? 0.08 : 0.004) && !full) return { twoChannel: false, normal: normalEvidence(parts, false) };
  // Where all is nearly flat, a full third channel is what it must be.
  const whole = full ? normalEvidence(parts, false) : null;
  if (whole && whole.offUnit < FLAT && isUpright(whole)) return { twoChannel: false, normal: whole };
  return { twoChannel: true, normal: normalEvidence(parts, true) };
}
/** Mean |length − 1| with a third channel of 1, up to which two channels are flat directions. */
const FLAT = 0.006;
const isUpright = ({ mean: [x, y, z] }: NormalEvidence): boolean => z > 0.35 && Math.abs(x) < 0.3 && Math.abs(y) < 0.3;
/** With the third rebuilt every vector is of unit length: slopes that belong to a surface must speak for it. */
const isTwoChannelNormal = (normal: NormalEvidence, lossy: boolean): boolean =>
  isUpright(normal) && normal.offUnit < 0.02 && normal.confidence > (lossy ? 0.2 : 0.3);

function contentOf(
  parts: readonly Planes[],
  found: readonly ChannelRange[],
  grey: boolean,
  normal: NormalEvidence | null,
  twoChannel: boolean,
  lossy: boolean,
): { content: Content; contentConfidence: number } {
  if (grey) return { content: 'grey', contentConfidence: 0.95 };
  if (normal) {
    const unit = lossy ? UNIT.lossy : UNIT.exact;
    if (isUpright(normal) && !twoChannel && normal.offUnit < unit)
      return { content: 'normal', contentConfidence: Math.min(0.99, 0.72 + 0.25 * (1 - normal.offUnit / unit) + 0.2 * normal.confidence) };
    if (twoChannel && isTwoChannelNormal(normal, lossy))
      return { content: 'normal', contentConfidence: Math.min(0.95, 0.5 + 0.5 * normal.confidence) };
  }
  const { packed, id } = colourEvidence(parts, found, lossy);
  if (id > 0.5) return { content: 'id', contentConfidence: id };
  return packed > 0.5 ? { content: 'packed', contentConfidence: packed } : { content: 'colour', contentConfidence: 1 - packed };
}
