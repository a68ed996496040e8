import { makeRandom } from '../noise';
import { ROLES } from '../surface';
import { BLOCK_FORMATS, FORMATS, SETTINGS, SETTING_KEYS, TARGETS, runtimeMap, settingsOf, textureBytes } from './index';
import type { MapSettings } from './index';

const usual = settingsOf('baseColor', {}, TARGETS.desktop, 'desktop').values;

describe('memory of a map', () => {
  it('has known sizes to the byte', () => {
    expect(textureBytes(1024, 1024, 'BC7')).toBe(1398128);
    expect(textureBytes(1024, 1024, 'BC4')).toBe(699064);
    expect(textureBytes(5, 3, 'RGBA8')).toBe(4 * (15 + 2 + 1));
    expect(textureBytes(12, 12, 'ASTC_6x6')).toBe(16 * (4 + 1 + 1 + 1));
    expect(textureBytes(256, 256, 'R16', 1)).toBe(2 * ((4 ** 8 - 1) / 3));
  });
  it('is the sum of its levels, whatever is left out, for any size and format', () => {
    const random = makeRandom(7);
    const whole = (lo: number, hi: number) => lo + Math.floor(random() * (hi - lo + 1));
    for (let i = 0; i < 400; i++) {
      const [w, h] = [whole(1, 700), whole(1, 700)];
      const format = FORMATS[whole(0, FORMATS.length - 1)];
      const settings: MapSettings = { ...usual, format, maxSize: whole(1, 800), dropMips: whole(0, 4), mips: random() < 0.7 };
      const made = runtimeMap(w, h, settings);
      const block = BLOCK_FORMATS[format];
      let bytes = 0;
      for (let l = 0; l < made.levels; l++)
        bytes += Math.ceil(Math.max(1, made.width >> l) / block.width) * Math.ceil(Math.max(1, made.height >> l) / block.height) * block.bytes;
      expect(made.bytes).toBe(bytes);
      expect(Math.max(made.width, made.height)).toBeLessThanOrEqual(settings.maxSize);
      expect(made.levels).toBe(settings.mips ? Math.floor(Math.log2(Math.max(made.width, made.height))) + 1 : 1);
      // Nothing is left out without a reason: the level above was twice as large, and too large.
      const side = Math.max(made.width, made.height);
      if (!settings.dropMips && side < Math.max(w, h)) expect(2 * side + 1).toBeGreaterThan(settings.maxSize);
    }
  });
  it('says when BC cannot hold a size, and only then', () => {
    expect(runtimeMap(66, 64, usual).problem).toMatch(/^BC7 takes blocks of 4 texels, and 66 × 64 is no multiple of it\. Resize/);
    expect(runtimeMap(64, 64, usual).problem).toBeNull();
    expect(runtimeMap(66, 64, { ...usual, format: 'ASTC_6x6' }).problem).toBeNull();
  });
});

describe('settings of a map', () => {
  it('come from the nearest that says something', () => {
    const map = { settings: { format: 'RGBA8', wrap: 'clamp' }, overrides: { phone: { format: 'ASTC_8x8', dropMips: 2 } } } as const;
    const phone = settingsOf('baseColor', map, TARGETS.phone, 'phone');
    expect(phone.values).toEqual({ ...usual, format: 'ASTC_8x8', wrap: 'clamp', dropMips: 2, maxSize: 1024 });
    expect(phone.from).toEqual({
      format: 'here',
      dropMips: 'here',
      wrap: 'map',
      maxSize: 'target',
      mips: 'usual',
      streaming: 'usual',
      filter: 'usual',
    });
    expect(settingsOf('baseColor', map, TARGETS.desktop, 'desktop').values.format).toBe('RGBA8');
    expect(settingsOf('height', {}, TARGETS.desktop, 'desktop').values.format).toBe('BC4');
  });
  it('never ask for more than the target holds', () => {
    expect(settingsOf('normal', { settings: { maxSize: 8192 } }, TARGETS.phone, 'phone').values.maxSize).toBe(1024);
  });
  it('are all described, and every target knows every role', () => {
    expect([...SETTING_KEYS].sort()).toEqual(Object.keys(usual).sort() as typeof SETTING_KEYS);
    for (const key of SETTING_KEYS) expect(SETTINGS[key].choices as readonly unknown[]).toContain(usual[key]);
    for (const target of Object.values(TARGETS)) for (const role of ROLES) expect(BLOCK_FORMATS[target.formats[role]]).toBeDefined();
  });
});
