import type { ImportRequest, UploadedFile } from '@pebble/contracts';
import type { Role } from '@pebble/core';
import { DEFAULT_FACTS, readName, titleOf } from '@pebble/core';

/** One file in the form: what was guessed of it, to be put right. */
export interface PlanRow {
  file: UploadedFile & { blob: string };
  /** Null until somebody says it; `skip` leaves the file out. */
  role: Role | 'skip' | null;
  /** Whether the name said the role. */
  guessed: boolean;
  normalDirection: 'y+' | 'y-';
  group: string;
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
  refused: UploadedFile[];
}

/** Groups uploaded files into surfaces by the stems of their names. */
export function planImport(files: readonly UploadedFile[]): ImportPlan {
  const rows: PlanRow[] = [];
  const groups = new Map<string, PlanGroup>();
  for (const file of files) {
    if (!file.blob) continue;
    const { stem, role, normalDirection } = readName(file.fileName);
    const key = stem.toLowerCase() || 'surface';
    if (!groups.has(key)) groups.set(key, { key, name: titleOf(stem || 'Surface'), sizeM: DEFAULT_FACTS.sizeM, reliefM: DEFAULT_FACTS.reliefM });
    rows.push({ file: { ...file, blob: file.blob }, role, guessed: role !== null, normalDirection: normalDirection ?? 'y+', group: key });
  }
  return { groups: [...groups.values()], rows, refused: files.filter((f) => !f.blob) };
}

/** What still has to be settled, a sentence each; empty when the import can start. */
export function planQuestions(plan: ImportPlan): string[] {
  const questions: string[] = [];
  for (const group of plan.groups) {
    const rows = plan.rows.filter((r) => r.group === group.key && r.role !== 'skip');
    for (const row of rows)
      if (!row.role) questions.push(`${row.file.fileName}: the name does not say what it holds. Choose a role, or leave it out.`);
    const roles = rows.flatMap((r) => (r.role ? [r.role] : []));
    for (const role of new Set(roles.filter((r, i) => roles.indexOf(r) !== i)))
      questions.push(`${group.name}: two files are taken for ${role}. Give one another role or another surface.`);
    if (!group.name.trim()) questions.push('A surface needs a name.');
  }
  if (!plan.rows.some((r) => r.role && r.role !== 'skip')) questions.push('There is no file to import.');
  return questions;
}

/** The request that carries a settled plan out. */
export function planRequest(plan: ImportPlan): ImportRequest {
  const surfaces = plan.groups.flatMap((group) => {
    const maps = plan.rows.flatMap((r) =>
      r.group === group.key && r.role && r.role !== 'skip'
        ? [{ blob: r.file.blob, fileName: r.file.fileName, role: r.role, normalDirection: r.normalDirection }]
        : [],
    );
    return maps.length ? [{ name: group.name.trim(), sizeM: group.sizeM, reliefM: group.reliefM, maps }] : [];
  });
  return { surfaces };
}
