/** A name as somebody typed it, without spaces at its ends, and no longer than is kept; null where nothing is left of it. */
export const nameFrom = (text: string, longest = 200): string | null => text.trim().slice(0, longest) || null;

/** Characters of a name that nobody typed. */
const GENERATED = 40;
/** A name of several, for something made of them: as many as there is room for, the first always. `Moss, Stone and 3 more` */
export function nameOfSeveral(names: readonly string[]): string {
  for (let kept = names.length; kept > 0; kept--) {
    const left = names.length - kept;
    const listed = names.slice(0, kept);
    const text = left
      ? `${listed.join(', ')} and ${left} more`
      : listed.length > 1
        ? `${listed.slice(0, -1).join(', ')} and ${listed.at(-1)}`
        : (listed[0] ?? '');
    if (text.length <= GENERATED) return text;
  }
  const more = names.length > 1 ? ` and ${names.length - 1} more` : '';
  return `${(names[0] ?? '').slice(0, GENERATED - more.length - 1)}…${more}`;
}
