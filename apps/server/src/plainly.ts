import path from 'node:path';

/** What the system's errors say to people, by code; `at` is where it happened. */
const SENTENCES: Readonly<Record<string, (at: string) => string>> = {
  EACCES: (at) => `${at} cannot be written to. Make it writable, or start with another --data folder.`,
  EPERM: (at) => `${at} cannot be written to. Make it writable, or start with another --data folder.`,
  EROFS: (at) => `${at} is on a file system that is read-only. Start with another --data folder.`,
  ENOSPC: (at) => `The disk that holds ${at} is full. Make some room, and start again: nothing that was acknowledged is lost.`,
  EDQUOT: (at) => `There is no room left for you on the disk that holds ${at}. Make some, and start again: nothing that was acknowledged is lost.`,
  EADDRNOTAVAIL: () => 'This machine does not have the address that --host names. Start with one that it has.',
  EADDRINUSE: () => 'The port is taken by another program. Stop it, or start with --port and another number.',
  ENOTDIR: (at) => `${at} lies below something that is a file, not a folder. Start with another --data folder.`,
};
const UNREACHED = new Set(['ECONNREFUSED', 'ETIMEDOUT', 'EHOSTUNREACH', 'ENETUNREACH', 'ENOTFOUND', 'EAI_AGAIN', '57P03']);

/** Why it does not start, in one sentence: what, where, and what to do. */
export function plainly(error: Error, { data, databaseUrl }: { data: string; databaseUrl?: string }): string {
  const { code = '', path: file, address, port } = error as NodeJS.ErrnoException & { address?: string; port?: number };
  // Of several addresses of one name each has failed.
  const first = error instanceof AggregateError ? (error.errors[0] as NodeJS.ErrnoException & { address?: string; port?: number }) : null;
  if (databaseUrl && (UNREACHED.has(code) || UNREACHED.has(first?.code ?? '') || /timeout exceeded when trying to connect/.test(error.message))) {
    const where = URL.canParse(databaseUrl) ? new URL(databaseUrl).host : `${address ?? first?.address ?? ''}:${port ?? first?.port ?? ''}`;
    return `No database answers at ${where}, where DATABASE_URL points. Start it, or leave DATABASE_URL out: then one is started here.`;
  }
  const sentence = SENTENCES[code] as ((at: string) => string) | undefined;
  return sentence ? sentence(file ? path.resolve(file) : data) : error.message;
}
