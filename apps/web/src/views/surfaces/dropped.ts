// Files out of what somebody drops or picks, under names that tell whose they are.
import { readName } from '@pebble/core';
import { breathe } from '../../ui/breathe';

/**
 * A file under a name that tells whose it is: `normal.png` in a folder is called after that folder, as every folder may
 * have one.
 * @param path of the file with its folders, `/` between them
 */
export function tellingFile(file: File, path: string): File {
  const folder = path.split('/').filter(Boolean).at(-2);
  return folder && !readName(file.name).stem
    ? new File([file], `${folder}_${file.name}`, { type: file.type, lastModified: file.lastModified })
    : file;
}

/** Files that systems leave in folders: nobody means them. */
const LITTER = /^(\.|thumbs\.db$|ehthumbs(_vista)?\.db$|desktop\.ini$|icon\r$|__macosx$|\$recycle\.bin$|system volume information$)/i;
export const isLitter = (name: string): boolean => LITTER.test(name);

/**
 * Every file of a drop, folders walked through. Hidden files of systems are passed over.
 * @param kinds endings of names that are files for sure, as in `.png,.glb`
 */
export async function droppedFiles(transfer: DataTransfer, kinds: string): Promise<File[]> {
  const endings = kinds.split(',');
  // A drop is empty when its event is over. Each entry is half a millisecond of it: only what may be a folder needs one.
  const dropped = [...transfer.items].flatMap((item): (File | FileSystemEntry)[] => {
    const file = item.kind === 'file' ? item.getAsFile() : null;
    const isFile = file && endings.some((e) => file.name.toLowerCase().endsWith(e));
    const any = isFile ? file : item.webkitGetAsEntry();
    return any && !isLitter(any.name) ? [any] : [];
  });
  await breathe();
  const out: File[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (isLitter(entry.name)) return;
    if (entry.isFile) {
      const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
      out.push(tellingFile(file, entry.fullPath));
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    // A reader gives a folder in pieces until it has no more.
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
      if (!some.length) return;
      for (const inner of some) await walk(inner);
    }
  };
  for (const one of dropped)
    if (one instanceof File) out.push(one);
    else await walk(one);
  return out;
}
