import { srgbToLinear } from './srgb';

/** CIE L*a*b* of linear-light sRGB, white D65. Source: CIE 15:2004; IEC 61966-2-1 for the primaries. */
export function labOf(r: number, g: number, b: number): [number, number, number] {
  const f = (t: number) => (t > 216 / 24389 ? Math.cbrt(t) : ((24389 / 27) * t + 16) / 116);
  const x = f((0.4123908 * r + 0.35758434 * g + 0.18048079 * b) / 0.95045593);
  const y = f(0.21263901 * r + 0.71516868 * g + 0.07219232 * b);
  const z = f((0.01933082 * r + 0.11919478 * g + 0.95053215 * b) / 1.08905775);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

const RAD = Math.PI / 180;

/**
 * Difference of two colours in L*a*b*: 1 is about the least that is seen. Source: ΔE00, CIE 142-2001, as written out by
 * Sharma, Wu & Dalal 2005.
 */
export function deltaE2000([l1, a1, b1]: readonly number[], [l2, a2, b2]: readonly number[]): number {
  const mean7 = ((Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2) ** 7;
  const g = 0.5 * (1 - Math.sqrt(mean7 / (mean7 + 25 ** 7)));
  const p1 = a1 * (1 + g);
  const p2 = a2 * (1 + g);
  const c1 = Math.hypot(p1, b1);
  const c2 = Math.hypot(p2, b2);
  const hue = (a: number, b: number) => (a === 0 && b === 0 ? 0 : (Math.atan2(b, a) / RAD + 360) % 360);
  const h1 = hue(p1, b1);
  const h2 = hue(p2, b2);
  const grey = c1 * c2 === 0;
  const turn = grey ? 0 : ((h2 - h1 + 540) % 360) - 180;
  const dH = 2 * Math.sqrt(c1 * c2) * Math.sin((turn / 2) * RAD);
  const meanL = (l1 + l2) / 2;
  const meanC = (c1 + c2) / 2;
  const meanH = grey ? h1 + h2 : Math.abs(h1 - h2) <= 180 ? (h1 + h2) / 2 : (h1 + h2 + (h1 + h2 < 360 ? 360 : -360)) / 2;
  const t =
    1 -
    0.17 * Math.cos((meanH - 30) * RAD) +
    0.24 * Math.cos(2 * meanH * RAD) +
    0.32 * Math.cos((3 * meanH + 6) * RAD) -
    0.2 * Math.cos((4 * meanH - 63) * RAD);
  const sL = 1 + (0.015 * (meanL - 50) ** 2) / Math.sqrt(20 + (meanL - 50) ** 2);
  const sC = 1 + 0.045 * meanC;
  const sH = 1 + 0.015 * meanC * t;
  const c7 = meanC ** 7;
  const rT = -2 * Math.sqrt(c7 / (c7 + 25 ** 7)) * Math.sin(60 * Math.exp(-(((meanH - 275) / 25) ** 2)) * RAD);
  const [x, y, z] = [(l2 - l1) / sL, (c2 - c1) / sC, dH / sH];
  return Math.sqrt(x * x + y * y + z * z + rT * y * z);
}

/** L*a*b* of a stored sRGB colour, 0–255. */
export const labOfBytes = (r: number, g: number, b: number): [number, number, number] =>
  labOf(srgbToLinear(r / 255), srgbToLinear(g / 255), srgbToLinear(b / 255));
