import type { Reader } from '../reader';
import { corrupt, unsupported } from '../reader';
import type { ImageKind, ImageShape } from './kind';
import { starts } from './kind';

/** Size of a Radiance picture, from its text header. Source: Radiance picture file format, Ward 1994. */
function probe(r: Reader): ImageShape {
  const lines = r.text(0, Math.min(r.length, 4096)).split('\n');
  const size = lines.map((line) => /^-Y (\d+) \+X (\d+)$/.exec(line)).find(Boolean);
  if (!size) {
    if (lines.some((line) => /^[-+][XY] \d+ [-+][XY] \d+$/.test(line)))
      throw unsupported('a picture that is turned or mirrored is not read. Save it upright');
    throw corrupt('its size is missing', 0);
  }
  const [height, width] = [Number(size[1]), Number(size[2])];
  if (!width || !height) throw corrupt('it has no pixels', 0);
  if (!lines.some((line) => /^FORMAT=32-bit_rle_rgbe$/.test(line))) throw unsupported('only RGBE colours are read', 0);
  return { width, height, channels: 3, depth: 32 };
}

export const hdr: ImageKind = {
  name: 'HDR',
  endings: ['.hdr'],
  is: (b) => starts(b, '#?RADIANCE') || starts(b, '#?RGBE'),
  probe,
  marks: () => ({ lossy: false, marked: 'linear' }),
};
