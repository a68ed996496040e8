/** Components that a swizzle names, by one set of letters; null where it is none. */
export const swizzleOf = (text: string): number[] | null => {
  for (const letters of ['xyzw', 'rgba', 'stpq']) {
    const found = [...text].map((c) => letters.indexOf(c));
    if (text.length >= 1 && text.length <= 4 && found.every((i) => i >= 0)) return found;
  }
  return null;
};
