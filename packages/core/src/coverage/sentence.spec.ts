import fc from 'fast-check';
import type { Coverage, Join, SentenceError } from '../index';
import { CUE_KINDS, WEATHERING, coverageSentence, coverageText, makeCue, parseCoverage, weatheringCoverage } from '../index';
import { anyCoverage } from '../testing/any-cue';

const NAMES: Record<string, string> = { moss: 'Cushion moss', stone: 'Terrace stone' };
const nameOf = (id: string) => NAMES[id] ?? id;
const idOf = (name: string) => Object.keys(NAMES).find((id) => NAMES[id] === name) ?? null;
const bare = (coverage: Coverage) => Object.values(coverage).map((cue) => ({ ...cue }));

describe('the sentence', () => {
  it('reads as people would say it', () => {
    const say = (coverage: Coverage) => coverageSentence('Moss', coverage, nameOf);
    expect(say({})).toBe('Moss everywhere');
    expect(
      say({
        a: makeCue('vertexColour', { order: 1, channel: 'g', centre: 0.5, width: 0.4 }),
        b: makeCue('slope', { order: 2, centre: 35, width: 16 }),
        c: makeCue('mask', { order: 3, join: 'butNot', surface: 'stone', role: 'cavity', centre: 0.6, width: 0 }),
      }),
    ).toBe('Moss where vertex green above 0.5 ±0.2 and slope under 35° ±8 but not cavity of "Terrace stone" above 0.6');
    expect(say({ a: makeCue('low', { centre: 0.004, width: 0.006 }) })).toBe('Moss where low places deeper than 4 mm ±3');
    expect(say({ a: makeCue('ground', { centre: 0.3, width: 0.2 }) })).toBe('Moss where within 0.3 m ±0.1 of the ground');
    expect(say({ a: makeCue('direction', { bearing: 45, centre: 60, width: 40 }) })).toBe('Moss where facing within 60° ±20 of north-east');
    expect(say({ a: makeCue('convexity', { centre: 12, width: 20 }) })).toBe('Moss where edges sharper than 12 per metre ±10');
    expect(say({ a: makeCue('part', { inverted: true, part: 'lid', join: 'butNot' }) })).toBe('Moss everywhere but not all but part "lid"');
    expect(say({ a: makeCue('noise', { amount: 0.8 }) })).toBe('Moss where noise above 0.5 ±0.1 at 0.6 m (80 % of it)');
    expect(say(weatheringCoverage('risingDirt'))).toBe('Moss where within 0.35 m ±0.25 of the ground and noise above 0.4 ±0.2 at 0.3 m');
  });

  it('is text from which the same coverage is read, for any coverage', () => {
    fc.assert(
      fc.property(anyCoverage(), (coverage) => {
        const text = coverageText(coverage, nameOf);
        const read = parseCoverage(text, { idOf }).coverage;
        expect(bare(read)).withContext(text).toEqual(bare(coverage));
        // The name before it is taken off.
        expect(parseCoverage(`River gravel ${text}`, { idOf }).name).toBe('River gravel');
      }),
      { numRuns: 400 },
    );
    for (const kind of CUE_KINDS)
      expect(coverageText({ c: makeCue(kind) }).length)
        .withContext(kind)
        .toBeGreaterThan(8);
    for (const name of Object.keys(WEATHERING) as (keyof typeof WEATHERING)[])
      expect(bare(parseCoverage(coverageText(weatheringCoverage(name))).coverage)).toEqual(bare(weatheringCoverage(name)));
  });

  it('keeps every digit of every number, in whatever unit it is written', () => {
    const any = fc.double({ min: 1e-7, max: 9e4, noNaN: true, noDefaultInfinity: true });
    fc.assert(
      fc.property(
        any,
        any,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0.001, max: 10000, noNaN: true }),
        (centre, width, share, sizeM) => {
          const coverage: Coverage = {
            c1: makeCue('low', { order: 1, centre, width }),
            c2: makeCue('slope', { order: 2, centre: -centre, amount: share }),
            c3: makeCue('noise', { order: 3, join: 'or', sizeM, width }),
            c4: makeCue('constant', { order: 4, join: 'and', value: share }),
          };
          expect(parseCoverage(coverageText(coverage)).coverage).toEqual(coverage);
        },
      ),
      { numRuns: 300 },
    );
    expect(coverageText({ c: makeCue('low', { centre: 0.00123456789, width: 0 }) })).toBe('where low places deeper than 1.23456789 mm');
  });
  it('keeps any name before it, and any name of a surface or part in it', () => {
    const names = [
      'Moos & Flechten',
      'Überwuchs 2',
      'a 3rd, "quoted" one',
      'where it was',
      'nowhere',
      'everywhere else',
      '石',
      '"',
      '\\',
      ' led by a space',
      '12',
      'noise above 0.5',
    ];
    for (const name of names) {
      const coverage = { c1: makeCue('mask', { surface: name, role: 'height' }), c2: makeCue('part', { order: 2, part: name }) };
      const sentence = coverageSentence(name, coverage);
      const read = parseCoverage(sentence);
      expect(read.name).withContext(sentence).toBe(name);
      expect(read.coverage).withContext(sentence).toEqual(coverage);
      expect(parseCoverage(coverageSentence(name, {})).name).toBe(name);
    }
  });
  it('says what a number may be where it is out of range, in the unit that was written', () => {
    const problem = (text: string) => {
      try {
        parseCoverage(text);
      } catch (error) {
        return (error as Error).message;
      }
      return '';
    };
    expect(problem('where an even 500 %')).toBe('Character 15: expected a percentage from 0 % to 100 %, found "500"');
    expect(problem('where noise above 0.5 (101 % of it)')).toContain('a percentage from 0 % to 100 %');
    expect(problem('where height of "a" above 0.5 ×0')).toBe('Character 32: expected how often it repeats, from 0.01 to 1000, found "0"');
    expect(problem('where height of "a" above 0.5 ×−3')).toContain('found "−3"');
    expect(problem('where facing within 60° of north raised 200°')).toContain('an angle from -90° to 90°, found "200"');
    expect(problem('where slope under 1e309°')).toContain('found "1e309"');
    expect(problem('where stripes above 0.5 each 0 mm')).toContain('a length from 0.001 m to 10000 m');
    expect(problem('where noise above 0.5 at 20 km')).toContain('found "20"');
    expect(problem('where slope under 35° ±−4')).toContain('half the width from 0');
    expect(problem('where part "lid')).toContain('Character 12: expected quotes that are closed');
  });
  it('joins so that it is heard as it is meant, and reads the joins of before', () => {
    const cue = (order: number, join: Join) => makeCue('part', { order, join, part: 'ABCDEF'[order - 1] });
    const say = (...joins: Join[]) =>
      coverageText(Object.fromEntries(joins.map((join, i) => [`c${i + 1}`, cue(i + 1, join)]))).replace(/part "(.)"/g, '$1');
    expect(say('and', 'or', 'and')).toBe('where A or B, and in any case C');
    expect(say('and', 'and', 'or')).toBe('where A and B, or else C');
    expect(say('and', 'and', 'and', 'butNot', 'butNot')).toBe('where A and B and C but not D, nor E');
    expect(say('and', 'or', 'butNot')).toBe('where A or B, but in no case C');
    expect(say('and', 'butNot', 'or', 'and')).toBe('where A but not B, or else C, and in any case D');
    expect(say('and', 'atMost', 'atLeast')).toBe('where A, capped by B, topped up by C');
    expect(say('or', 'or', 'and')).toBe('everywhere or A or B, and in any case C');
    expect(say('butNot', 'butNot')).toBe('everywhere but not A, nor B');
    const joins = (text: string) => Object.values(parseCoverage(text).coverage).map((c) => c.join);
    expect(joins('where part "A" at most part "B" at least part "C" or part "D" and part "E"')).toEqual(['and', 'atMost', 'atLeast', 'or', 'and']);
  });

  it('is read loosely: units, capitals, either word for below', () => {
    const read = (text: string) => Object.values(parseCoverage(text, { idOf }).coverage);
    expect(read('slope below 35 degrees ±8')).toEqual([makeCue('slope', { centre: 35, width: 16 })]);
    for (const text of ['slope under 35deg +-8', 'slope under 35 ±8', 'slope under 35° +- 8 deg', 'slope under 35 +-8'])
      expect(read(text))
        .withContext(text)
        .toEqual([makeCue('slope', { centre: 35, width: 16 })]);
    expect(read('WHERE Vertex Green under 0.5')).toEqual([makeCue('vertexColour', { channel: 'g', inverted: true, width: 0 })]);
    expect(read('low places deeper than 0.4 cm')).toEqual([makeCue('low', { centre: 0.004, width: 0 })]);
    expect(read('noise above 0.5 at 300 mm (seed 9)')).toEqual([makeCue('noise', { sizeM: 0.3, seed: 9, width: 0 })]);
    expect(read('height above 0.5 m')[0]).toEqual(makeCue('altitude', { from: 'object', width: 0 }));
    expect(read('height of "Cushion moss" above 0.5')[0].kind).toBe('mask');
  });

  it('says where it cannot be read and what was expected there', () => {
    const problem = (text: string): { at: number; message: string } => {
      try {
        parseCoverage(text, { idOf });
      } catch (error) {
        return { at: (error as SentenceError).at, message: (error as Error).message };
      }
      return { at: -1, message: '' };
    };
    expect(problem('where altitude above 35')).toEqual({ at: 23, message: 'Character 24: expected "mm", "cm", "m" or "km", found the end' });
    expect(problem('where slope under 35 m')).toEqual({ at: 21, message: 'Character 22: expected "°", found "m"' });
    expect(problem('where slope over 35°').message).toBe('Character 13: expected "above", "under" or "below", found "over"');
    expect(problem('where vertex purple above 0.5').message).toContain('Character 14: expected "red", "green", "blue" or "alpha", found "purple"');
    expect(problem('where slope under 35° xor slope above 3°').message).toContain('Character 23: expected the end, ');
    expect(problem('where banana above 0.5').message).toContain('Character 7: expected a cue, ');
    expect(problem('where cavity of "Gone" above 0.5').message).toBe('Character 17: expected the name of a surface of the project, found "Gone"');
    expect(problem('where noise above 0.5 at 0.3 m (9 octaves)').message).toContain('a number of octaves from 1 to 8');
    expect(problem('where painted mask above 0.5 (picture "12ab")').message).toBe('Character 39: expected the 64 digits of a picture, found "12ab"');
    expect(problem(`where painted mask above 0.5 (picture "${'0f'.repeat(32)}"`).message).toBe('Character 105: expected ")", found the end');
    expect(problem('where slope under 35° & more').message).toContain('Character 23');
    expect(problem('').message).toContain('expected a cue');
    expect(problem('everywhere slope').message).toContain('Character 12: expected the end, ');
  });

  it('prints sixty of any kinds, none with an empty word or a doubled space', () => {
    const sentences = fc.sample(anyCoverage(CUE_KINDS, 3, 1), { numRuns: 60, seed: 20 }).map((c) => coverageSentence('Moss', c, nameOf));
    // For people to read aloud.
    (globalThis as unknown as { console: { log(text: string): void } }).console.log(`\n${sentences.join('\n')}`);
    for (const s of sentences) expect(s).not.toMatch(/ {2}|undefined|NaN|\[object|null/);
    expect(new Set(sentences).size).toBeGreaterThan(55);
  });
});
