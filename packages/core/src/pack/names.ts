import type { NameCase, RecipeFile } from '../document';
import { OUTPUT_CHANNELS, VERSION_PATTERN } from '../document';
import type { Role } from '../surface';
import { ROLES } from '../surface';

/** Words that a name template may hold in braces, and what stands for them. */
export const NAME_TOKENS = {
  project: 'the project',
  set: 'the surface or blend, with its place where there are several',
  asset: 'the asset that wears it, or the mesh that it lies on; nothing where there is none or several',
  slot: 'the slot of that mesh',
  tile: 'the number of the tile of its texture, such as 1001; nothing where it has none',
  file: 'what the file is called in the grid',
  map: 'the map that it holds, letters where it holds several',
  code: 'letters of what its channels hold, such as ORM',
  size: 'the size of the recipe',
  width: 'pixels across',
  height: 'pixels down',
  target: 'the target of the project',
  version: 'what the recipe says, such as v1',
} as const;
export type NameToken = keyof typeof NAME_TOKENS;
export type NameValues = Partial<Record<NameToken, string>>;

/** A part of a name as file systems like it: `Terrace stone` → `terrace_stone`, or as another rule of case has it. */
export function nameSlug(text: string, rule: NameCase = 'snake'): string {
  const words = text
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean);
  if (!words.length) return nameSlug('unnamed', rule);
  const large = words.map((w) => w[0].toUpperCase() + w.slice(1));
  return { snake: words.join('_'), kebab: words.join('-'), pascal: large.join(''), upper: words.join('_').toUpperCase() }[rule];
}

/** Short codes of roles in names. */
export const ROLE_CODES: Readonly<Record<Role, string>> = {
  baseColor: 'BC',
  normal: 'N',
  roughness: 'R',
  gloss: 'G',
  metallic: 'M',
  specular: 'S',
  occlusion: 'O',
  emissive: 'E',
  height: 'H',
  opacity: 'A',
  transmission: 'T',
  subsurface: 'SS',
  clearcoat: 'CC',
  cavity: 'C',
  curvature: 'CV',
  thickness: 'TH',
  position: 'P',
  id: 'ID',
  mask: 'K',
};

/**
 * What the channels of a file hold, in letters: a role that fills several channels in a row stands once, constants do not.
 * @example layoutCode(parseChannelLayout('r=occlusion,g=roughness,b=metallic')) // 'ORM'
 */
export const layoutCode = (channels: RecipeFile['channels'], codes: Partial<Record<Role, string>> = {}): string =>
  OUTPUT_CHANNELS.flatMap((c) => {
    const route = channels[c];
    return route?.from === 'map' ? [route.role] : [];
  })
    .filter((role, i, all) => role !== all[i - 1])
    .map((role) => codes[role] ?? ROLE_CODES[role])
    .join('');

/** Own codes as they are typed: `roughness=RGH, normal=NRM`. */
export const codesText = (codes: Partial<Record<Role, string>> = {}): string =>
  Object.entries(codes)
    .map(([role, code]) => `${role}=${code}`)
    .join(', ');

/** Reads what `codesText` writes. @throws RangeError that says which part is wrong and what would be right */
export function parseCodes(text: string): Partial<Record<Role, string>> {
  const codes: Partial<Record<Role, string>> = {};
  for (const part of text.split(',').map((p) => p.trim())) {
    if (!part) continue;
    const [, role, code] = /^([A-Za-z]+)\s*=\s*(.*)$/.exec(part) ?? [];
    const known = ROLES.find((r) => r.toLowerCase() === role?.toLowerCase());
    if (!known) throw new RangeError(`"${part}" names no map: write it as roughness=RGH`);
    if (!/^[A-Za-z0-9]{1,8}$/.test(code)) throw new RangeError(`"${part}": a code has one to eight letters or digits`);
    codes[known] = code;
  }
  return codes;
}

/** What is wrong with a template, in one sentence; null when it can be used. */
export function templateProblem(template: string): string | null {
  for (const [, token] of template.matchAll(/\{([^{}]*)\}/g))
    if (!Object.hasOwn(NAME_TOKENS, token))
      return `{${token}} is not a token; use ${Object.keys(NAME_TOKENS)
        .map((t) => `{${t}}`)
        .join(', ')}`;
  if (/[{}]/.test(template.replace(/\{[^{}]*\}/g, ''))) return 'A brace is open without its partner';
  return nameProblem(template.replace(/\{[^{}]*\}/g, 'x'));
}

const DEVICES = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i;

/** What makes a file name unsafe on some system, in one sentence; null when it is safe. */
export function nameProblem(name: string): string | null {
  if (!name) return 'A file needs a name';
  if (/[\\/]/.test(name)) return `"${name}" holds a slash; files go side by side into the zip`;
  const unseen = /[\p{Cc}\p{Cf}\p{Cs}\p{Co}\p{Cn}\p{Zl}\p{Zp}\u00ad\u115f\u1160\u3164\uffa0]/u.exec(name)?.[0];
  if (unseen !== undefined)
    return `"${name.replaceAll(unseen, '▯')}" holds a character that is not seen (U+${unseen.codePointAt(0)?.toString(16).toUpperCase().padStart(4, '0')}, shown as ▯) and may make it look like another name`;
  if (/^[-~]/.test(name)) return `"${name}" begins with "${name[0]}", which commands take for something else`;
  if (/^\s|\s$/u.test(name)) return `"${name}" begins or ends with a space`;
  if (/[<>:"|?*\u0000-\u001f]/.test(name)) return `"${name}" holds a character that some systems refuse: < > : " | ? *`;
  if (/^\.|[. ]$/.test(name)) return `"${name}" begins with a dot or ends with a dot or space`;
  if (DEVICES.test(name)) return `"${name}" is a reserved device name on some systems`;
  if (encodeURIComponent(name).replace(/%../g, 'x').length > 200) return `"${name.slice(0, 40)}…" is longer than 200 bytes`;
  return null;
}

/** A template with its tokens filled; one that stands for nothing takes the separator behind it along, else the one before it. */
export function fillTemplate(template: string, values: NameValues): string {
  const [start, ...parts] = template.split(/\{(\w+)\}/);
  let out = start;
  for (let i = 0; i < parts.length; i += 2) {
    const value = values[parts[i] as NameToken] ?? `{${parts[i]}}`;
    const behind = parts[i + 1];
    if (value) out += value + behind;
    else if (SEPARATOR.test(behind)) out += behind.slice(1);
    else out = out.replace(/[_. -]$/, '') + behind;
  }
  return out;
}
const SEPARATOR = /^[_. -]/;

/** What is wrong with what {version} stands for, in one sentence; null when it can be used. */
export const versionProblem = (version: string): string | null =>
  new RegExp(VERSION_PATTERN).test(version)
    ? null
    : `"${version}" is no version: begin with a letter or digit, then letters, digits, dots and dashes, 24 at most`;

/** Groups of names that would be one file on a system that ignores case. */
export function collisions(names: readonly string[]): string[] {
  const seen = new Map<string, number>();
  for (const name of names) seen.set(name.toLowerCase(), (seen.get(name.toLowerCase()) ?? 0) + 1);
  return [...seen].filter(([, n]) => n > 1).map(([name]) => name);
}
