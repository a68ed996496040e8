import type { SentFile } from '@pebble/core';
import { probeImage } from '@pebble/formats';
import type { TaskContext } from '../kind';

/** A file that cannot be read, as an upload would have told of it. */
export const unreadable = (fileName: string, problem: string): SentFile => ({
  blob: null,
  fileName,
  width: 0,
  height: 0,
  channels: 0,
  depth: 8,
  problem: `${fileName}: ${problem}`,
});

/** Files that are kept already, as an upload would have told of them. */
export async function sentFiles(files: readonly { blob: string; fileName: string }[], { blobs }: TaskContext['ports']): Promise<SentFile[]> {
  const out: SentFile[] = [];
  for (const { blob, fileName } of files)
    try {
      out.push({ blob, fileName, ...probeImage(await blobs.get(blob)), problem: null });
    } catch (error) {
      out.push(unreadable(fileName, (error as Error).message));
    }
  return out;
}
