import { DOCUMENT_KINDS } from '@pebble/contracts';
import type { DocumentStore } from '@pebble/usecases';
import type { Documents } from '@pebble/usecases/deliver';

/** Every document of the project by its id. */
export async function projectDocuments(documents: DocumentStore): Promise<Documents> {
  const lists = await Promise.all(DOCUMENT_KINDS.map((kind) => documents.all(kind)));
  return Object.fromEntries(lists.flat().map(({ id, body }) => [id, body]));
}
