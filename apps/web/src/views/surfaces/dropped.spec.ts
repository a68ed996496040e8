import { tellingFile } from './dropped';

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
