/** Words that a name template may hold in braces. */
export const NAME_TOKENS = ['set', 'file', 'size'] as const;
export type NameValues = Record<(typeof NAME_TOKENS)[number], string>;

/** A part of a name as file systems like it: `Terrace stone` → `terrace_stone`. */
export const nameSlug = (text: string): string =>
  text
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '') || 'unnamed';

/** What is wrong with a template, in one sentence; null when it can be used. */
export function templateProblem(template: string): string | null {
  for (const [, token] of template.matchAll(/\{([^{}]*)\}/g))
    if (!(NAME_TOKENS as readonly string[]).includes(token)) return `{${token}} is not a token; use ${NAME_TOKENS.map((t) => `{${t}}`).join(', ')}`;
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

export const fillTemplate = (template: string, values: NameValues): string =>
  template.replace(/\{(\w+)\}/g, (whole, token: string) => values[token as keyof NameValues] ?? whole);

/** Groups of names that would be one file on a system that ignores case. */
export function collisions(names: readonly string[]): string[] {
  const seen = new Map<string, number>();
  for (const name of names) seen.set(name.toLowerCase(), (seen.get(name.toLowerCase()) ?? 0) + 1);
  return [...seen].filter(([, n]) => n > 1).map(([name]) => name);
}
