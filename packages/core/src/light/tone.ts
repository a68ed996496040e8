/** Up to here tone mapping leaves light alone, so that a base colour under light 1 is seen as itself. */
export const TONE_KNEE = 0.76;

/**
 * Light to display, 0–1 linear: the identity below the knee, then a shoulder that meets it with the same slope and tends
 * to 1. Own curve; the GLSL in the stage says the same.
 */
export const toneMap = (x: number): number => (x <= TONE_KNEE ? x : TONE_KNEE + (1 - TONE_KNEE) * (1 - Math.exp(-(x - TONE_KNEE) / (1 - TONE_KNEE))));
