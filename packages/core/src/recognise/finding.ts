import type { Role } from '../surface';

/** What can be found in a map. */
export const FINDING_CODES = [
  'normal-lossy',
  'normal-not-unit',
  'normal-direction-unknown',
  'normal-of-object',
  'data-marked-srgb',
  'colour-marked-data',
  'channel-constant',
  'alpha-unused',
  'colour-under-zero-alpha',
  'clipped',
  'seam',
  'packed',
  'alpha',
  'name-content-disagree',
  'role-unsure',
] as const;
export type FindingCode = (typeof FINDING_CODES)[number];

export interface Finding {
  code: FindingCode;
  /** `question` waits for an answer, `warning` is worth a look, `info` is good to know. */
  severity: 'question' | 'warning' | 'info';
  /** A plain sentence. */
  message: string;
  /** 0–1. */
  confidence: number;
  /** What a question may be answered by, the likeliest first. */
  answers?: Answer[];
}
/** A role, several of them by channel, the way of green, or that something is left out. */
export type Answer = Role | 'channels' | 'y+' | 'y-' | 'skip';
