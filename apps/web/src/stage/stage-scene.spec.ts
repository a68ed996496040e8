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
            form: nothing,
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
});
