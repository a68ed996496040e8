// A file from what was authored, and how far it is from that once it is decoded again.
import type { Image, Quality } from '@pebble/core';
import { compareImages, isColourFile, makeImage } from '@pebble/core';
import { fileOfLevels, holdsDirections } from '../packed-file';
import type { FinishWork, FinishedFile, Ports } from '../ports';

/** How far the largest level of a file, decoded again, is from what was authored. */
export async function qualityOf(
  { codec }: Pick<Ports, 'codec'>,
  bytes: Uint8Array,
  { levels, channels }: Pick<FinishWork, 'levels' | 'channels'>,
): Promise<Quality> {
  const decoded = await codec.decode(bytes, 'data');
  const as = holdsDirections(channels) ? 'normal' : isColourFile(channels) ? 'colour' : 'data';
  return compareImages(asFile(levels[0], decoded), decoded, as);
}
/** An authored picture without the channels that its file does not hold. */
function asFile(authored: Image, decoded: Image): Image {
  if (decoded.channels === 1 || authored.channels <= decoded.channels) return authored;
  const out = makeImage({ ...authored, channels: decoded.channels, data: undefined });
  for (let i = 0; i < out.data.length; i++) out.data[i] = authored.data[Math.floor(i / out.channels) * authored.channels + (i % out.channels)];
  return out;
}

export async function finished(ports: Pick<Ports, 'codec' | 'write'>, { levels, channels, way, measured }: FinishWork): Promise<FinishedFile> {
  const bytes = await fileOfLevels(ports, channels, levels, way);
  return { bytes, ...(measured ? { quality: await qualityOf(ports, bytes, { levels, channels }) } : {}) };
}
