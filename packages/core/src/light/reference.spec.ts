import { NO_KEY, REFERENCE_BALLS, REFERENCE_PLACES, REFERENCE_VIEW, SKIES, computeLight, integrateBall, normalAt, shadePoint } from '../index';
import type { SkyName, Vec3 } from '../index';
import { STORED_BALLS } from './reference-balls';

const stored = STORED_BALLS as Record<SkyName, number[][]>;

/** Most that the mean difference of a ball may be of its mean radiance. */
const WITHIN = 0.02;

describe('the reference balls', () => {
  for (const name of Object.keys(SKIES) as SkyName[]) {
    it(`${name}: are what brute-force integration gives`, () => {
      for (const k of [0, 5, 11])
        for (const i of [0, 18, 30]) {
          const again = integrateBall(SKIES[name].sky, REFERENCE_BALLS[k], REFERENCE_PLACES[i], 4096);
          again.forEach((v, c) => expect(Math.abs(v - stored[name][k][i * 3 + c])).toBeLessThan(0.01 * Math.max(0.2, v)));
        }
    });
    it(`${name}: are matched by harmonics, map and table`, () => {
      const light = computeLight(SKIES[name]);
      const out: Vec3 = [0, 0, 0];
      REFERENCE_BALLS.forEach(({ roughness, metallic, albedo }, k) => {
        let [difference, sum] = [0, 0];
        REFERENCE_PLACES.forEach((place, i) => {
          shadePoint(light, normalAt(place), REFERENCE_VIEW, { albedo: [albedo, albedo, albedo], roughness, metallic, open: 1 }, NO_KEY, 0, out);
          out.forEach((v, c) => {
            difference += Math.abs(v - stored[name][k][i * 3 + c]);
            sum += stored[name][k][i * 3 + c];
          });
        });
        expect(difference / sum)
          .withContext(`roughness ${roughness}, metallic ${metallic}`)
          .toBeLessThan(WITHIN);
      });
    });
  }
});
