// How a cue joins what was said before it: one entry a join.

/** What joins are made of: numbers, or nodes of a graph. */
export interface Arithmetic<T> {
  constant(v: number): T;
  add(a: T, b: T): T;
  subtract(a: T, b: T): T;
  multiply(a: T, b: T): T;
  invert(a: T): T;
  min(a: T, b: T): T;
  max(a: T, b: T): T;
}
export const NUMBERS: Arithmetic<number> = {
  constant: (v) => v,
  add: (a, b) => a + b,
  subtract: (a, b) => a - b,
  multiply: (a, b) => a * b,
  invert: (a) => 1 - a,
  min: Math.min,
  max: Math.max,
};

/** A correction that leaves everything as it was: a value that bytes hold, as well as two of them. */
export const NO_CORRECTION = 128 / 255;

interface JoinFacts {
  /** How it is called by itself. */
  words: string;
  /** What leaves everything as it was. */
  without: number;
  /** What was said before, 0–1, and the cue, 0–1, as one. */
  fold<T>(of: Arithmetic<T>, before: T, cue: T): T;
}

export const JOINS = {
  and: { words: 'and', without: 1, fold: (of, a, c) => of.multiply(a, c) },
  or: { words: 'or', without: 0, fold: (of, a, c) => of.invert(of.multiply(of.invert(a), of.invert(c))) },
  butNot: { words: 'but not', without: 0, fold: (of, a, c) => of.multiply(a, of.invert(c)) },
  atMost: { words: 'capped by', without: 1, fold: (of, a, c) => of.min(a, c) },
  atLeast: { words: 'topped up by', without: 0, fold: (of, a, c) => of.max(a, c) },
  // Above the middle it goes toward 1, below toward 0: a + (1 − a)·s where s > 0, a·(1 + s) where s < 0.
  corrected: {
    words: 'corrected by',
    without: NO_CORRECTION,
    fold(of, a, c) {
      const away = of.subtract(c, of.constant(NO_CORRECTION));
      const more = of.multiply(of.max(away, of.constant(0)), of.constant(1 / (1 - NO_CORRECTION)));
      const less = of.multiply(of.min(away, of.constant(0)), of.constant(1 / NO_CORRECTION));
      return of.add(a, of.add(of.multiply(of.invert(a), more), of.multiply(a, less)));
    },
  },
} satisfies Record<string, JoinFacts>;
export type Join = keyof typeof JOINS;
export const JOIN_NAMES = Object.keys(JOINS) as readonly Join[];
export const joinFacts = (join: Join): JoinFacts => JOINS[join];
