import type { Finding, Role } from '@pebble/core';
import { readName, surfaceStems } from '@pebble/core';
import type { LookedAt, SentFile } from '@pebble/core';
import { lookRequests, planImport, planQuestions, planRequests } from './index';

const file = (fileName: string, blob: string | null = fileName): SentFile => ({
  fileName,
  blob,
  width: 4,
  height: 4,
  channels: 3,
  depth: 8,
  problem: blob ? null : `${fileName}: the file is empty.`,
});
const question: Finding = { code: 'name-content-disagree', severity: 'question', message: 'Which is it?', confidence: 0.9 };

/** What looking at files of these names gives when their content says the same. */
function looked(files: readonly SentFile[], over: Record<string, Partial<LookedAt>> = {}): LookedAt[] {
  const stems = surfaceStems(files.map((f) => f.fileName));
  return files.flatMap(({ blob, fileName }, i) => {
    const { role, normalDirection } = readName(fileName);
    const base = {
      role,
      roleConfidence: role ? 0.99 : 0.3,
      content: 'grey' as const,
      contentConfidence: 0.9,
      colourSpace: role === 'baseColor' ? ('srgb' as const) : ('data' as const),
      normalDirection: role === 'normal' ? (normalDirection ?? ('y+' as const)) : null,
      normalConfidence: 0.5,
      twoChannel: false,
      packed: null,
      alpha: null,
      ink: null,
      findings: [],
      stem: stems[i],
      problem: null,
    };
    return blob ? [{ ...base, blob, fileName, ...over[fileName] }] : [];
  });
}
const planRequest = (made: ReturnType<typeof planImport>) => ({ surfaces: planRequests(made).flatMap((r) => r.surfaces) });
const plan = (names: (string | SentFile)[], over: Record<string, Partial<LookedAt>> = {}) => {
  const files = names.map((n) => (typeof n === 'string' ? file(n) : n));
  return planImport(files, looked(files, over));
};

describe('planning an import', () => {
  it('puts files into surfaces and roles as they were looked at', () => {
    const made = plan(['old_wall_4k_baseColor.png', 'Old_Wall_nrm_dx.png', 'step_rough.png', 'step_photo.jpg', 'shed.png']);
    expect(made.groups.map((g) => g.name)).toEqual(['Old wall', 'Step', 'Shed']);
    expect(made.rows.map((r) => [r.holds, r.group, r.normalDirection])).toEqual([
      ['baseColor', 'old_wall', 'y+'],
      ['normal', 'old_wall', 'y-'],
      ['roughness', 'step', 'y+'],
      [null, 'step', 'y+'],
      [null, 'shed', 'y+'],
    ]);
  });
  it('makes a map of its own of what alpha holds, and asks while that is not known', () => {
    const rgba = (name: string) => ({ ...file(name), channels: 4 });
    const made = plan([rgba('wall_basecolor.png'), rgba('wall_normal.png')], {
      'wall_basecolor.png': { alpha: 'opacity' },
      'wall_normal.png': { findings: [{ ...question, code: 'alpha' }] },
    });
    expect(made.rows.map((r) => [r.alpha, r.settled])).toEqual([
      ['opacity', true],
      [null, true],
    ]);
    expect(planQuestions(made)).toEqual(['wall_normal.png: say what its alpha holds, or leave it out.']);
    made.rows[1].alpha = 'metallic';
    expect(planQuestions(made)).toEqual([]);
    expect(planRequest(made).surfaces[0].maps.map((m) => [m.fileName, m.role, m.steps?.['channel'].values])).toEqual([
      ['wall_basecolor.png', 'baseColor', undefined],
      ['wall_basecolor.png', 'opacity', { index: 3 }],
      ['wall_normal.png', 'normal', undefined],
      ['wall_normal.png', 'metallic', { index: 3 }],
    ]);
    // Two maps of one role are found wherever they come from.
    made.rows[1].alpha = 'opacity';
    expect(planQuestions(made)).toEqual(['Wall: two files are taken for opacity. Give one another role or another surface.']);
    made.rows[1].alpha = 'skip';
    expect(planRequest(made).surfaces[0].maps.length).toBe(3);
  });
  it('asks about what it cannot know and about roles taken twice, and goes on when they are settled', () => {
    const made = plan(['wall_rough.png', 'wall_roughness.png', 'photo.png', file('bad.png', null)]);
    expect(made.refused.length).toBe(1);
    expect(planQuestions(made).length).toBe(2);
    made.rows[1].holds = 'height';
    made.rows[2].holds = 'skip';
    expect(planQuestions(made)).toEqual([]);
    const { surfaces } = planRequest(made);
    expect(surfaces.length).toBe(1);
    expect(surfaces[0].maps.map((m) => m.role)).toEqual(['roughness', 'height']);
  });
  it('waits for an answer where name and content disagree, and where green is unknown', () => {
    const made = plan(['a_normal.png', 'a_height.png'], { 'a_normal.png': { normalDirection: 'unknown' }, 'a_height.png': { findings: [question] } });
    expect(planQuestions(made).map((q) => q.split(':')[1])).toEqual([' say which way its green points.', ' answer the question below it.']);
    made.rows[0].normalDirection = 'y-';
    made.rows[1].settled = true;
    expect(planQuestions(made)).toEqual([]);
    expect(planRequest(made).surfaces[0].maps[0].normalDirection).toBe('y-');
  });
  it('takes a packed file apart by channels', () => {
    const packed: Partial<Record<'r' | 'g' | 'b' | 'a', Role>> = { r: 'occlusion', g: 'roughness', b: 'metallic' };
    const made = plan(['wall_orm.png'], { 'wall_orm.png': { role: null, packed } });
    expect(made.rows[0].holds).toBe('channels');
    made.rows[0].channels.b = 'skip';
    const { maps } = planRequest(made).surfaces[0];
    expect(maps.map((m) => [m.role, Object.values(m.steps ?? {})[0].values])).toEqual([
      ['occlusion', { index: 0 }],
      ['roughness', { index: 1 }],
    ]);
    made.rows[0].channels = {};
    expect(planQuestions(made)[0]).toMatch(/say what its channels hold/);
  });
  it('leaves a broken file out with its reason, and sends author, source and licence along', () => {
    const made = plan(['a_height.png', 'b_height.png'], { 'b_height.png': { problem: 'b_height.png: cut off.' } });
    expect(made.refused.map((r) => r.problem)).toEqual(['b_height.png: cut off.']);
    made.origin.author = 'A. Perera';
    expect(planRequest(made).surfaces.map((s) => [s.name, s.origin?.author])).toEqual([['A', 'A. Perera']]);
  });
  it('shares work among jobs: surfaces whole, files of one surface together', () => {
    const lots = (surfaces: number) =>
      Array.from(
        { length: surfaces * 6 },
        (_, i) => `lot${Math.floor(i / 6)}_${['baseColor', 'normal', 'height', 'rough', 'ao', 'metal'][i % 6]}.png`,
      );
    for (const [surfaces, files, made] of [
      [1, [6], [1]],
      [3, [6, 6, 6], [1, 1, 1]],
      [10, [12, 12, 12, 12, 12], [3, 3, 3, 1]],
      // Of many there are many jobs: what is done is there while others go on.
      [40, Array.from({ length: 10 }, () => 24), Array.from({ length: 10 }, () => 4)],
    ] as const) {
      const names = lots(surfaces);
      const looks = lookRequests(names.map((n) => file(n)));
      expect(looks.map((r) => r.files.length)).toEqual([...files]);
      expect(looks.flatMap((r) => r.files.map((f) => f.fileName)).sort()).toEqual([...names].sort());
      expect(planRequests(plan(names)).map((r) => r.surfaces.length)).toEqual([...made]);
    }
  });
  it('hands findings on where the role is what was recognised', () => {
    const lossy: Finding = { code: 'normal-lossy', severity: 'warning', message: 'x', confidence: 1 };
    const made = plan(['a_normal.png', 'b_normal.png'], { 'a_normal.png': { findings: [lossy, question] }, 'b_normal.png': { findings: [lossy] } });
    made.rows[1].holds = 'position';
    expect(planRequest(made).surfaces.map((s) => s.maps[0].findings)).toEqual([[lossy], undefined]);
  });
  it('refuses to start without a file', () => expect(planQuestions(plan([file('bad.png', null)]))).toEqual(['There is no file to import.']));
});
