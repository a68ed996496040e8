// Strokes that were written down, painted anew: runs on Node and in the browser.
import { DEFAULT_BRUSH, HILLSIDE, MeshMaskPainter, VertexPainter, fieldMesh, hillside, hash3, replayStrokes } from '@pebble/core';
import type { WrittenStroke } from '@pebble/core';

const AIMS: readonly WrittenStroke['aim'][] = ['add', 'erase', 'set', 'smooth'];

/** Bytes of a mask and of vertex colours after strokes of every kind over the hillside, as one text of digits. */
export function replayedOnHill(depth: 8 | 16): string {
  const field = hillside(129);
  const mesh = fieldMesh(field, 2, HILLSIDE.footM);
  const uv = Float32Array.from(mesh.texcoord, (v) => v / HILLSIDE.acrossM + 0.5);
  const pick = (k: number, of: number) => (hash3(k, of, 11) / 2 ** 32) * 400 - 200;
  const strokes = AIMS.map((aim, k): WrittenStroke => {
    const points = Array.from({ length: 5 }, (_, i) => {
      const v = hash3(k, i, 5) % (mesh.position.length / 3);
      return [mesh.position[v * 3] + pick(k, i) * 1e-3, mesh.position[v * 3 + 1], mesh.position[v * 3 + 2], 0.5 + 0.1 * i] as const;
    });
    const brush = {
      radiusM: 20 + 7 * k,
      falloff: 0.3 * k,
      strength: 0.8,
      value: 0.4,
      mirror: k === 1 ? 'x' : null,
      broken: { ...DEFAULT_BRUSH.broken, by: 0.5, atM: 12 },
    } as const;
    return { brush, aim, channel: 'g', points };
  });
  const mask = new MeshMaskPainter({ ...mesh, uv }, 256, 256, new Uint8Array(256 * 256).fill(90), depth);
  replayStrokes({ strokes }, mask, mesh);
  const vertices = new VertexPainter(mesh);
  replayStrokes({ strokes }, vertices, mesh);
  const digits = (bytes: Uint8Array) => Array.from(bytes, (v) => v.toString(16).padStart(2, '0')).join('');
  const now = mask.bytesNow();
  return `${digits(new Uint8Array(now.buffer))} ${digits(new Uint8Array(vertices.colours.buffer))}`;
}
