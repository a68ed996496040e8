import { Injectable, inject, signal } from '@angular/core';
import type { GraphClip, GraphPort, MasterDocument, MasterOperation, Renamed, Source } from '@pebble/core';
import {
  addStep,
  appendStep,
  caughtBetween,
  clipOf,
  clipText,
  endsOf,
  feed,
  firstOutput,
  frameOf,
  givesSurface,
  grouped,
  identifierOf,
  insertStep,
  linkTo,
  namesTaken,
  nextOrder,
  publish,
  putClip,
  readClip,
  removeFrame,
  removeOperations,
  rename,
  replaceStep,
  sourceAt,
  stepKind,
  toParameter,
  toggleColour,
  uniqueName,
  wouldCircle,
} from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { NoticesService } from '../../services/notices.service';
import { newKey } from '../../ui/new';
import { nameOf } from './looks';
import { MasterModel } from './master-model';
import { Selection } from './selection';

/** Where the search puts what is chosen in it. */
export type Aim = { kind: 'feed'; at: GraphPort } | { kind: 'after'; from: GraphPort } | { kind: 'replace'; id: string } | { kind: 'free' };

/** What people do to the open graph, each a step that can be taken back. */
@Injectable()
export class Acts {
  private readonly model = inject(MasterModel);
  private readonly selection = inject(Selection);
  private readonly documents = inject(DocumentsService);
  private readonly notices = inject(NoticesService);
  /** The search that is open, and what for. */
  readonly aim = signal<Aim | null>(null);
  /** Names that changed with the last copy, until they are looked at. */
  readonly renamed = signal<readonly Renamed[]>([]);

  /** Opens the search for what fits where the selection stands. */
  search(): void {
    const [at, id] = [this.selection.at(), this.selection.id()];
    this.aim.set(at ? { kind: 'feed', at } : id ? { kind: 'after', from: { operation: id, port: this.selection.port() } } : { kind: 'free' });
  }

  /** Puts a step where the search was opened for. */
  put(step: string, aim: Aim, given: { settings?: MasterOperation['settings']; name?: string } = {}): void {
    const key = newKey();
    const context = this.model.context();
    const { settings = {}, name = '' } = given;
    const called = name || step;
    const label = `Add ${called}`;
    if (aim.kind === 'replace') {
      this.model.edit(`Replace by ${called}`, (d) => replaceStep(d, aim.id, step, context, settings));
      return;
    }
    this.model.edit(label, (d) => {
      if (aim.kind === 'feed') insertStep(d, aim.at, step, key, context, settings);
      else if (aim.kind === 'after') appendStep(d, aim.from, step, key, context, settings);
      else addStep(d, step, key, { settings });
      if (name) rename(d, 'operations', key, name);
      this.afterAdding(d, key);
    });
    this.selection.choose(key);
  }
  /** A step that cannot do without something of the project takes the likeliest. */
  private afterAdding(d: MasterDocument, key: string): void {
    const op = d.operations[key];
    if (op.step !== 'switch') return;
    const id = newKey();
    d.switches[id] = { order: nextOrder(d.switches), name: uniqueName('switch', namesTaken(d, 'switches')), group: null, help: '', on: true };
    op.settings['switch'] = id;
  }

  /** Feeds a place from a source, unless it would go in a circle or cannot fit. */
  link(at: GraphPort, source: Source, called: string): boolean {
    const master = this.model.master();
    if (!master) return false;
    if (source.from === 'link' && wouldCircle(master, source.operation, at.operation)) {
      this.notices.say(`${nameOf(master, source.operation)} hangs on ${nameOf(master, at.operation)} itself: linked so it would feed itself`);
      return false;
    }
    const surface = givesSurface(master, source, this.model.context());
    const op = master.operations[at.operation];
    const type = op
      ? stepKind(op.step)
          .inputs(op, this.model.context())
          .find((i) => i.name === at.port)?.type
      : at.port === 'surface'
        ? 'surface'
        : 'any';
    if ((type === 'surface') !== surface && type !== 'either') {
      this.notices.say(
        surface
          ? `${at.port} takes numbers, and a surface was linked. Link one of its channels`
          : `${at.port} takes a surface. Make one first (makesurface)`,
      );
      return false;
    }
    this.model.edit(`Link ${called} to ${at.port}`, (d) => feed(d, at, source));
    return true;
  }
  unlink(at: GraphPort): void {
    this.model.edit(`Take the link from ${at.port}`, (d) => feed(d, at, null));
  }

  remove(): void {
    const [master, ids, output] = [this.model.master(), this.selection.ids(), this.selection.output()];
    if (!master) return;
    if (output) {
      if (master.outputs[output]) this.unlink({ operation: '', port: output });
      return;
    }
    if (!ids.length) return;
    const at = this.selection.at();
    this.model.edit(ids.length > 1 ? `Remove ${ids.length} operations` : `Remove ${nameOf(master, ids[0])}`, (d) =>
      removeOperations(d, ids, this.model.context()),
    );
    const source = at && sourceAt(master, at);
    this.selection.choose(source?.from === 'link' && !ids.includes(source.operation) ? source.operation : null);
  }

  bypass(): void {
    const [master, ids] = [this.model.master(), this.selection.ids()];
    if (!master || !ids.length) return;
    const on = !master.operations[ids[0]].bypassed;
    this.model.edit(`${on ? 'Bypass' : 'Use'} ${nameOf(master, ids[0])}`, (d) => ids.forEach((id) => (d.operations[id].bypassed = on)));
  }

  replace(): void {
    const id = this.selection.id();
    if (id) this.aim.set({ kind: 'replace', id });
  }

  parameter(at: GraphPort | null = this.selection.at()): void {
    if (!at?.operation) return;
    let name: string | null = null;
    this.model.draft((d) => (name = toParameter(d, at, newKey(), { group: this.groupOf(d, at.operation) }, this.model.context())));
    this.model.commit(name ? `Parameter ${String(name)}` : 'Make a parameter');
  }
  /** A number becomes a colour, or a colour a number. */
  colour(at: GraphPort | null = this.selection.at()): void {
    if (!at?.operation) return;
    this.model.draft((d) => void toggleColour(d, at));
    this.model.commit(`Colour of ${at.port}`);
  }
  /** Parameters of a frame go into a group of its name. */
  private groupOf(d: MasterDocument, operation: string): string | null {
    const frame = d.operations[operation]?.frame;
    const name = frame ? d.frames[frame]?.name : undefined;
    if (!name) return null;
    const found = Object.entries(d.groups).find(([, g]) => identifierOf(g.name) === identifierOf(name));
    if (found) return found[0];
    const key = newKey();
    d.groups[key] = { order: nextOrder(d.groups), name: uniqueName(name, namesTaken(d, 'groups')) };
    return key;
  }

  publish(): void {
    const id = this.selection.id();
    if (!id) return;
    const port = this.selection.port();
    let name = '';
    this.model.draft((d) => (name = publish(d, { operation: id, port }, newKey(), this.model.context())));
    this.model.commit(`Publish ${name}`);
    this.notices.say(`Published as ${name}: any input can read it by that name`);
  }

  frame(): void {
    const ids = this.selection.ids();
    const master = this.model.master();
    if (!ids.length || !master) return;
    const within = master.operations[ids[0]].frame;
    if (within && ids.every((id) => master.operations[id].frame === within))
      return this.model.edit('Take the frame away', (d) => removeFrame(d, within));
    this.model.edit('Frame', (d) => void frameOf(d, ids, newKey(), 'Frame'));
  }
  /** Makes an operation of one's own of the chosen ones: a master, used where they were. */
  async own(): Promise<void> {
    const [ids, master, lowered] = [this.selection.ids(), this.model.master(), this.model.lowered()];
    if (!ids.length || !master || !lowered) return;
    const caught = caughtBetween(master, ids);
    if (caught.length)
      return this.notices.say(
        `${caught.map((id) => nameOf(master, id)).join(', ')} ${caught.length > 1 ? 'lie' : 'lies'} between what is chosen: choose that as well`,
      );
    const frame = master.operations[ids[0]].frame;
    const wanted = (frame && master.frames[frame]?.name) || ids.map((id) => master.operations[id].name).find(Boolean) || 'Own operation';
    const name = uniqueName(
      wanted,
      new Set(
        this.documents
          .list('master')()
          .map((m) => identifierOf(m.body.name)),
      ),
    );
    const { master: made, replace } = grouped(master, ids, { lowered, context: this.model.context(), name, key: newKey });
    const open = this.model.id();
    try {
      const of = await this.documents.create(made, name);
      // What was chosen may have changed, or gone, while it was on its way.
      if (this.model.id() !== open || this.model.master() !== master)
        return this.notices.say(`${name} is made, but the graph changed meanwhile: add it by its name`);
      const key = newKey();
      this.model.edit(`Make ${name} of ${ids.length === 1 ? nameOf(master, ids[0]) : `${ids.length} operations`}`, (d) => {
        replace(d, of, key);
        rename(d, 'operations', key, name);
      });
      this.selection.choose(key);
    } catch (error) {
      this.notices.error(error);
    }
  }

  fold(frame: string): void {
    const master = this.model.master();
    if (!master?.frames[frame]) return;
    const folded = !master.frames[frame].folded;
    this.model.edit(`${folded ? 'Fold' : 'Open'} ${master.frames[frame].name}`, (d) => (d.frames[frame].folded = folded));
  }

  /** Operations as text, for the clipboard. */
  copyText(): string | null {
    const [master, ids] = [this.model.master(), this.selection.ids()];
    return master && ids.length ? clipText(clipOf(master, ids)) : null;
  }
  paste(text: string): void {
    const clip = readClip(text);
    if (!clip) return this.notices.say('What is in the clipboard are no operations. Copy some from a master first');
    this.place(clip, `Paste ${count(clip)}`);
  }
  duplicate(): void {
    const [master, ids] = [this.model.master(), this.selection.ids()];
    if (master && ids.length) this.place(clipOf(master, ids), `Duplicate ${ids.length > 1 ? `${ids.length} operations` : nameOf(master, ids[0])}`);
  }
  private place(clip: GraphClip, label: string): void {
    let made: { operations: string[]; renamed: Renamed[] } = { operations: [], renamed: [] };
    try {
      this.model.draft((d) => (made = putClip(d, clip, newKey)));
    } catch {
      return this.notices.say('These operations cannot be read: their text is damaged. Copy them again');
    }
    this.model.commit(label);
    const master = this.model.master();
    if (master)
      this.selection.chooseAll([
        ...made.operations.filter((id) => !endsOf(master, made.operations).includes(id)),
        ...endsOf(master, made.operations),
      ]);
    this.renamed.set(made.renamed);
  }
  /** Another name for something that was renamed on its way in: part of the same step. */
  renameCopied(entry: Renamed, wanted: string): void {
    let after = entry.after;
    this.model.edit(`Rename to ${wanted}`, (d) => (after = rename(d, entry.kind, entry.id, wanted)));
    this.renamed.update((list) => list.map((r) => (r === entry ? { ...r, after } : r)));
  }

  /** Links the chosen operation on: to the first output that nothing feeds. */
  toOutput(name: 'surface' | 'baseColor' | 'normal' | 'roughness' | 'occlusion' | 'metallic' | 'height'): void {
    const [id, master] = [this.selection.id(), this.model.master()];
    if (id && master) this.link({ operation: '', port: name }, linkTo(id, firstOutput(master, id, this.model.context())), nameOf(master, id));
  }
}
const count = ({ operations }: GraphClip): string => {
  const n = Object.keys(operations).length;
  return n === 1 ? 'an operation' : `${n} operations`;
};
