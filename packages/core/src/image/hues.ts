/** Eight hues for identity, distinguishable for the colour-blind (Okabe & Ito 2008, reordered). sRGB 0–255. */
export const IDENTITY_HUES: readonly (readonly [number, number, number])[] = [
  [138, 133, 124],
  [213, 94, 0],
  [0, 135, 104],
  [86, 160, 213],
  [204, 121, 167],
  [200, 150, 0],
  [0, 94, 158],
  [90, 80, 60],
];
