import type { UploadedFile } from '@pebble/contracts';
import { makeImage } from '@pebble/core';
import { planImport, planQuestions, planRequest } from './import-plan';
import { readout } from './readout';

const file = (fileName: string, blob: string | null = fileName): UploadedFile => ({
  fileName,
  blob,
  bytes: 1,
  width: 4,
  height: 4,
  channels: 3,
  depth: 8,
  format: 'png',
  problem: blob ? null : `${fileName}: the file is empty.`,
});

describe('planning an import', () => {
  it('groups files by their stems and reads roles from their names', () => {
    const plan = planImport(['old_wall_4k_baseColor.png', 'Old_Wall_nrm_dx.png', 'step_rough.png', 'step_photo.jpg'].map((n) => file(n)));
    expect(plan.groups.map((g) => g.name)).toEqual(['Old wall', 'Step', 'Step photo']);
    expect(plan.rows.map((r) => [r.role, r.group, r.normalDirection])).toEqual([
      ['baseColor', 'old_wall', 'y+'],
      ['normal', 'old_wall', 'y-'],
      ['roughness', 'step', 'y+'],
      [null, 'step_photo', 'y+'],
    ]);
  });
  it('asks about what it cannot know and about roles taken twice, and goes on when they are settled', () => {
    const plan = planImport([file('wall_rough.png'), file('wall_roughness.png'), file('photo.png'), file('bad.png', null)]);
    expect(plan.refused.length).toBe(1);
    expect(planQuestions(plan).length).toBe(2);
    plan.rows[1].role = 'height';
    plan.rows[2].role = 'skip';
    expect(planQuestions(plan)).toEqual([]);
    const { surfaces } = planRequest(plan);
    expect(surfaces.length).toBe(1);
    expect(surfaces[0].maps.map((m) => m.role)).toEqual(['roughness', 'height']);
  });
  it('refuses to start without a file', () => expect(planQuestions(planImport([file('bad.png', null)]))).toEqual(['There is no file to import.']));
});

describe('the value under the pointer', () => {
  const image = makeImage({ width: 1, height: 1, channels: 3, data: Uint8Array.of(128, 64, 255) });
  const one = (v: number) => makeImage({ width: 1, height: 1, channels: 1, depth: 16, data: Uint16Array.of(v) });
  const surface = { reliefM: 0.05, mid: 0.5 };
  it('is in the unit of the role', () => {
    expect(readout('baseColor', image, 0, 0, surface)).toEqual(['128 64 255', '0.216 0.051 1.000']);
    expect(readout('normal', image, 0, 0, surface)).toEqual(['128 64 255', '30° to 270°']);
    expect(readout('height', one(65535), 0, 0, surface)).toEqual(['1.0000', '25.0 mm']);
    expect(readout('roughness', one(32768), 0, 0, surface)).toEqual(['128', '0.500']);
  });
});
