import fc from 'fast-check';
import type { Coverage, SentenceError } from '../index';
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

  it('is read loosely: units, capitals, either word for below', () => {
    const read = (text: string) => Object.values(parseCoverage(text, { idOf }).coverage);
    expect(read('slope below 35 degrees ±8')).toEqual([makeCue('slope', { centre: 35, width: 16 })]);
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
    expect(problem('where slope under 35')).toEqual({ at: 20, message: 'Character 21: expected "°", found the end' });
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

  it('prints forty of any kinds, none with an empty word or a doubled space', () => {
    const sentences = fc.sample(anyCoverage(CUE_KINDS, 3, 1), { numRuns: 40, seed: 20 }).map((c) => coverageSentence('Moss', c, nameOf));
    // For people to read aloud.
    (globalThis as unknown as { console: { log(text: string): void } }).console.log(`\n${sentences.join('\n')}`);
    for (const s of sentences) expect(s).not.toMatch(/ {2}|undefined|NaN|\[object|null/);
    expect(new Set(sentences).size).toBeGreaterThan(35);
  });
});
