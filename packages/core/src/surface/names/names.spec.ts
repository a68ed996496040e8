import type { Role } from '../../index';
import { makeRandom, readName, readNames, surfaceStems, tilesAmong } from '../../index';

/** How somebody names the maps of a set: words of the surface, and the role. */
type Habit = (words: readonly string[], role: Role) => string;
const join = (words: readonly string[], by: string) => words.join(by);
const pascal = (words: readonly string[]) => words.map((w) => w[0].toUpperCase() + w.slice(1)).join('');
const camel = (words: readonly string[]) => pascal(words).replace(/^./, (c) => c.toLowerCase());
const SPELT: Partial<Record<Role, readonly string[]>> = {
  baseColor: ['BaseColor', 'albedo', 'diffuse', 'col', 'D'],
  normal: ['Normal', 'nrm', 'normal', 'nor', 'N'],
  roughness: ['Roughness', 'rough', 'roughness', 'rgh', 'R'],
  occlusion: ['AmbientOcclusion', 'ao', 'occlusion', 'occ', 'AO'],
  metallic: ['Metallic', 'metal', 'metalness', 'met', 'M'],
  height: ['Height', 'disp', 'height', 'hgt', 'H'],
};
const word = (role: Role, style: number) => (SPELT[role] as readonly string[])[style];
const tag = (role: Role): number => ['baseColor', 'normal', 'roughness', 'occlusion', 'metallic', 'height'].indexOf(role);

/** Those that reading was made with. */
const TUNED: Habit[] = [
  (w, r) => `${join(w, '_')}_${word(r, 1)}.png`,
  (w, r) => `${pascal(w)}_${word(r, 0)}.png`,
  (w, r) => `${join(w, ' ')} ${word(r, 2)}.png`,
  (w, r) => `T_${pascal(w)}_${word(r, 4)}.png`,
  (w, r) => `${join(w, '-')}_4K_${word(r, 2).toUpperCase()}.png`,
  (w, r) => `${pascal(w)}_${word(r, 2).toUpperCase()}_4K_METALNESS.jpg`,
  (w, r) => `${word(r, 2)}_${join(w, '_')}.png`,
  (w, r) => `${join(w, '_')}_${word(r, 2)} (1).png`,
  (w, r) => `${join(w, '_')}_${word(r, 3)}_v2.png`,
  (w, r) => `${join(w, '_')}_${word(r, 1)}_raw.exr`,
];
/** Those that it was not made with. */
const APART: Habit[] = [
  (w, r) => `${join(w, '.')}.${word(r, 2)}.tga`,
  (w, r) => `${join(w, '-')}-${word(r, 3)}-2k.webp`,
  (w, r) => `${camel(w)}${word(r, 0)}.png`,
  (w, r) => `${join(w, '_').toUpperCase()}_${word(r, 3).toUpperCase()}.TGA`,
  (w, r) => `${pascal(w)}_${word(r, 0)}_1024x1024.png`,
  (w, r) => `${pascal(w)}_2048_${word(r, 0)}.png`,
  (w, r) => `${join(w, '_')}_${word(r, 2)}_16bit.png`,
  (w, r) => `${join(w, '_')}_${word(r, 2)}.1001.png`,
  (w, r) => `textures/set one/${join(w, '_')}/${join(w, '_')}_${word(r, 1)}.png`,
  (w, r) => `[${word(r, 2)}] ${join(w, ' ')}.png`,
  (w, r) => `${join(w, ' ')} (${word(r, 2)}).jpg`,
  (w, r) => `${word(r, 0)}-${pascal(w)}.png`,
  (w, r) => `${join(w, '_')}_${word(r, 2)}_map.png`,
  (w, r) => `${pascal(w)}${word(r, 0)}Map.png`,
  (w, r) => `${join(w, '_')}_${word(r, 2)}_final.png`,
  (w, r) => `${join(w, '_')}_${word(r, 2)}_seamless_8k.png`,
  (w, r) => `M_${join(w, '_')}__${word(r, 2)}.png`,
  (w, r) => `${join(w, '_')}_${word(r, 2)} - Copy.png`,
  (w, r) => `${join(w, '_')}_${['1K', '2K', '2K', '2K', '1K', '4K'][tag(r)]}_${word(r, 1)}.png`,
  (w, r) => `${join(w, tag(r) % 2 ? '_' : '-')}_${word(r, 1)}.png`,
  (w, r) => `${tag(r) % 2 ? join(w, '_') : join(w, '_').toUpperCase()}_${word(r, 1)}.png`,
  (w, r) => `${join(w, '_')}_u1_v1_${word(r, 2)}.png`,
  (w, r) => `${join(w, '_')}_lod0_${word(r, 2)}.png`,
  (w, r) => `${join(w, '_')}_${word(r, 4).toLowerCase()}.png`,
];
const SURFACES = [
  ['old', 'wall'],
  ['terrace', 'stone', '02'],
  ['rusty', 'metal'],
  ['rough', 'plaster'],
  ['moss'],
  ['bark', '7', 'wet'],
  ['colour', 'chips'],
];
const ROLES = Object.keys(SPELT) as Role[];

/** What share of files is read wrong without a question, and which habits fall apart into several surfaces. */
function judge(habits: readonly Habit[]) {
  const random = makeRandom(11);
  let [wrong, files] = [0, 0];
  const apart: string[] = [];
  for (const habit of habits)
    for (const words of SURFACES) {
      const roles = ROLES.filter(() => random() < 0.8);
      if (roles.length < 2) continue;
      const names = roles.map((r) => habit(words, r));
      if (new Set(surfaceStems(names)).size > 1) apart.push(names[0]);
      readNames(names).forEach((r, i) => {
        files++;
        const perhaps: readonly Role[] = r.perhaps.length > 1 ? r.perhaps : r.role ? [r.role] : [];
        if (r.role ? r.role !== roles[i] : r.order !== null || (perhaps.length > 0 && !perhaps.includes(roles[i]))) wrong++;
      });
    }
  return { wrong: wrong / files, apart, files };
}

describe('habits of naming', () => {
  it('that reading was made with keep their sets together and are read right', () => {
    const { wrong, apart } = judge(TUNED);
    expect(apart).toEqual([]);
    expect(wrong).toBeLessThanOrEqual(0.01);
  });
  it('of others do so too: at most 1 in 100 wrong without a question', () => {
    const { wrong, apart, files } = judge(APART);
    expect(files).toBeGreaterThan(400);
    expect(apart).toEqual([]);
    expect(wrong).toBeLessThanOrEqual(0.01);
  });
  const order = (name: string) =>
    readName(name)
      .order?.map((roles) => roles.join('|'))
      .join(' ');
  it('spell the channels of packed maps out or by letters, wherever sizes and tiles stand', () => {
    for (const name of ['wall_ORM.png', 'wall_orm_4k.png', 'wall_ORM.1001.png', 'ORM.1001.png', 'WallORM_2K.tga', 'wall_o_r_m.png', 'ORM_wall.png'])
      expect(order(name)).withContext(name).toBe('occlusion roughness metallic');
    for (const name of [
      'wall_occlusion_roughness_metallic.png',
      'WallOcclusionRoughnessMetallic.png',
      'wall_aoroughmetal.png',
      'wall_AO_Rough_Metal_v3.png',
    ])
      expect(order(name)).withContext(name).toBe('occlusion roughness metallic');
    expect(order('wall_MRAO.png')).toBe('metallic roughness occlusion');
    expect(order('wall_ORMH.png')).toBe('occlusion roughness metallic height');
    expect(order('wall_rough_cavity_height.png')).toBe('roughness cavity height');
    expect(order('wall_HeightCurvatureAO.png')).toBe('height curvature occlusion');
    expect(order('wall_ROS.png')).toBe('roughness occlusion specular|gloss');
    for (const name of ['hard_moss.png', 'gram.png', 'wall_road.png', 'wall_metal_rough.png', 'rusty_metal_roughness.png'])
      expect(order(name)).withContext(name).toBeUndefined();
  });
  it('say what alpha holds behind a colour or a normal, and leave both out of the stem', () => {
    for (const [name, stem, role, alpha] of [
      ['wall_basecolor_roughness.png', 'wall', 'baseColor', 'roughness'],
      ['WallBaseColorOpacity.tga', 'Wall', 'baseColor', 'opacity'],
      ['wall_normal_metallic_2k.png', 'wall', 'normal', 'metallic'],
      ['leaf_color_alpha.png', 'leaf', 'baseColor', 'opacity'],
      ['wall_diffuse_smoothness.1001.tga', 'wall', 'baseColor', 'gloss'],
    ] as const) {
      const read = readName(name);
      expect([read.stem, read.role, read.alpha]).withContext(name).toEqual([stem, role, alpha]);
    }
    for (const name of ['wall_color_rough.png', 'wall_normal.png', 'wall_roughness_metallic.png', 'base_metal.png', 'normal_stone_height.png'])
      expect(readName(name).alpha).withContext(name).toBeNull();
  });
  it('say of a single letter what it may mean, and of sizes, versions and copies nothing', () => {
    expect(readName('wall_d.png').perhaps).toEqual(['baseColor', 'height']);
    expect(readName('wall_s.png').perhaps).toEqual(['specular', 'gloss']);
    for (const [name, role] of [
      ['wall_bump.png', 'height'],
      ['wall_glossmap.png', 'gloss'],
      ['height_wall.png', 'height'],
      ['Wall_4K_NORMAL.png', 'normal'],
      ['Wall_ROUGHNESS_4K_METALNESS.png', 'roughness'],
    ] as const)
      expect(readName(name).role).withContext(name).toBe(role);
    expect(readName('wall_raw.png').role).toBeNull();
  });
  it('keep two files for one role apart by what is left of their names, and rows of things too', () => {
    expect(surfaceStems(['wall_n.png', 'wall_r.png', 'wall_n (1).png'])).toEqual(['wall', 'wall', 'wall_copy1']);
    expect(surfaceStems(['wall_1k_n.png', 'wall_4k_n.png', 'wall_4k_r.png'])).toEqual(['wall_1k', 'wall_4k', 'wall_4k']);
    expect(surfaceStems(['wall_normal1.png', 'wall_rough1.png', 'wall_normal2.png', 'wall_rough2.png'])).toEqual([
      'wall_1',
      'wall_1',
      'wall_2',
      'wall_2',
    ]);
    expect(new Set(surfaceStems(['rock_a.png', 'rock_b.png', 'rock_c.png'])).size).toBe(3);
    expect(surfaceStems(['wall_d.png', 'wall_s.png', 'wall_n.png'])).toEqual(['wall', 'wall', 'wall']);
  });
  it('are read as one set where all end alike and begin with the role', () => {
    const names = ['normal_metal.png', 'rough_metal.png', 'height_metal.png'];
    expect(readNames(names).map((r) => r.role)).toEqual(['normal', 'roughness', 'height']);
    expect(new Set(surfaceStems(names))).toEqual(new Set(['metal']));
  });
  it('number tiles where two or more come together, one in the first row; a number alone may be a size', () => {
    expect([...tilesAmong(['wall_basecolor.1001.png', 'wall_normal_1002.tif', 'Wall_1012_Roughness.png'])]).toEqual([1001, 1002, 1012]);
    for (const files of [['wall_1024.png'], ['wall_1024.png', 'wall_1080.png'], ['wall_1001.png'], ['a_1000.png', 'b_2001.png', 'v1001.png']])
      expect(tilesAmong(files).size).withContext(files.join()).toBe(0);
    expect(surfaceStems(['wall_basecolor.1001.png', 'wall_basecolor.1002.png', 'wall_nrm.1001.png'])).toEqual([
      'wall_1001',
      'wall_1002',
      'wall_1001',
    ]);
  });
});
