import { provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { makeSpecimen } from '@pebble/core';
import { MeshService } from '../services/mesh.service';
import { NoticesService } from '../services/notices.service';
import { PaintedColours } from './painted-colours';

describe('colours that were painted', () => {
  const [patch, still] = [makeSpecimen('patch', 1), makeSpecimen('copper-still', 1)];
  const make = () => {
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        PaintedColours,
        { provide: MeshService, useValue: {} },
        { provide: NoticesService, useValue: {} },
      ],
    });
    return TestBed.inject(PaintedColours);
  };
  it('wait for the mesh itself: nothing is painted on what stands in for it, nor read from it', () => {
    const painted = make();
    expect(painted.whole()).toBeFalse();
    const entry = { vertices: still.position.length / 3, finer: 0, tiles: {} };
    painted.follow({ mesh: patch, itself: false }, 'patch', entry);
    expect([painted.whole(), painted.mesh() === patch, painted.problem()]).toEqual([false, true, null]);
    painted.follow({ mesh: still, itself: true }, 'still', entry);
    expect([painted.whole(), painted.mesh() === still, painted.problem()]).toEqual([true, true, null]);
    // Painted on another mesh.
    painted.follow({ mesh: patch, itself: true }, 'patch', entry);
    expect(painted.problem()).toContain('vertices');
  });
});
