import jsonPatch from 'fast-json-patch';
import type { Operation as PatchOperation } from 'fast-json-patch';

export type Patch = PatchOperation[];

/** One gesture as data: what it does, how it is taken back, and what people call it. */
export interface Edit {
  label: string;
  patch: Patch;
  inverse: Patch;
  /** It is refused where a place that it changes is no longer as it was, instead of being put on top. */
  strict?: true;
}

/** A patch that does not fit the document it was meant for. */
export class EditConflict extends Error {
  constructor(readonly path: string) {
    super(`The place ${path || '/'} has changed since, so this edit cannot be applied to it`);
    this.name = 'EditConflict';
  }
}

/**
 * The document after a patch; the given one is left alone.
 * @param strict what it adds must not be there yet: tests of a patch say what was there, and cannot say that nothing was
 * @throws EditConflict naming the place that does not fit
 */
export function applyPatch<T>(document: T, patch: Patch, strict = false): T {
  for (const op of patch) if (/(^|\/)(__proto__|constructor|prototype)(\/|$)/.test(op.path)) throw new EditConflict(op.path);
  let last = '';
  try {
    return jsonPatch.applyPatch(jsonPatch.deepClone(document), patch, (operation, index, tree, existing) => {
      last = operation.path;
      if (strict && operation.op === 'add' && isTaken(tree, operation.path)) throw new EditConflict(last);
      jsonPatch.validator(operation, index, tree, existing as string);
    }).newDocument;
  } catch (error) {
    if (error instanceof EditConflict) throw error;
    throw new EditConflict(last);
  }
}

/** Whether something is at a place; in a list adding makes room. */
const isTaken = (tree: unknown, path: string): boolean =>
  jsonPatch.getValueByPointer(tree, path) !== undefined && !Array.isArray(jsonPatch.getValueByPointer(tree, path.slice(0, path.lastIndexOf('/'))));

/** The edit that turns one state into another; its patch is empty when nothing changed. */
export const editBetween = (before: object, after: object, label: string, strict = false): Edit => ({
  label,
  patch: jsonPatch.compare(before, after, strict),
  inverse: jsonPatch.compare(after, before, strict),
  ...(strict ? { strict } : {}),
});

/**
 * An edit made by changing a draft.
 * @example makeEdit(blend, 'Lift moss', (d) => { d.layers['m'].seam.liftM = 0.004; })
 */
export function makeEdit<T extends object>(document: T, label: string, change: (draft: T) => void): Edit {
  const after = jsonPatch.deepClone(document) as T;
  change(after);
  return editBetween(document, after, label);
}
