// What several kinds of cues have in common.
import type { Reader } from '../text/reader';
import { rampNumbers } from '../text/words';
import type { CueCommon, CueUnit } from './kind';

export const facts = (title: string, help: string, unit: CueUnit, least: number, most: number) => ({ title, help, unit, least, most });

/** What stands before the number of a cue as it is, and inverted. */
export type Sides = readonly [plain: string, inverted: string];
export const ABOVE: Sides = ['above', 'below'];
export const OVER: Sides = ['above', 'under'];
export const AWAY: Sides = ['beyond', 'within'];
export const SHARPER: Sides = ['sharper than', 'blunter than'];
/** Words that only a number comes after. */
export const BEFORE_NUMBERS = ['above', 'below', 'under'];

export const sideWord = (sides: Sides, { inverted }: CueCommon): string => sides[Number(inverted)];
/** Reads side and numbers of a ramp. */
export const sideAndRamp = (r: Reader, sides: Sides, unit: CueUnit): Pick<CueCommon, 'inverted' | 'centre' | 'width'> => ({
  inverted: r.side(sides),
  ...r.ramp(unit),
});
export const numbersIn =
  (unit: CueUnit) =>
  (cue: CueCommon): string =>
    rampNumbers(cue, unit);

/** Cells of a periodic pattern of about `sizeM` over the extent: at least one, always a whole number. */
export const noiseCells = (extentM: number, sizeM: number): number => Math.max(1, Math.round(extentM / Math.max(sizeM, 1e-4)));
/** Sizes of patterns in metres. */
export const SIZES = { least: 0.001, most: 10000 };
export const BEARINGS_HELD = { least: -360, most: 360 };
