import type { ColourSpace, Finding, LookedAt, Role, SentFile, SurfaceOrigin } from '@pebble/core';
import { DEFAULT_FACTS, OUTPUT_CHANNELS, cellsOf, ROLE_FACTS, surfaceStems, titleOf } from '@pebble/core';
import type { IncomingMap, IncomingSurface } from './surfaces';

/** What a file is taken for: one role, several by channel, or nothing. */
export type Holds = Role | 'channels' | 'skip';
type ChannelRoles = Partial<Record<'r' | 'g' | 'b' | 'a', Role | 'skip'>>;

/** One file in the form: what was recognised of it, to be confirmed or put right. */
export interface PlanRow {
  file: SentFile & { blob: string };
  /** Null until somebody says it. */
  holds: Holds | null;
  /** 0–1, how sure the proposal is. */
  confidence: number;
  /** What each channel holds, when several do. */
  channels: ChannelRoles;
  /** What alpha holds beside what the file holds; null until somebody says it. */
  alpha: Role | 'skip' | null;
  /** `unknown` waits to be said. */
  normalDirection: 'y+' | 'y-' | 'unknown';
  colourSpace: ColourSpace;
  group: string;
  findings: readonly Finding[];
  /** What it was recognised as: only then the findings hold. */
  recognised: Role | null;
  /** Where it says something, as cells; null where that is everywhere. */
  ink: string | null;
  /** Questions about it are answered: somebody chose, or said that the proposal is right. */
  settled: boolean;
}
export interface PlanGroup {
  key: string;
  name: string;
  sizeM: number;
  reliefM: number;
}
export interface ImportPlan {
  groups: PlanGroup[];
  rows: PlanRow[];
  /** Files that cannot be read, with the reason. */
  refused: { problem: string | null }[];
  origin: SurfaceOrigin;
}

const asks = (findings: readonly Finding[], alpha: boolean): boolean =>
  findings.some((f) => f.severity === 'question' && (f.code === 'alpha') === alpha);

/** Puts uploaded files, as they were looked at, into surfaces and roles. Files are found again by their bytes and names. */
export function planImport(files: readonly SentFile[], looked: readonly LookedAt[]): ImportPlan {
  const rows: PlanRow[] = [];
  const groups = new Map<string, PlanGroup>();
  const refused: ImportPlan['refused'] = files.filter((f) => !f.blob);
  for (const file of files) {
    const seen = looked.find((l) => l.blob === file.blob && l.fileName === file.fileName);
    if (!file.blob || !seen) continue;
    if (seen.problem) {
      refused.push(seen);
      continue;
    }
    const key = seen.stem.toLowerCase() || 'surface';
    if (!groups.has(key)) groups.set(key, { key, name: titleOf(seen.stem || 'Surface'), sizeM: DEFAULT_FACTS.sizeM, reliefM: DEFAULT_FACTS.reliefM });
    rows.push({
      file: { ...file, blob: file.blob },
      holds: seen.packed ? 'channels' : seen.role,
      confidence: seen.packed ? seen.contentConfidence : seen.roleConfidence,
      channels: seen.packed ?? {},
      alpha: seen.alpha ?? (asks(seen.findings, true) ? null : 'skip'),
      normalDirection: seen.normalDirection ?? 'y+',
      colourSpace: seen.colourSpace,
      group: key,
      findings: seen.findings,
      recognised: seen.role,
      ink: seen.ink,
      settled: !asks(seen.findings, false),
    });
  }
  return { groups: [...groups.values()], rows, refused, origin: { author: '', source: '', licence: '' } };
}

/** Channels of a file that can hold a role of their own. */
export const channelsOf = ({ file }: PlanRow): ('r' | 'g' | 'b' | 'a')[] =>
  file.channels < 3 ? (file.channels === 2 ? ['r', 'a'] : ['r']) : [...OUTPUT_CHANNELS.slice(0, file.channels)];

const channelStep = (index: number): IncomingMap['steps'] => ({ channel: { order: 1, kind: 'channel', on: true, values: { index } } });

/** Whether a file has an alpha that may hold something beside what it holds. */
export const hasAlpha = ({ file, holds }: Pick<PlanRow, 'file' | 'holds'>): boolean =>
  holds !== null && holds !== 'channels' && holds !== 'skip' && (file.channels === 4 || file.channels === 2);
const alphaOf = (row: PlanRow): Role | null => (hasAlpha(row) && row.alpha && row.alpha !== 'skip' ? row.alpha : null);

/** Maps that a row becomes. */
function mapsOf(row: PlanRow): IncomingMap[] {
  const { file, holds, normalDirection, colourSpace } = row;
  const base = { blob: file.blob, fileName: file.fileName, normalDirection: normalDirection === 'y-' ? ('y-' as const) : ('y+' as const) };
  if (holds === 'channels')
    return channelsOf(row).flatMap((name, index) => {
      const role = row.channels[name];
      return role && role !== 'skip' ? [{ ...base, role, steps: channelStep(index) }] : [];
    });
  if (!holds || holds === 'skip') return [];
  // Questions are answered by now.
  const findings = row.findings.filter((f) => f.severity !== 'question');
  const beside = alphaOf(row);
  return [
    { ...base, role: holds, ...(ROLE_FACTS[holds].colourSpace === 'srgb' ? { colourSpace } : {}), ...(holds === row.recognised ? { findings } : {}) },
    ...(beside ? [{ ...base, role: beside, steps: channelStep(file.channels - 1) }] : []),
  ];
}

/** What still has to be settled, a sentence each; empty when the import can start. */
export function planQuestions(plan: ImportPlan): string[] {
  const questions: string[] = [];
  for (const group of plan.groups) {
    const rows = plan.rows.filter((r) => r.group === group.key && r.holds !== 'skip');
    for (const row of rows) {
      const name = row.file.fileName;
      if (!row.holds) questions.push(`${name}: neither name nor content says what it holds. Choose a role, or leave it out.`);
      else if (row.holds === 'normal' && row.normalDirection === 'unknown') questions.push(`${name}: say which way its green points.`);
      else if (row.holds === 'channels' && !mapsOf(row).length) questions.push(`${name}: say what its channels hold, or leave it out.`);
      else if (hasAlpha(row) && row.alpha === null) questions.push(`${name}: say what its alpha holds, or leave it out.`);
      else if (!row.settled) questions.push(`${name}: answer the question below it.`);
    }
    const roles = rows.flatMap((r) => mapsOf(r).map((m) => m.role));
    for (const role of new Set(roles.filter((r, i) => roles.indexOf(r) !== i)))
      questions.push(`${group.name}: two files are taken for ${ROLE_FACTS[role].label.toLowerCase()}. Give one another role or another surface.`);
    if (!group.name.trim()) questions.push('A surface needs a name.');
  }
  if (!plan.rows.some((r) => mapsOf(r).length)) questions.push('There is no file to import.');
  return questions;
}

/**
 * Settles a plan where nobody can be asked: files with an open question are left out, or what is proposed is taken. What alpha
 * might hold is left out where nothing says it.
 * @returns files that are left out, and what would have to be said of them
 */
export function settleUnasked(plan: ImportPlan, takeProposals: boolean): { fileName: string; why: string }[] {
  return plan.rows.flatMap((row) => {
    const unsure = !row.settled || row.normalDirection === 'unknown';
    row.alpha ??= 'skip';
    if (row.holds && (!unsure || takeProposals)) {
      row.settled = true;
      if (row.normalDirection === 'unknown') row.normalDirection = 'y+';
      return [];
    }
    row.holds = 'skip';
    const asked = row.findings.find((f) => f.severity === 'question')?.message ?? 'neither name nor content says what it holds';
    return [{ fileName: row.file.fileName, why: asked }];
  });
}

/**
 * Surfaces that one job imports, and files that one looks at, at most: several jobs share the cores, and what is done is there
 * while others go on. Few things are shared out to so many jobs as well.
 */
const SURFACES_A_JOB = 4;
const FILES_A_JOB = 25;
const JOBS = 4;
const shared = (count: number, most: number): number => Math.max(1, Math.min(most, Math.ceil(count / JOBS)));

/** Files in requests to look at them; those that begin alike stay together, as they speak for one another. */
export function lookRequests<T extends { fileName: string }>(files: readonly T[]): { files: T[] }[] {
  const stems = surfaceStems(files.map((f) => f.fileName)).map((s) => s.toLowerCase());
  const out: { files: T[] }[] = [];
  const most = shared(files.length, FILES_A_JOB);
  for (const stem of new Set(stems)) {
    const group = files.filter((_, i) => stems[i] === stem);
    const last = out.at(-1);
    if (last && last.files.length + group.length <= most) last.files.push(...group);
    else out.push({ files: group });
  }
  return out;
}

/** Where a surface of a plan says something on its texture: its base colour, else the first of its files that shows it. */
export function inkOf(plan: ImportPlan, key: string): Uint8Array | null {
  const rows = plan.rows.filter((r) => r.group === key && r.ink !== null && r.holds !== 'skip');
  const [shows] = [...rows].sort((a, b) => Number(b.holds === 'baseColor') - Number(a.holds === 'baseColor'));
  return shows?.ink ? cellsOf(shows.ink) : null;
}

/** Surfaces that a plan makes, in the order in which its requests make them. */
export const plannedGroups = (plan: ImportPlan): PlanGroup[] =>
  plan.groups.filter((group) => plan.rows.some((r) => r.group === group.key && mapsOf(r).length));

/** The requests that carry a settled plan out. */
export function planRequests(plan: ImportPlan): { surfaces: IncomingSurface[] }[] {
  const origin = Object.values(plan.origin).some(Boolean) ? { origin: plan.origin } : {};
  const surfaces = plannedGroups(plan).map(({ key, name, sizeM, reliefM }) => {
    const maps = plan.rows.flatMap((r) => (r.group === key ? mapsOf(r) : []));
    return { name: name.trim(), sizeM, reliefM, maps, ...origin };
  });
  const most = shared(surfaces.length, SURFACES_A_JOB);
  return Array.from({ length: Math.ceil(surfaces.length / most) }, (_, i) => ({ surfaces: surfaces.slice(i * most, (i + 1) * most) }));
}
