// OBJ in: positions with or without colours, texture coordinates, normals, faces of any number of corners, objects, groups
// and materials by name.
import type { Model, Part } from '@pebble/core';
import { ShapeUtils, Vector2 } from 'three';
import { FormatError } from '../codec';
import { finish } from './finish';
import type { MeshFile } from './kinds';
import { MESH_LIMITS, MeshNotes, NORMALS_MADE, levelIn, mebibytes, tooMuch } from './kinds';

/** Faces that go to one part and slot, in corners: position, coordinate, normal, −1 where it has none. */
interface Group {
  name: string;
  slot: string;
  corners: number[];
}

/**
 * Reads OBJ. Texture coordinates are turned over, as v runs up in the file and down here; placements it does not know.
 * @throws FormatError naming line and byte
 */
export function readObj(bytes: Uint8Array): MeshFile {
  const parsed = new Parser(textOf(bytes)).parse();
  return { model: build(parsed), pictures: [], notes: parsed.notes.list() };
}

/** Text in UTF-8, or in UTF-16 as some systems write it. */
function textOf(bytes: Uint8Array): string {
  if (!bytes.length) throw new FormatError('empty', 'the file is empty. Export it again');
  // Longer texts no engine holds as one.
  if (bytes.length > MESH_LIMITS.text) throw tooMuch('MiB of text', mebibytes(bytes.length), mebibytes(MESH_LIMITS.text));
  const [a, b] = bytes;
  if (a === 0xfe && b === 0xff) return new TextDecoder('utf-16be').decode(bytes);
  if (a === 0xff && b === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (bytes.length > 1 && a === 0) return new TextDecoder('utf-16be').decode(bytes);
  if (bytes.length > 1 && b === 0) return new TextDecoder('utf-16le').decode(bytes);
  const zero = bytes.indexOf(0);
  if (zero >= 0) throw new FormatError('unknown-format', 'it holds zero bytes, so this is no OBJ text', zero);
  return new TextDecoder().decode(bytes);
}

class Parser {
  readonly positions: number[] = [];
  readonly colours: number[] = [];
  readonly coordinates: number[] = [];
  readonly normals: number[] = [];
  readonly groups = new Map<string, Group>();
  readonly notes = new MeshNotes();
  private part = 'body';
  private slot = 'surface';
  private group: Group | null = null;
  private line = 0;
  private at = 0;
  private triangles = 0;
  private lines = 0;

  constructor(private readonly text: string) {}

  parse(): this {
    let from = 0;
    while (from <= this.text.length) {
      const end = this.text.indexOf('\n', from);
      const stop = end < 0 ? this.text.length : end;
      this.line++;
      this.at = from;
      let row = this.text.slice(from, stop);
      from = stop + 1;
      // A backslash at the end carries a line on.
      while (/\\\r?$/.test(row) && from <= this.text.length) {
        const next = this.text.indexOf('\n', from);
        const until = next < 0 ? this.text.length : next;
        row = `${row.replace(/\\\r?$/, ' ')}${this.text.slice(from, until)}`;
        from = until + 1;
        this.line++;
      }
      this.read(row);
    }
    if (this.lines) this.notes.add('mesh-left-out', 'Points, lines and curves are left out.');
    return this;
  }

  private read(row: string): void {
    const words = row.replace(/#.*$/, '').trim().split(/\s+/);
    switch (words[0]) {
      case 'v':
        this.vertex(words);
        break;
      case 'vt':
        this.coordinates.push(
          this.number(words[1], 'a texture coordinate'),
          words[2] === undefined ? 0 : this.number(words[2], 'a texture coordinate'),
        );
        break;
      case 'vn':
        for (let c = 1; c <= 3; c++) this.normals.push(this.number(words[c], 'a normal'));
        break;
      case 'f':
        this.face(words.slice(1));
        break;
      case 'o':
      case 'g':
        this.part = words.slice(1).join(' ').slice(0, 100) || 'body';
        this.group = null;
        break;
      case 'usemtl':
        this.slot = words.slice(1).join(' ').slice(0, 100) || 'surface';
        this.group = null;
        break;
      case 'p':
      case 'l':
      case 'curv':
      case 'surf':
        this.lines++;
        break;
    }
  }

  private bad = (what: string): FormatError => new FormatError('corrupt', `line ${this.line}: ${what}. Export the mesh again`, this.at);

  private number(word: string | undefined, what: string): number {
    const value = word ? Number(word) : NaN;
    if (!Number.isFinite(value)) throw this.bad(`${what} is ${word ? `“${word.slice(0, 20)}”` : 'missing'}, not a number`);
    return value;
  }

  private vertex(words: readonly string[]): void {
    for (let c = 1; c <= 3; c++) this.positions.push(this.number(words[c], 'a position'));
    // A seventh word leaves room for colours; a fifth alone is a weight, which plain meshes have no use for.
    const count = this.positions.length / 3;
    if (words.length >= 7) {
      while (this.colours.length < (count - 1) * 4) this.colours.push(1);
      for (let c = 4; c <= 6; c++) this.colours.push(this.number(words[c], 'a vertex colour'));
      this.colours.push(1);
    }
    if (count > MESH_LIMITS.vertices) throw tooMuch('vertices', count, MESH_LIMITS.vertices);
  }

  private face(words: readonly string[]): void {
    if (words.length < 3) throw this.bad(`a face has ${words.length} corners`);
    if (words.length > MOST_CORNERS)
      throw this.bad(
        `a face has ${words.length.toLocaleString('en')} corners; at most ${MOST_CORNERS.toLocaleString('en')} are read. Cut it into triangles`,
      );
    const corners = words.map((word) => {
      const [v, t, n] = word.split('/');
      return [
        this.pointer(v, this.positions.length / 3, 'vertex'),
        t ? this.pointer(t, this.coordinates.length / 2, 'texture coordinate') : -1,
        n ? this.pointer(n, this.normals.length / 3, 'normal') : -1,
      ];
    });
    this.group ??= this.groupOf();
    for (const triangle of this.triangulate(corners.map((c) => c[0]))) for (const k of triangle) this.group.corners.push(...corners[k]);
    this.triangles += corners.length - 2;
    if (this.triangles > MESH_LIMITS.triangles) throw tooMuch('triangles', this.triangles, MESH_LIMITS.triangles);
  }

  private groupOf(): Group {
    const key = `${this.part}\n${this.slot}`;
    let group = this.groups.get(key);
    if (!group) this.groups.set(key, (group = { name: this.part, slot: this.slot, corners: [] }));
    if (this.groups.size > MESH_LIMITS.parts) throw tooMuch('parts', this.groups.size, MESH_LIMITS.parts);
    return group;
  }

  /** Counts from one, or back from the end when negative. */
  private pointer(word: string | undefined, count: number, what: string): number {
    const value = Number(word);
    const at = value < 0 ? count + value : value - 1;
    if (!Number.isInteger(value) || at < 0 || at >= count)
      throw this.bad(`a face uses ${what} “${(word ?? '').slice(0, 20)}”, and there are ${count} so far`);
    return at;
  }

  /** Corners of a face in threes; concave ones are cut by their ears, in the plane that they face most. */
  private triangulate(corners: readonly number[]): readonly (readonly number[])[] {
    if (corners.length === 3) return [[0, 1, 2]];
    const p = (k: number, c: number) => this.positions[corners[k] * 3 + c];
    const normal = [0, 0, 0];
    corners.forEach((_, k) => {
      const next = (k + 1) % corners.length;
      for (let c = 0; c < 3; c++) normal[c] += (p(k, (c + 1) % 3) - p(next, (c + 1) % 3)) * (p(k, (c + 2) % 3) + p(next, (c + 2) % 3));
    });
    const axis = normal.map(Math.abs).reduce((best, v, c, all) => (v > all[best] ? c : best), 0);
    const [i, j] = normal[axis] >= 0 ? [(axis + 1) % 3, (axis + 2) % 3] : [(axis + 2) % 3, (axis + 1) % 3];
    const flat = corners.map((_, k) => new Vector2(p(k, i), p(k, j)));
    const cut = ShapeUtils.triangulateShape(flat, []);
    // A face that lies on itself cannot be cut by ears; a fan keeps all its corners.
    return cut.length === corners.length - 2 ? cut : corners.slice(2).map((_, k) => [0, k + 1, k + 2]);
  }
}

/** Corners of one face: cutting it takes the square of them. */
const MOST_CORNERS = 4096;

function build(parsed: Parser): Model {
  const lods: Part[][] = [];
  const coloured = parsed.colours.length > 0;
  while (coloured && parsed.colours.length < (parsed.positions.length / 3) * 4) parsed.colours.push(1);
  for (const { name, slot, corners } of parsed.groups.values()) {
    const { name: plain, level } = levelIn(name);
    const { raw, lacks } = rawOf(parsed, corners, coloured);
    const title = plain || 'body';
    if (lacks.coordinates)
      parsed.notes.add('mesh-no-uv', lacks.coordinates === 'all' ? 'No texture coordinates.' : 'Only some texture coordinates.', title);
    if (lacks.normals) parsed.notes.add('mesh-normals-made', NORMALS_MADE, title);
    (lods[level ?? 0] ??= []).push({ name: title, slot, ...finish(raw) });
  }
  const levels = lods.filter((l) => l?.length);
  if (!levels.length) throw new FormatError('corrupt', 'there are no faces in it. Export a mesh');
  return { title: '', lods: levels };
}

/** One vertex for every different corner. */
function rawOf(parsed: Parser, corners: readonly number[], coloured: boolean) {
  const known = new Map<string, number>();
  const position: number[] = [];
  const texcoord: number[] = [];
  const normal: number[] = [];
  const colour: number[] = [];
  const index = new Uint32Array(corners.length / 3);
  let [withUv, withNormal] = [0, 0];
  for (let k = 0; k < index.length; k++) {
    const [v, t, n] = [corners[k * 3], corners[k * 3 + 1], corners[k * 3 + 2]];
    if (t >= 0) withUv++;
    if (n >= 0 && Math.hypot(...parsed.normals.slice(n * 3, n * 3 + 3)) > 0.5) withNormal++;
    const key = `${v}/${t}/${n}`;
    let at = known.get(key);
    if (at === undefined) {
      known.set(key, (at = known.size));
      for (let c = 0; c < 3; c++) position.push(parsed.positions[v * 3 + c]);
      texcoord.push(t < 0 ? 0 : parsed.coordinates[t * 2], t < 0 ? 0 : 1 - parsed.coordinates[t * 2 + 1]);
      normal.push(...(n < 0 ? [0, 1, 0] : parsed.normals.slice(n * 3, n * 3 + 3)));
      if (coloured) colour.push(...parsed.colours.slice(v * 4, v * 4 + 4));
    }
    index[k] = at;
  }
  const lacks = {
    coordinates: withUv === index.length ? null : withUv ? ('some' as const) : ('all' as const),
    // One corner without makes them all anew: a mixture would show.
    normals: withNormal < index.length,
  };
  const raw = {
    position: Float32Array.from(position),
    normal: lacks.normals ? null : Float32Array.from(normal),
    tangent: null,
    sets: lacks.coordinates === 'all' ? [] : [Float32Array.from(texcoord)],
    colours: coloured ? [Float32Array.from(colour)] : [],
    index,
  };
  return { raw, lacks };
}
