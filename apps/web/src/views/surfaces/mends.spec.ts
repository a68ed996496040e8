import type { FindingCode, MapEntry, Role } from '@pebble/core';
import { FINDING_CODES } from '@pebble/core';
import { mendsFor, moveTo, offersOf, readAs, stepsText, turnGreen, withStep } from './mends';

const entry = (over: Partial<MapEntry> = {}): MapEntry => ({
  blob: 'b',
  fileName: 'wall.png',
  bytes: 1,
  width: 4,
  height: 4,
  channels: 3,
  depth: 8,
  colourSpace: 'data',
  normalDirection: null,
  stage: { blob: 's', width: 4, height: 4, channels: 3, depth: 8 },
  ...over,
});
const finding = (code: FindingCode) => ({ code, severity: 'warning' as const, message: 'x', confidence: 1 });
const mends = (role: Role, code: FindingCode, over: Partial<MapEntry> = {}) => mendsFor(role, entry(over), finding(code));

describe('mends', () => {
  it('keep the file and put a step behind those that are there', () => {
    const made = { source: { role: 'height' as const }, steps: withStep({}, 'normal'), notes: [] };
    const [{ changes }] = mends('normal', 'normal-not-unit', { made });
    expect(changes[0].source).toEqual({ role: 'height' });
    expect(Object.values(changes[0].steps ?? {}).map((s) => [s.order, s.kind])).toEqual([
      [1, 'normal'],
      [2, 'unit'],
    ]);
  });
  it('turn green over by the flag of the file, and back', () => {
    const once = turnGreen('normal', entry({ normalDirection: 'y+' }));
    expect(once.source).toEqual({ blob: 'b', fileName: 'wall.png', normalDirection: 'y-', colourSpace: 'data' });
    expect(turnGreen('normal', entry({ normalDirection: 'y-' })).source).toEqual(jasmine.objectContaining({ normalDirection: 'y+' }));
  });
  it('take channels apart only where there are some', () => {
    expect(mends('roughness', 'name-content-disagree').map((m) => m.label)).toEqual(['Take red', 'Take green', 'Take blue']);
    expect(mends('roughness', 'packed', { channels: 1 })).toEqual([]);
    expect(mends('baseColor', 'name-content-disagree')).toEqual([]);
  });
  it('fill a grey map that says nothing with what its role has without one', () => {
    const constant = (value: string) => ({ ...finding('channel-constant'), message: `Its channel is ${value} everywhere` });
    const [mend] = mendsFor('occlusion', entry({ channels: 1 }), constant('0.00'));
    expect(mend.label).toBe('Fill with 1');
    expect(Object.values(mend.changes[0].steps ?? {}).map((s) => [s.kind, s.values])).toEqual([['fill', { value: 1 }]]);
    expect(mendsFor('occlusion', entry({ channels: 1 }), constant('1.00'))).toEqual([]);
    expect(mendsFor('metallic', entry({ channels: 1 }), constant('0.00'))).toEqual([]);
    expect(mendsFor('baseColor', entry(), constant('0.00'))).toEqual([]);
  });
  it('never propose what would change nothing', () => {
    expect(mends('baseColor', 'colour-marked-data', { colourSpace: 'linear' })).toEqual([]);
    expect(readAs('baseColor', entry({ made: { source: { role: 'height' }, steps: {}, notes: [] } }), 'linear')).toBeNull();
    for (const code of FINDING_CODES) for (const mend of mends('normal', code)) expect(mend.changes.length).toBeGreaterThan(0);
  });
  it('move a picture to another role with its steps, and offer what can be made of it', () => {
    expect(moveTo('gloss', entry(), 'roughness').map((c) => [c.role, c.remove ?? false])).toEqual([
      ['gloss', true],
      ['roughness', false],
    ]);
    expect(offersOf('height').map((o) => o.changes[0].role)).toEqual(['normal', 'occlusion', 'cavity', 'curvature']);
    expect(stepsText(entry({ made: { source: { role: 'baseColor' }, steps: offersOf('baseColor')[0].changes[0].steps ?? {}, notes: [] } }))).toBe(
      'Desaturate, Invert, Levels',
    );
  });
});
