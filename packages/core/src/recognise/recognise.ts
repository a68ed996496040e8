import type { ColourSpace, Image } from '../image';
import type { Role } from '../surface';
import { ROLE_FACTS, readName } from '../surface';
import { colourEvidence } from './colours';
import type { Finding } from './finding';
import { DIRECTION_SURE, normalEvidence } from './normals';
import type { NormalEvidence } from './normals';
import type { Planes } from './planes';
import { partsOf } from './planes';
import type { ChannelRange } from './traces';
import { SEAM, blockEdges, ranges, seamError } from './traces';

/** What is known of a file beside its pixels. */
export interface FileClues {
  fileName?: string;
  /** Its kind of compression loses something. */
  lossy?: boolean;
  /** What the file itself says of its colours. */
  marked?: 'srgb' | 'linear' | null;
  /** What somebody says that it is: taken, but held against the content. */
  role?: Role;
}

/** Kinds of content that pixels alone tell apart. */
export type Content = 'colour' | 'normal' | 'packed' | 'id' | 'grey';

export interface Recognition {
  role: Role | null;
  /** 0–1. */
  roleConfidence: number;
  content: Content;
  contentConfidence: number;
  colourSpace: ColourSpace;
  /** Null for maps that are no normals. */
  normalDirection: 'y+' | 'y-' | 'unknown' | null;
  normalConfidence: number;
  /** Only two channels of a normal map are there. */
  twoChannel: boolean;
  /** What the channels of a packed map seem to hold; null for other maps. */
  packed: Partial<Record<'r' | 'g' | 'b' | 'a', Role>> | null;
  findings: Finding[];
}

/** A file that was sent and may be read; `problem` says why not. */
export interface SentFile {
  fileName: string;
  /** Null when it could not be read. */
  blob: string | null;
  width: number;
  height: number;
  channels: number;
  depth: 8 | 16 | 32;
  problem: string | null;
}

/** A file as it was looked at, before it becomes a map. */
export interface LookedAt extends Recognition {
  blob: string;
  fileName: string;
  /** Files of one surface share it. */
  stem: string;
  /** Why the file cannot be read; the rest then says nothing. */
  problem: string | null;
}

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
}

/** Largest mean |length − 1| of vectors that are meant as directions. */
const UNIT = { exact: 0.09, lossy: 0.16 };
/** Differences below this are rounding, or what a lossy file makes of grey. */
const SAME = { exact: 1.5 / 255, lossy: 6 / 255 };

const sameChannels = (parts: readonly Planes[], most: number): boolean =>
  parts.every(({ channels: [r, g, b] }) => {
    let off = 0;
    for (let i = 0; i < r.length; i++) if (Math.abs(r[i] - g[i]) > most || Math.abs(r[i] - b[i]) > most) off++;
    return off <= r.length * 0.01;
  });

/** Measures everything that recognition goes by. */
export function measure(image: Image, clues: FileClues = {}): Measured {
  const parts = partsOf(image);
  const found = ranges(image);
  const blocks = image.depth === 8 ? blockEdges(parts) : 0;
  const grey = image.channels < 3 ? image.channels === 1 || found[1].lo === 1 : sameChannels(parts, clues.lossy ? SAME.lossy : SAME.exact);
  // A third channel that is 0 or 1 throughout, as far as loss lets it be.
  const third = image.channels >= 3 && !grey ? found[2] : null;
  const emptyThird = third !== null && (third.mean < (clues.lossy ? 0.08 : 0.004) || third.lo > (clues.lossy ? 0.9 : 0.996));
  const twoChannel = !grey && ((image.channels === 2 && found[1].hi < 1) || emptyThird);
  const normal = grey || image.channels < 2 ? null : normalEvidence(parts, twoChannel);
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
    normal,
    twoChannel,
    ...contentOf(parts, found, grey, normal, twoChannel, clues.lossy === true),
  };
}

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
    const [x, y, z] = normal.mean;
    const unit = lossy ? UNIT.lossy : UNIT.exact;
    const upright = z > 0.35 && Math.abs(x) < 0.3 && Math.abs(y) < 0.3;
    if (upright && !twoChannel && normal.offUnit < unit)
      return { content: 'normal', contentConfidence: Math.min(0.99, 0.72 + 0.25 * (1 - normal.offUnit / unit) + 0.2 * normal.confidence) };
    // With the third rebuilt every vector is of unit length: slopes that belong to a surface must speak for it.
    if (upright && twoChannel && normal.offUnit < 0.02 && normal.confidence > (lossy ? 0.2 : 0.3))
      return { content: 'normal', contentConfidence: Math.min(0.95, 0.5 + 0.5 * normal.confidence) };
  }
  const { packed, id } = colourEvidence(parts, found, lossy);
  if (id > 0.5) return { content: 'id', contentConfidence: id };
  return packed > 0.5 ? { content: 'packed', contentConfidence: packed } : { content: 'colour', contentConfidence: 1 - packed };
}

/** The kind of content that a role is stored as. */
export const contentOfRole = (role: Role): Content =>
  role === 'normal' ? 'normal' : role === 'id' ? 'id' : role === 'position' || ROLE_FACTS[role].components === 3 ? 'colour' : 'grey';

/** Roles that each kind of content stands for when nothing else is known. */
const USUAL_ROLES: Record<Content, { role: Role | null; confidence: number }> = {
  colour: { role: 'baseColor', confidence: 0.9 },
  normal: { role: 'normal', confidence: 0.98 },
  packed: { role: null, confidence: 0.8 },
  id: { role: 'id', confidence: 0.9 },
  grey: { role: null, confidence: 0.3 },
};

/** What a single image is, from its content and, where one is given, its name. */
export function recognise(image: Image, clues: FileClues = {}): Recognition {
  return judge(clues, measure(image, clues));
}

/** {@link recognise} for an image that is measured already. `grey` is what its surface says of a grey map. */
export function judge(clues: FileClues, measured: Measured, grey?: { role: Role; confidence: number }): Recognition {
  const { content, contentConfidence, normal } = measured;
  const read = clues.fileName ? readName(clues.fileName) : null;
  const name = clues.role ? { role: clues.role, normalDirection: read?.normalDirection ?? null } : read;
  const findings: Finding[] = [];
  const usual = content === 'grey' ? (grey ?? greyAlone(measured)) : USUAL_ROLES[content];
  let role = usual.role;
  let confidence = usual.confidence * contentConfidence;
  if (name?.role) {
    const named = contentOfRole(name.role);
    // A grey map may be stored in three channels, a colour may be grey, and what packs a role may be named for it.
    const fits =
      named === content ||
      (content === 'grey' && named === 'colour') ||
      (content === 'id' && (named === 'colour' || name.role === 'mask')) ||
      (content === 'colour' && named === 'id');
    if (fits) {
      role = name.role;
      confidence = content === 'grey' && grey && grey.role !== name.role ? 0.9 : 0.99;
    } else {
      const label = ROLE_FACTS[name.role].label.toLowerCase();
      findings.push({
        code: 'name-content-disagree',
        severity: 'question',
        message: `${clues.role ? 'It is taken for' : 'The name says'} ${label}, the content looks like ${SAYS[content]}. Which is it?`,
        confidence: contentConfidence,
      });
      // The content is what will be seen; it is only proposed.
      role = clues.role ?? usual.role ?? name.role;
      confidence = Math.min(0.5, confidence);
    }
  } else if (content === 'grey' && confidence < 0.6)
    findings.push({
      code: 'role-unsure',
      severity: 'question',
      message: 'One channel, and its name does not say what it holds. Choose a role',
      confidence: 0.5,
    });

  const packed = content === 'packed' ? packedRoles(measured, clues) : null;
  if (packed && !packed.spelt)
    findings.push({
      code: 'packed',
      severity: 'question',
      message: 'Its channels carry different things. Say what each of them holds',
      confidence: contentConfidence,
    });
  else if (content !== 'grey' && contentConfidence < UNSURE && !name?.role)
    findings.push({
      code: 'role-unsure',
      severity: 'question',
      message: `It looks like ${SAYS[content]}, but not clearly. Is it?`,
      confidence: contentConfidence,
    });

  const isNormal = role === 'normal' && normal !== null;
  const sure = clues.lossy || measured.blocks > BLOCKS ? DIRECTION_SURE.lossy : DIRECTION_SURE.exact;
  const direction = !isNormal ? null : normal.confidence >= sure ? normal.direction : (name?.normalDirection ?? 'unknown');
  const colourSpace = role ? ROLE_FACTS[role].colourSpace : 'data';
  findings.push(...traces(clues, measured, role));
  if (direction === 'unknown')
    findings.push({
      code: 'normal-direction-unknown',
      severity: 'question',
      message: 'Its slopes do not tell which way green points. Choose Y+ or Y−',
      confidence: 0.5,
    });
  if (isNormal && name?.normalDirection && normal.confidence >= sure && name.normalDirection !== normal.direction)
    findings.push({
      code: 'name-content-disagree',
      severity: 'question',
      message: `The name says ${DIRECTION[name.normalDirection]}, its slopes make sense only as ${DIRECTION[normal.direction]}. Which is it?`,
      confidence: normal.confidence,
    });
  return {
    role,
    roleConfidence: confidence,
    content,
    contentConfidence,
    colourSpace: measured.depth === 32 && colourSpace === 'srgb' ? 'linear' : colourSpace,
    normalDirection: direction,
    normalConfidence: isNormal ? normal.confidence : 0,
    twoChannel: isNormal && measured.twoChannel,
    packed: packed?.roles ?? null,
    findings,
  };
}

const SAYS: Record<Content, string> = {
  colour: 'a colour',
  normal: 'a normal map',
  packed: 'several maps packed into channels',
  id: 'flat ID colours',
  grey: 'a grey map',
};
const DIRECTION = { 'y+': 'Y+', 'y-': 'Y−' } as const;
/** Content below this is asked about. */
const UNSURE = 0.72;
/** Block edges above this come from lossy compression. */
const BLOCKS = 0.25;

/** What a grey map without a name and without a surface about it may be. */
function greyAlone({ ranges: [range], parts }: Measured): { role: Role | null; confidence: number } {
  let ends = 0;
  let count = 0;
  for (const { channels } of parts)
    for (const v of channels[0]) {
      if (v < 0.04 || v > 0.96) ends++;
      count++;
    }
  if (ends / count > 0.97 && range.hi - range.lo > 0.5) return { role: 'mask', confidence: 0.55 };
  return { role: null, confidence: 0.3 };
}

/** Letters of packed suffixes, in the order of the channels. */
const LETTERS: Record<string, Role> = {
  o: 'occlusion',
  a: 'occlusion',
  r: 'roughness',
  m: 'metallic',
  h: 'height',
  g: 'gloss',
  s: 'specular',
  d: 'height',
};

function packedRoles({ ranges: found }: Measured, { fileName }: FileClues): { roles: NonNullable<Recognition['packed']>; spelt: boolean } {
  const tail = /[\s_.-]([a-z]{3,4})$/i.exec((fileName ?? '').replace(/\.[^.]*$/, ''))?.[1].toLowerCase() ?? '';
  const out: NonNullable<Recognition['packed']> = {};
  // A word that happens to be made of these letters names a role twice, or more channels than there are.
  const roles = [...tail].map((c) => LETTERS[c]);
  const spelt = tail.length > 2 && roles.every(Boolean) && new Set(roles).size === roles.length && tail.length <= found.length;
  found.forEach((range, c) => {
    const key = (['r', 'g', 'b', 'a'] as const)[c];
    if (spelt && LETTERS[tail[c]]) out[key] = LETTERS[tail[c]];
    else if (range.hi - range.lo > 1 / 255) out[key] = 'mask';
  });
  return { roles: out, spelt };
}

const percent = (share: number) => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;

/** What the pixels say beside the role. */
function traces(
  clues: FileClues,
  { channels, depth, ranges: found, blocks, seam, normal, twoChannel, parts, content }: Measured,
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
    const [lost, clear] = underZero(parts);
    if (clear && lost / clear > 0.9)
      add(
        'colour-under-zero-alpha',
        'warning',
        0.9,
        `${percent(clear)} of it is clear, and black below: a dark rim shows when it is filtered. The colour can be bled outward`,
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

/** Shares of texels that are clear, and clear and black. */
function underZero(parts: readonly Planes[]): [lost: number, clear: number] {
  let [lost, clear, count] = [0, 0, 0];
  for (const {
    channels: [r, g, b, a],
  } of parts)
    for (let i = 0; i < a.length; i++, count++)
      if (a[i] <= 0) {
        clear++;
        if (Math.max(r[i], g[i], b[i]) < 2 / 255) lost++;
      }
  return [lost / count, clear / count];
}
