import type { Role } from '../surface';
import { ROLE_FACTS } from '../surface';
import type { Finding } from './finding';
import type { Measured } from './measure';
import type { FileClues } from './recognition';
import { contentOfRole } from './recognition';
import { SEAM } from './traces';

/** Block edges above this come from lossy compression. */
export const BLOCKS = 0.25;
/** Share of directions that point away from which on they are an object's. */
const AWAY = 0.04;
const percent = (share: number) => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;

/** What the pixels say beside the role. */
export function pixelFindings(
  clues: FileClues,
  { channels, depth, ranges: found, blocks, seam, normal, twoChannel, clear, content }: Measured,
  role: Role | null,
): Finding[] {
  const out: Finding[] = [];
  const add = (code: Finding['code'], severity: Finding['severity'], confidence: number, message: string) =>
    out.push({ code, severity, message, confidence });
  const isNormal = role === 'normal' && normal;
  if (isNormal && (clues.lossy || blocks > BLOCKS))
    add(
      'normal-lossy',
      'warning',
      clues.lossy ? 1 : Math.min(0.95, blocks),
      'Its directions were compressed with loss: blocks of 8 pixels show in highlights. Import a PNG if there is one',
    );
  if (isNormal && !twoChannel && normal.offUnit > 0.04)
    add(
      'normal-not-unit',
      'warning',
      0.9,
      `Its vectors are off unit length by ${percent(normal.offUnit)} on average. They can be made unit length again`,
    );
  if (isNormal && !twoChannel && normal.below > AWAY)
    add(
      'normal-of-object',
      'warning',
      Math.min(0.95, 0.6 + normal.below),
      `${percent(normal.below)} of its directions point away from the surface: they are along the axes of an object, not its tangents. Let its mesh wear it in Specimens, and turn it into tangents there`,
    );
  const isData = role !== null && ROLE_FACTS[role].colourSpace === 'data';
  if (clues.marked === 'srgb' && (isData || content === 'packed'))
    add('data-marked-srgb', 'warning', 1, 'The file says that it holds sRGB colours, but it holds data. It is read as data');
  if (clues.marked === 'linear' && role && ROLE_FACTS[role].colourSpace === 'srgb' && depth !== 32)
    add('colour-marked-data', 'question', 0.7, 'The file says that its colours are linear. Base colours are usually stored as sRGB. Which is it?');
  const names = channels === 1 ? ['Its channel'] : channels === 2 ? ['Grey', 'Alpha'] : ['Red', 'Green', 'Blue', 'Alpha'];
  const alpha = channels === 4 || channels === 2 ? channels - 1 : -1;
  found.forEach((r, c) => {
    if (r.hi - r.lo > 0.5 / 255) return;
    if (c === alpha && r.lo >= 1) add('alpha-unused', 'info', 1, 'Its alpha is 1 everywhere: it can be left out');
    else if (!(isNormal && twoChannel && c === 2)) add('channel-constant', 'info', 1, `${names[c]} is ${r.lo.toFixed(2)} everywhere`);
  });
  if (channels === 4 && found[3].lo <= 0 && found[3].hi > 0 && role && contentOfRole(role) === 'colour') {
    if (clear.share && clear.black / clear.share > 0.9)
      add(
        'colour-under-zero-alpha',
        'warning',
        0.9,
        `${percent(clear.share)} of it is clear, and black below: a dark rim shows when it is filtered. The colour can be bled outward`,
      );
  }
  // What is wholly open is no loss.
  const fullIsUsual = role === 'occlusion' || role === 'cavity';
  for (const [c, r] of found.entries()) {
    const atHi = fullIsUsual ? 0 : r.atHi;
    if (
      c !== alpha &&
      isData &&
      role !== 'metallic' &&
      role !== 'mask' &&
      role !== 'opacity' &&
      r.hi > r.lo &&
      (atHi > 0.05 || r.atLo > 0.05) &&
      content === 'grey'
    ) {
      add(
        'clipped',
        'warning',
        0.7,
        `${percent(Math.max(atHi, r.atLo))} of it lie at the very ${atHi > r.atLo ? 'top' : 'bottom'} of its range: something was cut off`,
      );
      break;
    }
  }
  // IDs belong to the places of a mesh or an extent; mended borders would be colours of nobody.
  if (seam > SEAM && role !== 'id')
    add('seam', 'warning', Math.min(0.95, seam / 6), `It does not tile: steps over its border are ${seam.toFixed(1)} times the largest within`);
  return out;
}
