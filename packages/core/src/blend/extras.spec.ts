import type { BlendDocument, ExtraRole, Image, MasterDocument, MapSet, MaterialRole, Role, Sources } from '../index';
import {
  DEFAULT_WATER,
  EXTRA_ROLES,
  blendMaterial,
  evaluateMaterial,
  flatDomain,
  givenRoles,
  lowerMaster,
  makeBlend,
  makeCue,
  makeImage,
  makeLayer,
  makeMaster,
  makeMaterialMaps,
  makeOperation,
  linkTo,
  makeStack,
  materialOf,
  materialPrice,
  materialReads,
  sourceOfPicture,
  sourcesOfMaps,
  srgbToLinear,
  valueOf,
  linearToSrgb,
} from '../index';

/** Stored values, 0–255. */
const STORED: Record<string, Partial<Record<Role, readonly number[]>>> = {
  lamp: { baseColor: [200, 100, 50], emissive: [255, 128, 0], opacity: [51], cavity: [102] },
  jelly: { baseColor: [40, 80, 120], emissive: [0, 64, 200], transmission: [204], specular: [255], clearcoat: [153], subsurface: [76] },
  slate: { baseColor: [60, 60, 60] },
};
const surfaceOf = (id: string) => ({ sizeM: 1, reliefM: 0.05, mid: 0.5, roles: new Set(Object.keys(STORED[id]) as Role[]) });
const surfaces = { lamp: surfaceOf('lamp'), jelly: surfaceOf('jelly'), slate: surfaceOf('slate') };
const SIDE = 4;
const even = (value: readonly number[], colourSpace: Image['colourSpace']): Image =>
  makeImage({
    width: SIDE,
    height: SIDE,
    channels: value.length,
    colourSpace,
    data: Uint8Array.from({ length: SIDE * SIDE * value.length }, (_, i) => value[i % value.length]),
  });
const mapsOf = (id: string): MapSet =>
  Object.fromEntries(Object.entries(STORED[id]).map(([role, value]) => [role, even(value, value.length === 3 ? 'srgb' : 'data')]));

/** What a blend gives of roles at its middle, as maps store it. */
function given(blend: BlendDocument, roles: readonly MaterialRole[], blends: Record<string, BlendDocument> = {}) {
  const material = blendMaterial(makeStack(blend, surfaces, blends));
  const { slots } = material;
  const sources: Sources = (slot, channel) => {
    const mask = slots.masks[slot];
    if (channel === 'mask' && mask.kind === 'map') return sourceOfPicture([even(STORED[mask.surface][mask.role] as readonly number[], 'data')]);
    return sourcesOfMaps(mapsOf(slots.surfaces[slot]))(channel) as ReturnType<Sources>;
  };
  const into = makeMaterialMaps(SIDE, SIDE, roles);
  evaluateMaterial(material, { domain: flatDomain(SIDE, SIDE, material.extentM), sources, into });
  return { material, of: (role: MaterialRole) => [...(into[role] as Image).data.subarray(0, (into[role] as Image).channels)] };
}
/** One over the other by one half: soft all the way, a coverage of one half is a plain mix. */
const half = (over: string, change: Parameters<typeof makeLayer>[3] = {}) =>
  makeLayer(over, over, 2, {
    coverage: { c: makeCue('constant', { value: 0.5 }) },
    ...change,
    seam: { ...makeLayer(over, over, 2).seam, soft: 1, contact: 0 },
  });
const two = (below: string, above: string, change?: Parameters<typeof makeLayer>[3]) =>
  makeBlend('Two', { extentM: 1, layers: { a: makeLayer(below, below, 1), b: half(above, change) } });
/** Mean of two stored colours in linear light, stored again. */
const meanColour = (a: readonly number[], b: readonly number[]) =>
  a.map((v, c) => Math.round(255 * linearToSrgb((srgbToLinear(v / 255) + srgbToLinear(b[c] / 255)) / 2)));
const close = (found: readonly number[], wanted: readonly number[], what: string) =>
  found.forEach((v, c) =>
    expect(Math.abs(v - wanted[c]))
      .withContext(`${what} ${c}: ${v} for ${wanted[c]}`)
      .toBeLessThanOrEqual(1),
  );

describe('roles beside the usual six', () => {
  it('travel through layers: mixed by weight, the neutral of a role standing where a layer has none', () => {
    const { of, material } = given(two('lamp', 'jelly'), EXTRA_ROLES);
    expect(givenRoles(material.near).slice(6)).toEqual([...EXTRA_ROLES]);
    close(of('emissive'), meanColour([255, 128, 0], [0, 64, 200]), 'emissive');
    close(of('opacity'), [(51 + 255) / 2], 'opacity');
    close(of('transmission'), [204 / 2], 'transmission');
    close(of('subsurface'), [76 / 2], 'subsurface');
    close(of('specular'), [(127.5 + 255) / 2], 'specular');
    close(of('clearcoat'), [153 / 2], 'clear coat');
    close(of('cavity'), [(102 + 255) / 2], 'cavity');
  });
  it('are left as they are below where a layer does not touch them, and are not there where nobody brings them', () => {
    const kept = { emissive: true, transmission: true, specular: true } as const;
    const { of, material } = given(two('lamp', 'jelly', { untouched: kept }), ['emissive', 'transmission', 'specular', 'clearcoat']);
    expect(of('emissive')).toEqual([255, 128, 0]);
    expect(givenRoles(material.near)).not.toContain('transmission');
    expect(givenRoles(material.near)).not.toContain('specular');
    expect(of('transmission')).toEqual([0]);
    expect(of('specular')).toEqual([128]);
    close(of('clearcoat'), [153 / 2], 'clear coat');
    expect(givenRoles(given(two('slate', 'slate'), []).material.near).length).toBe(6);
  });
  it('come out of a blend that serves as a layer, and stay under a film of water as light and cover do', () => {
    const inner = makeBlend('Inner', { extentM: 1, layers: { a: makeLayer('lamp', 'lamp', 1) } });
    const outer = makeBlend('Outer', { extentM: 1, layers: { a: makeLayer({ kind: 'blend', blend: 'inner' }, 'inner', 1) } });
    const nested = given(outer, ['emissive', 'opacity', 'cavity'], { inner });
    expect([nested.of('emissive'), nested.of('opacity'), nested.of('cavity')]).toEqual([[255, 128, 0], [51], [102]]);
    const flooded = makeBlend('Flooded', {
      extentM: 1,
      layers: { a: makeLayer('lamp', 'lamp', 1), w: makeLayer({ kind: 'water', ...DEFAULT_WATER, levelM: 1 }, 'Water', 2, { coverage: {} }) },
    });
    const under = given(flooded, ['emissive', 'opacity', 'cavity']);
    expect([under.of('emissive'), under.of('opacity'), under.of('cavity')]).toEqual([[255, 128, 0], [51], [255]]);
  });
  it('cost nothing where nobody reads them, and what they take where somebody does', () => {
    const price = (below: string, above: string) => materialPrice(given(two(below, above), []).material);
    // Emissive and two pictures of the one, emissive and four of the other.
    expect(price('lamp', 'jelly').samples - price('slate', 'slate').samples).toBe(3 + 5);
    const { material } = given(two('lamp', 'jelly'), []);
    const reads = materialReads(material, ['baseColor', 'roughness']);
    expect([...reads.masks, ...[...reads.roles.values()].flatMap((roles) => [...roles])].sort()).toEqual(['baseColor', 'baseColor']);
    expect([...materialReads(material, ['cavity']).masks].length).toBe(1);
  });
  it('make another program only where the roles are others', () => {
    const key = (above: string) => given(two('lamp', above), []).material.key;
    expect(key('jelly')).toBe(key('jelly'));
    expect(key('jelly')).not.toBe(key('slate'));
  });
  it('are cut out by opacity unless the blend says otherwise', () => {
    const drawn = (over: Partial<BlendDocument>) => given({ ...two('lamp', 'slate'), ...over }, []).material.drawn;
    expect(drawn({})).toEqual({ as: 'cut-out', cut: 0.5 });
    expect(drawn({ drawn: { as: 'glass', cut: 0.5 } })?.as).toBe('glass');
    expect(given(two('slate', 'slate'), []).material.drawn?.as).toBe('solid');
  });
  it('go through masters: with a surface, and an output of their own in their place', () => {
    const made = (outputs: MasterDocument['outputs']) => {
      const master = makeMaster('M', { operations: { s: makeOperation('surface', 1, { settings: { surface: 'lamp' } }) }, outputs });
      const context = { surfaces, blends: {}, masters: {} };
      return materialOf('k', lowerMaster(master, context), master, context);
    };
    const names = (m: ReturnType<typeof made>): ExtraRole[] => EXTRA_ROLES.filter((role) => givenRoles(m.near).includes(role));
    expect(names(made({ surface: linkTo('s') }))).toEqual(['emissive', 'opacity', 'cavity']);
    expect(names(made({ baseColor: linkTo('s', 'baseColor') }))).toEqual([]);
    expect(names(made({ surface: linkTo('s'), clearcoat: valueOf(0.25) }))).toEqual(['emissive', 'opacity', 'clearcoat', 'cavity']);
  });
});
