import { droppedFiles, tellingFile } from './dropped';

describe('names of files from folders', () => {
  const named = (name: string, path: string) => tellingFile(new File(['pixels'], name, { type: 'image/png' }), path);
  it('are called after the folder where they say nothing of whose they are', async () => {
    const file = named('normal.png', '/delivery/old wall/normal.png');
    expect([file.name, file.type, await file.text()]).toEqual(['old wall_normal.png', 'image/png', 'pixels']);
    expect(named('roughness.png', 'yard/roughness.png').name).toBe('yard_roughness.png');
  });
  it('stay where they tell it themselves, and where there is no folder', () => {
    expect(named('moss_normal.png', 'yard/moss_normal.png').name).toBe('moss_normal.png');
    expect(named('normal.png', '').name).toBe('normal.png');
    expect(named('normal.png', '/normal.png').name).toBe('normal.png');
  });
});

describe('what is dropped', () => {
  const file = (name: string) => new File(['pixels'], name);
  const entryOf = (name: string, path: string): FileSystemFileEntry =>
    ({ name, fullPath: path, isFile: true, isDirectory: false, file: (done: (f: File) => void) => done(file(name)) }) as FileSystemFileEntry;
  /** A folder that gives what is in it in pieces, as browsers do. */
  const folderOf = (name: string, pieces: FileSystemEntry[][]): FileSystemDirectoryEntry =>
    ({
      name,
      fullPath: `/${name}`,
      isFile: false,
      isDirectory: true,
      createReader: () => {
        const left = [...pieces];
        return { readEntries: (done: (e: FileSystemEntry[]) => void) => done(left.shift() ?? []) };
      },
    }) as unknown as FileSystemDirectoryEntry;
  let asked: string[];
  beforeEach(() => (asked = []));
  const item = (name: string, entry: FileSystemEntry | null = entryOf(name, `/${name}`)) => ({
    kind: 'file',
    getAsFile: () => file(name),
    webkitGetAsEntry: () => (asked.push(name), entry),
  });
  const drop = (...items: object[]) => droppedFiles({ items } as unknown as DataTransfer, '.png,.glb');
  const names = async (files: Promise<File[]>) => (await files).map((f) => f.name);

  it('is asked for entries only where a name does not tell that it is a file', async () => {
    expect(await names(drop(item('wall.PNG'), item('crate.glb'), item('notes.md')))).toEqual(['wall.PNG', 'crate.glb', 'notes.md']);
    expect(asked).toEqual(['notes.md']);
  });
  it('is walked through where it is a folder, piece by piece, and named after it', async () => {
    const inner = folderOf('inner', [[entryOf('normal.png', '/yard/inner/normal.png')]]);
    const yard = folderOf('yard', [[entryOf('a.png', '/yard/a.png'), inner], [entryOf('roughness.png', '/yard/roughness.png')]]);
    expect(await names(drop(item('yard', yard), item('b.png')))).toEqual(['a.png', 'inner_normal.png', 'yard_roughness.png', 'b.png']);
  });
  it('is passed over where systems hide it', async () => {
    const yard = folderOf('yard', [[entryOf('.DS_Store', '/yard/.DS_Store'), entryOf('a.png', '/yard/a.png')]]);
    expect(await names(drop(item('._wall.png'), item('yard', yard), item('.git', folderOf('.git', [[entryOf('c.png', '/.git/c.png')]]))))).toEqual([
      'a.png',
    ]);
  });
  it('is nothing where text is dropped, and tells what could not be read', async () => {
    expect(await names(drop({ kind: 'string', getAsFile: () => null, webkitGetAsEntry: () => null }))).toEqual([]);
    const gone = {
      ...entryOf('notes.md', '/notes.md'),
      file: (_: unknown, failed: (e: Error) => void) => failed(new Error('It is gone')),
    } as unknown as FileSystemEntry;
    await expectAsync(drop(item('notes.md', gone))).toBeRejectedWithError('It is gone');
  });
});
