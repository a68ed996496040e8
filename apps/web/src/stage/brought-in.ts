import { Injectable, inject, signal } from '@angular/core';
import type { Mesh, SlotLaying, SlottedMesh } from '@pebble/core';
import { withExtent } from '@pebble/core';
import { DocumentsService } from '../services/documents.service';
import { MeshService } from '../services/mesh.service';
import { NoticesService } from '../services/notices.service';
import type { MeshSource } from '../workers/mesh-protocol';
import { ByKey } from '../ui/latest';

/** Specimens that were brought in, as the stage shows them. */
@Injectable({ providedIn: 'root' })
export class BroughtIn {
  private readonly documents = inject(DocumentsService);
  private readonly meshes = inject(MeshService);
  private readonly notices = inject(NoticesService);
  readonly list = this.documents.list('specimen');
  /** The last one that was asked for; texture coordinates in metres. */
  private readonly ready = signal<{ key: string; mesh: Mesh } | null>(null);
  private readonly asked = new ByKey((error) => this.notices.error(error));
  private readonly slots = signal<{ key: string; made: SlottedMesh } | null>(null);

  private laidOut: { of: Mesh; extentM: number; mesh: Mesh } | null = null;
  /** The same object for the same: much is made of a mesh once. */
  private laid(of: Mesh, extentM: number): Mesh {
    if (this.laidOut?.of !== of || this.laidOut.extentM !== extentM) this.laidOut = { of, extentM, mesh: withExtent(of, extentM) };
    return this.laidOut.mesh;
  }

  /** The specimen with coordinates in extents; null while it is read, or when it was deleted. Called within a computation. */
  mesh(id: string, extentM: number): Mesh | null {
    const body = this.documents.body(id, 'specimen');
    if (!body) return null;
    const source: MeshSource = { model: body.model, level: 0, set: body.uvSet, unitM: body.unitM, up: body.up };
    const key = JSON.stringify(source);
    const ready = this.ready();
    if (ready?.key === key) return this.laid(ready.mesh, extentM);
    const ask = () => this.meshes.run('specimen', { source });
    this.asked.ask('mesh', key, ask, (mesh) => this.ready.set({ key, mesh }));
    return null;
  }

  /** The specimen with each slot laid by itself; null while it is read. Called within a computation. */
  slotted(id: string, lays: Readonly<Record<string, SlotLaying>>): SlottedMesh | null {
    const body = this.documents.body(id, 'specimen');
    if (!body) return null;
    const source: MeshSource = { model: body.model, level: 0, set: body.uvSet, unitM: body.unitM, up: body.up };
    const key = JSON.stringify([source, lays]);
    const ready = this.slots();
    if (ready?.key === key) return ready.made;
    const ask = () => this.meshes.run('slotted', { source, lays });
    this.asked.ask('slots', key, ask, (made) => this.slots.set({ key, made }));
    return null;
  }
}
