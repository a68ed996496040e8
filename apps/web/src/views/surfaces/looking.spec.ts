import { TestBed } from '@angular/core/testing';
import { GENERATORS, recipeOf } from '@pebble/core';
import type { GeneratorName } from '@pebble/core';
import { LightService } from '../../services/light.service';
import { StripView, barLength, sayLength } from './strip-view';
import { variation } from './variations';

describe('the strip', () => {
  it('keeps the place under the pointer while it zooms, and frames whole repetitions from a corner', () => {
    const view = new StripView();
    view.window.set({ x: 1, y: 1, acrossM: 2 });
    const at = { x: 0.4, y: 1.3 };
    const before = (at.x - view.window().x) / view.window().acrossM;
    view.zoom(0.25, at);
    expect(view.window().acrossM).toBeCloseTo(0.5, 12);
    expect((at.x - view.window().x) / view.window().acrossM).toBeCloseTo(before, 12);
    view.frame(1.2, 4);
    expect(view.window()).toEqual({ x: 2.4, y: 0.6, acrossM: 4.8 });
  });
  it('has a bar of 1, 2 or 5 times a power of ten, at most a third of the pane, at least two fifths of that', () => {
    for (let across = 0.002; across < 300; across *= 1.37) {
      const share = barLength(across) / across;
      expect(share).toBeLessThanOrEqual(1 / 3 + 1e-4);
      expect(share).toBeGreaterThan(2 / 15 - 1e-4);
      expect([1, 2, 5]).toContain(Number((barLength(across) / 10 ** Math.floor(Math.log10(barLength(across) * 1.0001))).toFixed(6)));
    }
  });
  it('says lengths as people do', () => {
    expect([0.0032, 0.24, 1.5, 0.6].map(sayLength)).toEqual(['3.2 mm', '24 cm', '1.5 m', '60 cm']);
  });
});

describe('a sheet of variations', () => {
  const names = Object.keys(GENERATORS) as GeneratorName[];
  it('is the same sheet for the same number, with seeds and strengths within bounds', () => {
    for (const name of names) {
      const sheet = Array.from({ length: 50 }, (_, i) => variation(name, 77, i, {}, true));
      expect(sheet).toEqual(Array.from({ length: 50 }, (_, i) => variation(name, 77, i, {}, true)));
      expect(new Set(sheet.map((v) => v.seed)).size).toBe(50);
      for (const { seed, amounts } of sheet) {
        expect(seed).toBeLessThanOrEqual(0xffffff);
        expect(Object.keys(amounts)).toEqual(Object.keys(recipeOf(name).structures));
        for (const v of Object.values(amounts)) expect(v >= 0.3 && v <= 1.7).toBeTrue();
      }
    }
  });
  it('leaves strengths alone when only seeds shall vary', () => {
    expect(variation('river-gravel', 5, 3, { sand: 1.4 }, false).amounts).toEqual({ sand: 1.4 });
  });
});

describe('the light', () => {
  beforeEach(() => localStorage.removeItem('pebble-light'));
  afterEach(() => localStorage.removeItem('pebble-light'));
  it('stays through a reload, and while it is locked nothing changes it', () => {
    const light = TestBed.inject(LightService);
    light.set({ sky: 'noon', exposure: 0.5 });
    light.set({ locked: true });
    light.set({ exposure: 2, turn: 1 });
    expect([light.look().exposure, light.look().turn]).toEqual([0.5, 0]);
    TestBed.tick();
    TestBed.resetTestingModule();
    const again = TestBed.inject(LightService);
    expect(again.look().sky).toBe('noon');
    expect(again.look().locked).toBeTrue();
    again.set({ locked: false });
    again.set({ exposure: 1 });
    expect(again.look().exposure).toBe(1);
  });
  it('is the usual one when what was kept cannot be read', () => {
    localStorage.setItem('pebble-light', '{"sky":"purple"}');
    expect(TestBed.inject(LightService).look().sky).toBe('overcast');
  });
});
