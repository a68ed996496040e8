import { provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { LightService } from '../services/light.service';
import { Accounts } from './accounts';
import { Neighbours } from './neighbours';
import { PaintedColours } from './painted-colours';
import { StagePixels } from './stage-pixels';
import { StageScene } from './stage-scene';
import { StageSource } from './stage-source';
import { StageSpecimen } from './stage-specimen';
import { TerrainDetails } from './terrain-detail';

const box = (side: number) => ({ lo: [0, 0, 0], hi: [side, side, side] });

describe('how one looks at a specimen', () => {
  const make = () => {
    const bounds = signal(box(1));
    const nothing = () => null;
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        StageScene,
        LightService,
        {
          provide: StageSource,
          useValue: {
            program: nothing,
            shown: nothing,
            values: () => ({}),
            parallax: () => false,
            material: nothing,
            sources: nothing,
            programs: {},
          },
        },
        {
          provide: StageSpecimen,
          useValue: {
            bounds,
            vertices: signal({ count: 8, spacingM: 1 }),
            ownSpans: nothing,
            placeText: () => '',
            form: () => ({ position: Float32Array.from([...bounds().lo, ...bounds().hi]) }),
            ground: nothing,
            mesh: nothing,
            ownVertices: nothing,
            terrain: nothing,
          },
        },
        { provide: PaintedColours, useValue: { colours: nothing, own: null } },
        { provide: StagePixels, useValue: { again: nothing } },
        { provide: Neighbours, useValue: { shown: () => [] } },
        { provide: Accounts, useValue: { stage: signal(null) } },
        { provide: TerrainDetails, useValue: { shown: nothing, end: nothing } },
      ],
    });
    const scene = TestBed.inject(StageScene);
    spyOn(TestBed.inject(LightService), 'data').and.resolveTo(undefined as never);
    scene.size.set({ width: 800, height: 500 });
    TestBed.tick();
    return { scene, bounds };
  };

  it('makes room for somebody beside it, and is as it was afterwards', () => {
    const { scene } = make();
    scene.dragBy(40, 10, false);
    const turned = scene.eye();
    scene.figure.set(true);
    TestBed.tick();
    expect(scene.eye().distance).toBeGreaterThan(turned.distance);
    scene.figure.set(false);
    TestBed.tick();
    expect(scene.eye()).toEqual(turned);
    // Whoever moved meanwhile stays there.
    scene.figure.set(true);
    TestBed.tick();
    scene.dragBy(-30, 0, false);
    const moved = scene.eye();
    scene.figure.set(false);
    TestBed.tick();
    expect(scene.eye()).toEqual(moved);
  });
  it('of another specimen that came meanwhile is framed by itself', () => {
    const { scene, bounds } = make();
    scene.figure.set(true);
    TestBed.tick();
    bounds.set(box(30));
    TestBed.tick();
    scene.figure.set(false);
    TestBed.tick();
    const then = scene.eye();
    scene.reframe();
    expect(scene.eye()).toEqual(then);
    expect(then.distance).toBeGreaterThan(30);
  });
  it('goes nearer by the wheel down to what a walker sees of a terrain, and never jumps', () => {
    const { scene, bounds } = make();
    for (const [side, least] of [
      [1, 0.08 * Math.sqrt(3)],
      [400, 0.004 * 400 * Math.sqrt(3)],
    ]) {
      bounds.set(box(side));
      TestBed.tick();
      for (let before = scene.eye().distance, k = 0; k < 80; k++) {
        scene.wheel(new WheelEvent('wheel', { deltaY: -120, cancelable: true }));
        const now = scene.eye().distance;
        expect(now).toBeLessThanOrEqual(before);
        expect(now).toBeGreaterThan(before * 0.85);
        before = now;
      }
      expect(scene.eye().distance).toBeCloseTo(least, 6);
      // One step away from there is one step.
      scene.wheel(new WheelEvent('wheel', { deltaY: 100, cancelable: true }));
      expect(scene.eye().distance).toBeCloseTo(least * Math.exp(0.1), 6);
    }
  });
  it('keeps the place under the pointer where it is while the flat comes nearer', () => {
    const { scene } = make();
    const pane = document.createElement('div');
    spyOn(pane, 'getBoundingClientRect').and.returnValue(new DOMRect(100, 50, 300, 500));
    const event = (deltaY: number) => {
      const e = new WheelEvent('wheel', { deltaY, clientX: 340, clientY: 150, cancelable: true });
      Object.defineProperty(e, 'currentTarget', { value: pane });
      return e;
    };
    const before = scene.flatPlace(event(0));
    for (const by of [-400, -250, 130]) scene.flatWheel(event(by));
    const after = scene.flatPlace(event(0));
    expect(after[0]).toBeCloseTo(before[0], 9);
    expect(after[1]).toBeCloseTo(before[1], 9);
    expect(scene.flat().span).toBeCloseTo(1.06 * Math.exp(-0.52), 9);
  });
});
