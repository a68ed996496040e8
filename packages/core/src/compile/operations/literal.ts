/** A float literal that GLSL reads back as the same number. */
export function literal(v: number): string {
  const text = String(Math.fround(v));
  return /[.e]/.test(text) ? text : `${text}.0`;
}
