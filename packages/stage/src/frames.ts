// What the stage is asked for, and what it tells of its frames.
import type { LiveProgram, Values } from '@pebble/core';

export interface FrameReport {
  /** Milliseconds from the first command to the last pixel. */
  ms: number;
  /** Share of full resolution at which it was drawn. */
  scale: number;
  /** Another program was wanted, which was still being built. */
  pending: boolean;
  /** It shows what that program will: worked out on the processor. */
  ahead: boolean;
  /** `tag` of the stage when the frame was begun: what had been asked of it by then. */
  tag: number;
}

/** A program that the stage is asked to show. */
export interface ProgramRequest<Slots> {
  /** Without a graph no picture can be worked out ahead of it. */
  program: Omit<LiveProgram, 'graph'> & { graph: LiveProgram['graph'] | null };
  values: Values;
  slots: Slots;
  /** Whether texture coordinates are moved along the line of sight. */
  parallax?: boolean;
  /**
   * False while coarse surfaces stand for others that are on their way: the picture is worked out from them, and the program
   * goes into use when it is asked for again with what was on its way. True by default.
   */
  whole?: boolean;
}
