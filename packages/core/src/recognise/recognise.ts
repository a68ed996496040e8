import type { Image } from '../image';
import type { NameReading, Role } from '../surface';
import { ROLE_FACTS, readName } from '../surface';
import type { Answer, Finding } from './finding';
import type { Measured } from './measure';
import { measure } from './measure';
import type { NormalEvidence } from './normals';
import { DIRECTION_SURE } from './normals';
import { packedRoles } from './packed';
import { BLOCKS, pixelFindings } from './pixel-findings';
import type { Content, FileClues, Recognition } from './recognition';
import { contentOfRole } from './recognition';

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

/** Whether content of a kind may be what a name says. A grey map may be stored in three channels, a colour may be grey, and
 * garish or odd colours look packed: a clear name is believed before their statistics are. */
const fits = (role: Role, content: Content): boolean => {
  const named = contentOfRole(role);
  return (
    named === content ||
    (named === 'colour' && (content === 'grey' || content === 'packed' || content === 'id')) ||
    (content === 'id' && role === 'mask') ||
    (content === 'colour' && named === 'id')
  );
};

/** What is known of a map's role before its pixels are asked: what somebody says, else what its name says. */
interface Said {
  role: Role | null;
  /** Roles that the name may mean, where there are several. */
  perhaps: readonly Role[];
}

function said(clues: FileClues, read: NameReading | null, content: Content, channels: number): Said {
  if (clues.role) return { role: clues.role, perhaps: [] };
  // What has no alpha holds what its last word says.
  if (read?.alpha && content === 'grey' && channels % 2) return { role: read.alpha, perhaps: [] };
  if (!read || read.role || read.perhaps.length < 2) return { role: read?.role ?? null, perhaps: [] };
  const fitting = read.perhaps.filter((role) => fits(role, content));
  // A letter that can be a colour and is one is that; garish colours are no reason to doubt it.
  return fitting.length === 1 ? { role: fitting[0], perhaps: [] } : { role: null, perhaps: fitting };
}

/** {@link recognise} for an image that is measured already. `grey` is what its surface says of a grey map. */
export function judge(clues: FileClues, measured: Measured, grey?: { role: Role; confidence: number }): Recognition {
  const { contentConfidence, normal } = measured;
  const read = clues.name ?? (clues.fileName ? readName(clues.fileName) : null);
  const order = clues.role || measured.content === 'grey' || measured.content === 'normal' ? null : (read?.order ?? null);
  const seen = order ? 'packed' : measured.content;
  const { role: name, perhaps } = said(clues, read, seen, measured.channels);
  const named = name !== null && fits(name, seen);
  const content = named && seen === 'packed' ? contentOfRole(name) : seen;
  const findings: Finding[] = [];
  const ask = (code: Finding['code'], message: string, answers: readonly (Answer | null)[], sure = contentConfidence) =>
    findings.push({ code, severity: 'question', message, confidence: sure, answers: [...new Set(answers)].filter((a) => a !== null) });
  const looks = content === 'packed' ? 'channels' : USUAL_ROLES[content].role;
  const usual = content === 'grey' ? (grey ?? greyAlone(measured)) : USUAL_ROLES[content];
  let role = perhaps[0] ?? usual.role;
  let confidence = perhaps.length ? 0.5 : usual.confidence * contentConfidence;
  if (named) {
    role = name;
    confidence = content === 'grey' && grey && grey.role !== name ? 0.9 : 0.99;
  } else if (name) {
    const label = ROLE_FACTS[name].label.toLowerCase();
    ask(
      'name-content-disagree',
      `${clues.role ? 'It is taken for' : 'The name says'} ${label}, the content looks like ${SAYS[content]}. Which is it?`,
      [looks, name],
    );
    // The content is what will be seen; it is only proposed.
    role = clues.role ?? usual.role ?? name;
    confidence = Math.min(0.5, confidence);
  } else if (perhaps.length)
    ask('role-unsure', `Its name may mean ${perhaps.map((r) => ROLE_FACTS[r].label.toLowerCase()).join(' or ')}. Which is it?`, perhaps, 0.5);
  else if (read?.order && !order)
    ask('name-content-disagree', `The name spells several maps in channels, the content looks like ${SAYS[content]}. Which is it?`, [
      looks,
      'channels',
    ]);
  else if (content === 'grey' && confidence < GREY_SURE)
    ask(
      'role-unsure',
      role && grey
        ? `It may be ${ROLE_FACTS[role].label.toLowerCase()}, by the maps beside it. Is it?`
        : 'One channel, and its name does not say what it holds. Choose a role',
      [role, ...GREYS],
      0.5,
    );

  const alpha = content === 'packed' || content === 'id' ? null : alphaOf(measured, content, read?.alpha ?? null);
  if (alpha && !alpha.role)
    ask('alpha', `Its alpha holds something beside the ${role ? ROLE_FACTS[role].label.toLowerCase() : 'map'}. What is it?`, alpha.answers, 0.5);
  const packed = content === 'packed' ? packedRoles(measured, order) : null;
  if (packed && !packed.sure) ask('packed', 'Its channels carry different things. Say what each of them holds', ['channels', 'baseColor']);
  else if (content !== 'grey' && contentConfidence < UNSURE && !name && !packed && !perhaps.length)
    ask('role-unsure', `It looks like ${SAYS[content]}, but not clearly. Is it?`, [looks, looks === 'normal' ? 'baseColor' : 'channels']);

  const direction = role === 'normal' && normal ? directionOf(clues, measured, normal, read) : null;
  const colourSpace = role ? ROLE_FACTS[role].colourSpace : 'data';
  findings.push(...pixelFindings(clues, measured, role), ...(direction?.questions ?? []));
  return {
    role,
    roleConfidence: confidence,
    content,
    contentConfidence,
    colourSpace: measured.depth === 32 && colourSpace === 'srgb' ? 'linear' : colourSpace,
    normalDirection: direction?.direction ?? null,
    normalConfidence: direction && normal ? normal.confidence : 0,
    twoChannel: direction !== null && measured.twoChannel,
    packed: packed?.roles ?? null,
    alpha: alpha?.role ?? null,
    findings,
  };
}

/** From which share of texels on, alpha that is nothing or all is what a picture is cut out by. */
const CUT_OUT = 0.9;
/** What alpha most often holds beside a map of a kind. */
const BESIDE: Readonly<Record<'colour' | 'normal' | 'grey', readonly Answer[]>> = {
  colour: ['opacity', 'roughness', 'gloss', 'metallic', 'height', 'specular', 'skip'],
  normal: ['height', 'metallic', 'roughness', 'opacity', 'skip'],
  grey: ['opacity', 'mask', 'gloss', 'skip'],
};

/**
 * What the alpha of a map holds: what the name says, what cuts a colour out, else to be asked (no role). Null where it is not
 * there or says nothing.
 */
function alphaOf(
  { channels, ranges, twoChannel }: Measured,
  content: 'colour' | 'normal' | 'grey',
  named: Role | null,
): { role: Role | null; answers: readonly Answer[] } | null {
  const range = channels === 4 ? ranges[3] : channels === 2 && !twoChannel ? ranges[1] : undefined;
  if (!range || range.hi - range.lo <= 1 / 255) return null;
  const cuts = content === 'colour' && range.atLo > 0 && range.atHi > 0 && range.atLo + range.atHi > CUT_OUT;
  return { role: named ?? (cuts ? 'opacity' : null), answers: BESIDE[content] };
}

/** Which way green points, and what has to be asked about it. */
function directionOf(
  clues: FileClues,
  { blocks, ranges }: Measured,
  normal: NormalEvidence,
  read: NameReading | null,
): { direction: 'y+' | 'y-' | 'unknown'; questions: Finding[] } {
  const named = read?.normalDirection ?? null;
  const limit = clues.lossy || blocks > BLOCKS ? DIRECTION_SURE.lossy : DIRECTION_SURE.exact;
  const sure = normal.confidence >= limit && !normal.exchanged;
  const question = (code: Finding['code'], message: string, confidence: number): Finding => ({
    code,
    severity: 'question',
    message,
    confidence,
    answers: ['y+', 'y-'],
  });
  // Without a slope up or down both ways are one.
  if (ranges[1].hi - ranges[1].lo <= 2 / 255 && Math.abs(ranges[1].mean - 0.5) < 2 / 255) return { direction: named ?? 'y+', questions: [] };
  if (normal.exchanged && !(normal.confidence >= limit && named === normal.direction))
    return {
      direction: named ?? 'unknown',
      questions: [
        question(
          'normal-direction-unknown',
          'Its slopes do not fit a surface: red and green may be exchanged, or it was turned by 90°. Look at it, and choose Y+ or Y−',
          0.5,
        ),
      ],
    };
  if (!sure && !named)
    return {
      direction: 'unknown',
      questions: [question('normal-direction-unknown', 'Its slopes do not tell which way green points. Choose Y+ or Y−', 0.5)],
    };
  const questions =
    sure && named && named !== normal.direction
      ? [
          question(
            'name-content-disagree',
            `The name says ${DIRECTION[named]}, its slopes make sense only as ${DIRECTION[normal.direction]}. Which is it?`,
            normal.confidence,
          ),
        ]
      : [];
  return { direction: sure || !named ? normal.direction : named, questions };
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
/** A grey map whose role its surface tells with less is asked about. */
const GREY_SURE = 0.75;
/** What a grey map without a name most often is. */
const GREYS: readonly Role[] = ['roughness', 'height', 'occlusion', 'metallic'];

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
