import type { Role } from '../roles';
import type { ChannelOrder } from './spellings';
import { LETTERS, WEAK, gluedRole, orderOfLetters, orderOfWords, roleOfWord } from './spellings';

export interface NameReading {
  /** The part of the name that the maps of one surface share. */
  stem: string;
  /** The stem with sizes, versions and copies, which tell two files for one role apart. */
  full: string;
  /** Null when the name says nothing, or not clearly. */
  role: Role | null;
  /** What a single letter may stand for, the usual first; the content decides. */
  perhaps: readonly Role[];
  /** Roles that it spells for the channels of a packed map. */
  order: ChannelOrder | null;
  /** What it says that alpha holds beside the role. */
  alpha: Role | null;
  /** Set when the name says which way green points. */
  normalDirection: 'y+' | 'y-' | null;
}

/** Sizes, depths, kinds of file, tiles and copies, wherever they stand. */
const NOISE =
  /^(\d{1,2}k|64|128|256|512|1024|2048|4096|8192|16384|\d{3,5}(x\d{3,5}|px)|(8|16|32)bits?|bits?|lod\d|1[01]\d\d|u\d+|copy\d*|png|jpe?g|tiff?|tga|exr|webp|hdr|bmp|psd|ktx2?|pbr|udim)$/i;
/** Versions and the like: only behind everything else, as they are words of materials too. */
const TRAILING =
  /^(v(er|ersion)?\d+|rev\d+|raw|final|copy|new|fixed|export(ed)?|baked?|lin(ear)?|srgb|data|tex(ture)?s?|maps?|img|image|seamless|tileable|hi(gh)?res|lo(w)?res|hd|uhd)$/i;
const SIZE = /^(\d{1,2}k|\d{3,5}|\d{3,5}x\d{3,5})$/i;
/** Words behind a size that say how a set was made, not what the file holds. */
const WORKFLOW = /^(metalness|metallic|metal|specular|spec|gloss|glossiness|roughness|rough|pbr)$/i;

/** Words of a file's name: parted at separators, brackets and changes of case. */
function wordsOf(file: string): string[] {
  return file
    .replace(/^.*[\\/]/, '')
    .replace(/\.[^.]*$/, '')
    .replace(/[([{]\s*(\d+)\s*[)\]}]/g, ' copy$1 ')
    .replace(/([\s_.([-])y\+/gi, '$1yplus')
    .replace(/([\s_.([-])y[-−](?=$|[\s_.)\]])/gi, '$1yminus')
    .replace(/([a-z])([A-Z])/g, '$1_$2')
    .replace(/(\d)(?![KD](?![a-z]))([A-Z])/g, '$1_$2')
    .replace(/([A-Z])([A-Z][a-z]{2,})/g, '$1_$2')
    .split(/[\s_\-.()[\]{},+&~@#]+/)
    .filter(Boolean);
}

const directionOf = (word: string): 'y+' | 'y-' | null =>
  /^(o?gl|opengl|yplus|ypos)$/i.test(word) ? 'y+' : /^(dx|directx|yminus|yneg)$/i.test(word) ? 'y-' : null;

/** Where a role was found among words: how many it takes, and from which on. */
interface Found {
  at: number;
  count: number;
  role: Role | null;
  perhaps: readonly Role[];
  order: ChannelOrder | null;
  /** What stands behind the role for alpha, where the file has one. */
  alpha?: Role;
  /** What is left of a word that the role was written together with. */
  left?: string;
}
const only = (at: number, count: number, role: Role): Found => ({ at, count, role, perhaps: [], order: null });

const GREY_ORDER = new Set<Role>(['baseColor', 'normal', 'id', 'position']);
const strong = (word: string): boolean => word.length > 1 && !WEAK.has(word.toLowerCase());

/** Roles spelt out one after the other at the end: the channels of a packed map. */
function orderAtEnd(words: readonly string[]): Found | null {
  const run: (readonly Role[])[] = [];
  let at = words.length;
  while (at > 0 && run.length < 4) {
    const two = at > 1 ? roleOfWord(words[at - 2] + words[at - 1]) : null;
    const role = two ?? roleOfWord(words[at - 1]);
    if (!role || GREY_ORDER.has(role) || run.some(([r]) => r === role)) break;
    run.unshift([role]);
    at -= two ? 2 : 1;
  }
  if (run.length < 2) return null;
  // `wall_metal_rough`: a word of the material before its role, unless there are three and more.
  if (run.length === 2 && !strong(words[at])) return null;
  return { at, count: words.length - at, role: null, perhaps: [], order: run };
}

/** A colour or a normal with a grey map behind it, as for alpha: `basecolor_roughness`. */
function withAlpha(words: readonly string[]): Found | null {
  const n = words.length;
  const alpha = n > 1 ? roleOfWord(words[n - 1]) : null;
  if (!alpha || GREY_ORDER.has(alpha) || words[n - 1].length < 2) return null;
  for (const span of [2, 1]) {
    const at = n - 1 - span;
    const word = words.slice(Math.max(0, at), n - 1).join('');
    const role = at < 0 ? null : roleOfWord(word);
    // `wall_color_rough` may be the roughness of a wall's colour; what covers is hardly anything but alpha.
    if ((role === 'baseColor' || role === 'normal' || role === 'emissive') && (strong(word) || alpha === 'opacity'))
      return { ...only(at, span + 1, role), alpha };
  }
  return null;
}

/** What the last words say. */
function atEnd(words: readonly string[]): Found | null {
  const n = words.length;
  if (!n) return null;
  const last = words[n - 1].toLowerCase();
  let letters = 0;
  while (letters < n && letters < 4 && /^[a-z]$/i.test(words[n - 1 - letters])) letters++;
  if (letters > 1 && n > letters) {
    const order = orderOfLetters(
      words
        .slice(n - letters)
        .join('')
        .toLowerCase(),
    );
    if (order) return { at: n - letters, count: letters, role: null, perhaps: [], order };
  }
  const run = withAlpha(words) ?? orderAtEnd(words);
  if (run) return run;
  for (const span of [3, 2, 1]) {
    if (n < span) continue;
    const tail = words.slice(-span).join('');
    const role = tail.length > 1 && (n > span || tail.length > 2) ? roleOfWord(tail) : null;
    if (role && (span === 1 || tail.length > 3)) return only(n - span, span, role);
  }
  if (last.length >= 2 && last.length <= 6) {
    const order = orderOfLetters(last);
    const large = words[n - 1] === words[n - 1].toUpperCase();
    // Two letters, and letters alone, are words of many kinds: they count when they are written large.
    if (order && (large ? n > 1 || last.length > 2 : n > 1 && last.length > 2)) return { at: n - 1, count: 1, role: null, perhaps: [], order };
  }
  const together = last.length > 5 ? orderOfWords(last.replace(/(map|tex|texture)$/, '')) : null;
  if (together) return { at: n - 1, count: 1, role: null, perhaps: [], order: together };
  return null;
}

/** What a single letter at the end says. */
function letterAtEnd(words: readonly string[]): Found | null {
  const letter = words.length > 1 ? words[words.length - 1].toLowerCase() : '';
  return Object.hasOwn(LETTERS, letter) ? letterFor(words.length - 1, letter) : null;
}

/** What the first words may say: a role, or a letter for one. */
function atStart(words: readonly string[]): Found[] {
  const letter = words[0]?.toLowerCase() ?? '';
  if (words.length > 1 && Object.hasOwn(LETTERS, letter)) return [letterFor(0, letter)];
  return [2, 1].flatMap((span) => {
    const role = words.length > span ? roleOfWord(words.slice(0, span).join('')) : null;
    return role ? [only(0, span, role)] : [];
  });
}

const letterFor = (at: number, letter: string): Found => {
  const perhaps = LETTERS[letter];
  return { at, count: 1, role: perhaps.length === 1 ? perhaps[0] : null, perhaps, order: null };
};

/** A role that stands before the name or within it, by a word that is seldom anything else. */
function elsewhere(words: readonly string[]): Found | null {
  const places = [0, ...Array.from({ length: Math.max(0, words.length - 1) }, (_, i) => words.length - 1 - i)];
  for (const at of places)
    for (const span of [2, 1]) {
      if (at + span > words.length || words.length <= span) continue;
      const word = words.slice(at, at + span).join('');
      const role = roleOfWord(word);
      if (role && strong(word) && (word.length > 3 || at === 0)) return only(at, span, role);
    }
  const order = words.findIndex(
    (w, i) => i < words.length - 1 && w.length > 2 && w.length < 6 && w === w.toUpperCase() && orderOfLetters(w.toLowerCase()),
  );
  if (order >= 0) return { at: order, count: 1, role: null, perhaps: [], order: orderOfLetters(words[order].toLowerCase()) };
  const glued = words.length ? gluedRole(words[words.length - 1]) : null;
  return glued ? { ...only(words.length - 1, 1, glued.role), left: glued.before } : null;
}

interface Words {
  base: string;
  /** Without sizes, versions and directions. */
  kept: string[];
  /** Sizes, versions and copies. */
  noise: string[];
  normalDirection: 'y+' | 'y-' | null;
}

/** What follows a size that follows a role, as in `_ROUGHNESS_4K_METALNESS`: how the set was made. */
function workflowOf(words: readonly string[]): string | null {
  const n = words.length;
  return n > 3 && WORKFLOW.test(words[n - 1]) && SIZE.test(words[n - 2]) && roleOfWord(words[n - 3]) ? words[n - 1] : null;
}

/** `workflows` are what files that come together have in common so; alone `rusty_metal_4K_metallic` is a map. */
function sorted(file: string, workflows: readonly (string | null)[]): Words {
  let words = wordsOf(file);
  const base = words.join('_');
  const workflow = workflowOf(words);
  if (workflow && (strong(words[words.length - 3]) || workflows.filter((w) => w === workflow).length > 1)) words = words.slice(0, -1);
  const normalDirection = words.map(directionOf).find(Boolean) ?? null;
  words = words
    .filter((w) => !directionOf(w))
    .flatMap((w) => (/^[a-z]{3,}(gl|dx)$/i.test(w) && roleOfWord(w.slice(0, -2)) === 'normal' ? [w.slice(0, -2)] : [w]));
  const noise: string[] = [];
  const kept = words.filter((w, i) => {
    const bits = /^(8|16|32)$/.test(w) && /^bits?$/i.test(words[i + 1] ?? '');
    if (!NOISE.test(w) && !bits) return true;
    noise.push(w);
    return false;
  });
  while (kept.length > 1 && TRAILING.test(kept[kept.length - 1])) noise.unshift(kept.pop() as string);
  return { base, kept, noise, normalDirection };
}

/** Directions that are written together with their word: `NormalGL`, `nrmDX` part at the change of case, `normalgl` here. */
const gluedDirection = (file: string): 'y+' | 'y-' | null => {
  const end = wordsOf(file)
    .map((w) => /^([a-z]{3,})(gl|dx)$/i.exec(w))
    .find((m) => m && roleOfWord(m[1]) === 'normal');
  return end ? directionOf(end[2]) : null;
};

function reading(file: string, { base, kept, noise, normalDirection }: Words, found: Found | null): NameReading {
  const rest = found ? [...kept.slice(0, found.at), ...(found.left ? [found.left] : []), ...kept.slice(found.at + found.count)] : kept;
  const stem = rest.join('_') || (found ? '' : base);
  const letter = found?.perhaps.length && found.perhaps.length > 1 ? [kept[found.at]] : [];
  const number = found && found.count === 1 && !found.order ? (/\d{1,2}$/.exec(kept[found.at])?.[0] ?? '') : '';
  return {
    stem,
    full: [...rest, ...letter, ...(number ? [number] : []), ...noise].join('_').toLowerCase(),
    role: found?.role ?? null,
    perhaps: found?.perhaps ?? [],
    order: found?.order ?? null,
    alpha: found?.alpha ?? null,
    normalDirection: normalDirection ?? gluedDirection(file),
  };
}

/**
 * Reads stem, role and normal direction from a file name: words are parted at separators and changes of case; sizes,
 * versions, tiles and copies are no part of the stem; the role is the last word, else a word that is hardly anything else,
 * before the name or within it. Channels of packed maps are spelt out or by letters.
 * @example readName('old_wall_4k_nrm.png') // stem 'old_wall', role 'normal'
 */
export const readName = (file: string): NameReading => readNames([file])[0];

/** The same for files that come together: where all end alike and begin with roles, it is the beginning that says them. */
export function readNames(files: readonly string[]): NameReading[] {
  const workflows = files.map((file) => workflowOf(wordsOf(file)));
  const words = files.map((file) => sorted(file, workflows));
  const found = words.map(({ kept }) => atEnd(kept) ?? elsewhere(kept) ?? letterAtEnd(kept));
  // `normal_metal`, `rough_metal`: what files share is the name, and what they differ in is the role.
  const byRest = new Map<string, { i: number; head: Found }[]>();
  words.forEach(({ kept }, i) => {
    const end = found[i];
    // A clear word at the end is the role, whatever the name begins with.
    if (end && !end.perhaps.length && end.at > 0 && kept.slice(end.at, end.at + end.count).some(strong)) return;
    for (const head of atStart(kept)) {
      const key = keyOf(kept.slice(head.count).join(''));
      byRest.set(key, [...(byRest.get(key) ?? []), { i, head }]);
    }
  });
  const groups = [...byRest.values()].filter(
    (g) => new Set(g.map(({ i, head }) => words[i].kept.slice(0, head.count).join('').toLowerCase())).size > 1,
  );
  for (const group of groups.sort((a, b) => a.length - b.length)) for (const { i, head } of group) found[i] = head;
  return files.map((file, i) => reading(file, words[i], found[i]));
}

/** What stems have in common that differ by letter case and separators alone. */
const keyOf = (stem: string): string => stem.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '');

/**
 * The stem of the surface that each of some files belongs to, spelt as in the first of them: its own, or, for a file whose
 * name says no role, the longest stem of the others that its name begins with. Where two files of a stem claim one role,
 * sizes, versions and copies tell surfaces apart.
 * @example surfaceStems(['wall_nrm.png', 'Wall-scan b.png']) // ['wall', 'wall']
 */
export function surfaceStems(files: readonly string[]): string[] {
  const read = readNames(files);
  const known = new Map(
    read.flatMap(({ role, perhaps, stem }) => ((role || perhaps.length) && stem ? [[keyOf(stem), stem] as const] : [])).reverse(),
  );
  const longest = [...known.keys()].sort((a, b) => b.length - a.length);
  const stems = read.map(({ role, order, perhaps, stem }) => {
    if (role || perhaps.length || known.has(keyOf(stem))) return stem;
    const parts = stem.split('_');
    const begin = longest.find((k) => parts.some((_, n) => keyOf(parts.slice(0, parts.length - n).join('')) === k));
    return begin === undefined ? stem : order || begin ? (known.get(begin) as string) : stem;
  });
  const groups = new Map<string, number[]>();
  stems.forEach((stem, i) => groups.set(keyOf(stem), [...(groups.get(keyOf(stem)) ?? []), i]));
  const out = stems.slice();
  for (const group of groups.values()) {
    const apart = new Set(group.map((i) => read[i].full)).size > 1 && !claimable(group.map((i) => read[i]));
    const names = new Map<string, string>();
    for (const i of group) {
      const key = apart ? keyOf(read[i].full) : '';
      if (!names.has(key)) names.set(key, apart ? spelt(stems[i], read[i].full) : stems[i]);
      out[i] = names.get(key) as string;
    }
  }
  return out;
}

/** Whether each of some files can have a role of its own. Files `a`, `b`, `c` without one that is clear are a row of things. */
function claimable(files: readonly NameReading[]): boolean {
  const open = files.filter((f) => f.perhaps.length > 1);
  const clear = files.flatMap((f) => (f.order ? [f.order.join()] : f.role ? [f.role] : []));
  if (new Set(clear).size < clear.length) return false;
  if (!clear.length && ['a', 'b'].every((letter) => open.some((f) => f.perhaps === LETTERS[letter]))) return false;
  const taken = new Set<string>(clear);
  return open.every((f) => {
    const role = f.perhaps.find((r) => !taken.has(r));
    if (role) taken.add(role);
    return role !== undefined;
  });
}

/** A stem with what its full name has beyond it. */
const spelt = (stem: string, full: string): string => {
  const more = full.slice(stem.length).replace(/^_/, '');
  return more ? `${stem}_${more}` : stem;
};

/** The number of a tile in a name, the last of several; null where there is none. */
export function tileOf(name: string): number | null {
  const found = wordsOf(name).findLast((w) => /^1[01]\d\d$/.test(w) && w !== '1000');
  return found === undefined ? null : Number(found);
}

/**
 * Numbers of tiles in the names of files that come together, `wall.1001.png` beside `wall.1002.png`: two or more with one in the
 * first row, as a number alone may be a size.
 */
export function tilesAmong(files: readonly string[]): Set<number> {
  const numbers = files.flatMap((file) =>
    wordsOf(file)
      .filter((w) => /^1[01]\d\d$/.test(w) && w !== '1000')
      .map(Number),
  );
  const tiles = new Set(numbers);
  return tiles.size > 1 && Math.min(...tiles) <= 1010 ? tiles : new Set();
}

/** A stem as people would write it: `old_wall` → `Old wall`. */
export function titleOf(stem: string): string {
  const text = stem
    .replace(/[_\s]+/g, ' ')
    .trim()
    .toLowerCase();
  return text ? text[0].toUpperCase() + text.slice(1) : 'Surface';
}
