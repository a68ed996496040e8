import type { MasterDocument } from '@pebble/core';
import { allDocuments } from './harness';

/** A master as the server has it, by its name. */
export async function storedMaster(url: string, name: string): Promise<MasterDocument> {
  const all = await allDocuments(url);
  return all.find((d) => d.kind === 'master' && d.body.name === name)?.body as MasterDocument;
}
