import { Members } from './check';
import type { Json } from './container';
import type { MeshNotes } from './kinds';

/** Says what a document has and a specimen does not keep. */
export function noteLeftOut(json: Json, notes: MeshNotes): void {
  const members = new Members(json);
  const primitives = members.list('meshes').flatMap((m) => new Members(m).list('primitives'));
  const found: [boolean, string][] = [
    [members.list('skins').length > 0, 'Its bones are left out; the mesh stands as it was modelled.'],
    [primitives.some((p) => p['targets'] !== undefined), 'Its morph targets are left out; the mesh has its plain form.'],
    [members.list('animations').length > 0, 'Its animations are left out.'],
    [
      members.list('materials').some((m) => {
        const factor = (m['pbrMetallicRoughness'] as Json | undefined)?.['baseColorFactor'];
        return Array.isArray(factor) && factor.slice(0, 3).some((v) => v !== 1);
      }),
      'Slots tint their base colour by a factor; maps come without it.',
    ],
  ];
  for (const [is, message] of found) if (is) notes.add('mesh-left-out', message);
}
