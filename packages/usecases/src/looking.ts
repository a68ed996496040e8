// Files before they become maps: what each is, by its content, its name, and the files that come with it.
import type { FileClues, LookedAt, Measured, Recognition } from '@pebble/core';
import { cellsText, inkCells, measure, recogniseMeasured, surfaceStems } from '@pebble/core';
import { fileMarks, isRawName, probeImage } from '@pebble/formats';
import type { Ports, Report } from './ports';

const NOTHING: Recognition = {
  role: null,
  roleConfidence: 0,
  content: 'grey',
  contentConfidence: 0,
  colourSpace: 'data',
  normalDirection: null,
  normalConfidence: 0,
  twoChannel: false,
  packed: null,
  alpha: null,
  findings: [],
};

/**
 * Looks at files, surface by surface, keeping no more of each than was measured; a file that cannot be read stops no other.
 * The answers are in the order of the files.
 */
export async function lookAtFiles(ports: Ports, files: readonly { blob: string; fileName: string }[], report: Report): Promise<LookedAt[]> {
  const answers = new Map<object, Omit<LookedAt, 'stem'>>();
  const stems = surfaceStems(files.map((f) => f.fileName));
  const keys = stems.map((s) => s.toLowerCase());
  let done = 0;
  for (const key of new Set(keys)) {
    const group = files.filter((_, i) => keys[i] === key);
    const seen: { file: (typeof files)[number]; clues: FileClues; measured: Measured; ink: string | null }[] = [];
    for (const file of group) {
      report(done++ / files.length, file.fileName);
      try {
        const bytes = await ports.blobs.get(file.blob);
        const clues: FileClues = { ...fileMarks(bytes, probeImage(bytes)), fileName: file.fileName };
        if (isRawName(file.fileName)) clues.role = 'height';
        const image = await ports.codec.decode(bytes, 'data');
        const cells = inkCells(image);
        seen.push({ file, clues, measured: measure(image, clues), ink: cells && cellsText(cells) });
      } catch (error) {
        answers.set(file, { ...NOTHING, ...file, ink: null, problem: `${file.fileName}: ${(error as Error).message}.` });
      }
    }
    recogniseMeasured(seen).forEach((r, k) => answers.set(seen[k].file, { ...r, ...seen[k].file, ink: seen[k].ink, problem: null }));
  }
  return files.map((file, i) => ({ ...(answers.get(file) as Omit<LookedAt, 'stem'>), stem: stems[i] }));
}
