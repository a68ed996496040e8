/** A name as somebody typed it, without spaces at its ends, and no longer than is kept; null where nothing is left of it. */
export const nameFrom = (text: string, longest = 200): string | null => text.trim().slice(0, longest) || null;
