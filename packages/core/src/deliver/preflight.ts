// Checks before a delivery: one entry a rule, each finding with its place, and a mend where one click is enough.
import type { TargetDocument } from '../cost';
import type { OutputChannel, Patch, RecipeDocument, RecipeFile, SurfaceDocument } from '../document';
import { OUTPUT_CHANNELS } from '../document';
import { lossesAt } from '../pack';
import type { Drawn } from '../material';
import type { FindingCode } from '../recognise';
import type { Role } from '../surface';
import { ROLE_FACTS } from '../surface';
import type { BundleTexture } from './manifest';

/** Errors keep a delivery from being made; warnings until somebody takes responsibility for them; notes never. */
export type Severity = 'error' | 'warning' | 'note';

/** A change to documents that does away with a finding. */
export interface Mend {
  label: string;
  edits: { id: string; patch: Patch }[];
}
/** What a rule found. */
interface Found {
  /** What tells it from others of its rule. */
  at: string;
  severity: Severity;
  message: string;
  /** Where it is: a file of the bundle, or a document. */
  path?: string;
  document?: string;
  mend?: Mend;
}
export interface PreflightFinding extends Omit<Found, 'at'> {
  /** The same for the same finding, however often it is looked for. */
  key: string;
  code: PreflightCode;
  /** Why somebody took responsibility for it. */
  accepted?: string;
}

/** What the checks look at. */
export interface PreflightFacts {
  outputs: {
    path: string;
    problem: string | null;
    note: string | null;
    texture?: BundleTexture;
    source?: { width: number; height: number };
    document: string;
    mend?: Mend;
  }[];
  /** Surfaces whose maps go into the bundle. */
  surfaces: { id: string; body: SurfaceDocument }[];
  recipes: { id: string; body: RecipeDocument; sources: SurfaceDocument[] }[];
  /** What the textures of an asset take in a target. */
  loads: { asset: string; assetId: string; target: TargetDocument; bytes: number; largest: { slotKey: string; slot: string; side: number } | null }[];
  /** How slots are drawn. */
  drawn: { asset: string; assetId: string; slot: string; drawn: Drawn }[];
  /** What was found by looking at meshes and pixels; empty while nobody looked. */
  seen: { assetId: string; message: string; code: 'overlap' | 'unpadded' | 'levels' }[];
}

const power = (n: number): boolean => (n & (n - 1)) === 0;
const called = (role: Role): string => ROLE_FACTS[role].label.toLowerCase();
const mb = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;
const holds = (file: RecipeFile, role: Role): boolean => Object.values(file.channels).some((r) => r.from === 'map' && r.role === role);

/** Findings of maps that matter for what leaves. */
const MAP_FINDINGS: Partial<Record<FindingCode, { severity: Severity; code: string }>> = {
  'normal-lossy': { severity: 'warning', code: 'lossy-normals' },
  'normal-direction-unknown': { severity: 'warning', code: 'green-direction' },
  'normal-of-object': { severity: 'warning', code: 'object-normals' },
  'data-marked-srgb': { severity: 'warning', code: 'colour-space' },
  'colour-marked-data': { severity: 'warning', code: 'colour-space' },
  'colour-under-zero-alpha': { severity: 'warning', code: 'colour-under-alpha' },
};
const ofMaps =
  (code: string) =>
  ({ surfaces }: PreflightFacts): Found[] =>
    surfaces.flatMap(({ id, body }) =>
      (Object.entries(body.maps) as [Role, NonNullable<SurfaceDocument['maps'][Role]>][]).flatMap(([role, map]) =>
        (map.findings ?? [])
          .filter((f) => MAP_FINDINGS[f.code]?.code === code)
          .map((f) => ({
            severity: MAP_FINDINGS[f.code]?.severity ?? 'warning',
            at: `${id} ${role} ${f.code}`,
            document: id,
            message: `${body.name}, ${called(role)}: ${f.message}`,
          })),
      ),
    );
const ofRecipes =
  (look: (recipe: { id: string; body: RecipeDocument }, fileId: string, file: RecipeFile, sources: SurfaceDocument[]) => Found[]) =>
  ({ recipes }: PreflightFacts): Found[] =>
    recipes.flatMap(({ id, body, sources }) => Object.entries(body.files).flatMap(([fileId, file]) => look({ id, body }, fileId, file, sources)));

/** What is looked for, one entry a rule. */
const RULES = {
  'not-made': ({ outputs }) =>
    outputs.flatMap(({ path, problem, document, mend }) =>
      problem ? [{ severity: 'error', at: path, path, document, message: `${path}: ${problem}`, mend }] : [],
    ),
  'lossy-normals': (facts) => [
    ...ofMaps('lossy-normals')(facts),
    ...ofRecipes(({ id, body }, fileId, file) =>
      holds(file, 'normal') && file.as === 'jpg'
        ? [
            {
              severity: 'error',
              at: `${id} ${fileId}`,
              document: id,
              message: `${body.name}, ${file.label}: normals in JPEG point elsewhere than they did`,
              mend: { label: 'Write PNG', edits: [{ id, patch: [{ op: 'replace', path: `/files/${fileId}/as`, value: 'png' }] }] },
            },
          ]
        : [],
    )(facts),
    ...facts.outputs.flatMap(({ path, texture, document }): Found[] =>
      texture && texture.green && (texture.kept === 'BC1' || texture.kept === 'BC3' || texture.kept === 'ETC1S')
        ? [
            {
              severity: 'warning',
              at: path,
              path,
              document,
              message: `${path} keeps directions as ${texture.kept}, which bends them by degrees; BC5 or BC7 does not`,
            },
          ]
        : [],
    ),
  ],
  'object-normals': (facts) => [
    ...ofMaps('object-normals')(facts),
    ...facts.surfaces.flatMap(({ id, body }): Found[] =>
      body.maps.normal?.space === 'object'
        ? [
            {
              severity: 'warning',
              at: id,
              document: id,
              message: `${body.name}, normal: its directions are along the axes of its object, which a device that reads tangents lights wrongly. Turn them into tangents where its mesh wears it`,
            },
          ]
        : [],
    ),
  ],
  'colour-space': (facts) => [
    ...ofMaps('colour-space')(facts),
    ...ofRecipes(({ id, body }, fileId, file, sources) =>
      OUTPUT_CHANNELS.flatMap((c): Found[] => {
        const route = file.channels[c];
        if (route?.from !== 'map') return [];
        const map = sources.map((s) => s.maps[route.role]).find((m) => m) ?? null;
        const loss = lossesAt(file, c, map).find((l) => l.code === 'colour-in-data');
        return loss
          ? [
              {
                severity: 'warning',
                at: `${id} ${fileId} ${c}`,
                document: id,
                message: `${body.name}, ${file.label}.${c}: ${loss.message}`,
                mend: {
                  label: 'Take it as linear light',
                  edits: [{ id, patch: [{ op: 'add', path: `/files/${fileId}/channels/${c}/space`, value: 'linear' }] }],
                },
              },
            ]
          : [];
      }),
    )(facts),
  ],
  'green-direction': ofMaps('green-direction'),
  'colour-under-alpha': ofMaps('colour-under-alpha'),
  'power-of-two': ({ outputs }) =>
    outputs.flatMap(({ path, texture, document }) =>
      texture && texture.levels > 1 && !(power(texture.width) && power(texture.height))
        ? [
            {
              severity: 'warning',
              at: path,
              path,
              document,
              message: `${path} is ${texture.width} × ${texture.height}: sides that are no powers of two lose a little at every smaller level`,
            },
          ]
        : [],
    ),
  'alpha-unused': ofRecipes(({ id, body }, fileId, file) => {
    const alpha = file.channels.a;
    return alpha?.from === 'constant' && alpha.value === 1
      ? [
          {
            severity: 'warning',
            at: `${id} ${fileId}`,
            document: id,
            message: `${body.name}, ${file.label}: alpha is 1 everywhere and costs as much as a channel that says something`,
            mend: { label: 'Leave alpha out', edits: [{ id, patch: [{ op: 'remove', path: `/files/${fileId}/channels/a` }] }] },
          },
        ]
      : [];
  }),
  twice: ofRecipes(({ id, body }, fileId, file) =>
    OUTPUT_CHANNELS.flatMap((c: OutputChannel): Found[] => {
      const loss = lossesAt(file, c, null).find((l) => l.code === 'twice' || l.code === 'alpha-covers');
      return loss
        ? [{ severity: 'note', at: `${id} ${fileId} ${c}`, document: id, message: `${body.name}, ${file.label}.${c}: ${loss.message}` }]
        : [];
    }),
  ),
  'over-budget': ({ loads }) =>
    loads.flatMap(({ asset, assetId, target, bytes, largest }) =>
      bytes > target.memoryBytes
        ? [
            {
              severity: 'error',
              at: `${assetId} ${target.name}`,
              document: assetId,
              message: `${asset} takes ${mb(bytes)} of textures on ${target.name}, which has ${mb(target.memoryBytes)} for one material`,
              ...(largest
                ? {
                    mend: {
                      label: `Halve ${largest.slot}`,
                      edits: [
                        {
                          id: assetId,
                          patch: [{ op: 'add' as const, path: `/slots/${largest.slotKey}/side`, value: Math.max(4, largest.side >> 1) }],
                        },
                      ],
                    },
                  }
                : {}),
            },
          ]
        : [],
    ),
  noted: ({ outputs }) =>
    outputs.flatMap(({ path, note, problem, document }) =>
      note && !problem ? [{ severity: 'note', at: path, path, document, message: `${path}: ${note}` }] : [],
    ),
  'larger-than-source': ({ outputs }) =>
    outputs.flatMap(({ path, texture, source, document }) =>
      texture && source && texture.width * texture.height > source.width * source.height
        ? [
            {
              severity: 'warning',
              at: path,
              path,
              document,
              message: `${path} is ${texture.width} × ${texture.height}, larger than what it is made of (${source.width} × ${source.height}): bytes without detail`,
            },
          ]
        : [],
    ),
  'drawn-otherwise': ({ drawn }) =>
    drawn.flatMap(({ asset, assetId, slot, drawn: { as } }) =>
      as === 'additive' || as === 'glass'
        ? [
            {
              severity: 'note',
              at: `${assetId} ${slot}`,
              document: assetId,
              message: `${asset}, ${slot} is drawn as ${as}; glTF mixes it with what lies behind`,
            },
          ]
        : [],
    ),
  overlap: ({ seen }) =>
    seen
      .filter((s) => s.code === 'overlap')
      .map(({ assetId, message }) => ({ severity: 'error', at: `${assetId} ${message}`, document: assetId, message })),
  unpadded: ({ seen }) =>
    seen
      .filter((s) => s.code === 'unpadded')
      .map(({ assetId, message }) => ({ severity: 'warning', at: `${assetId} ${message}`, document: assetId, message })),
  'levels-left-out': ({ seen }) =>
    seen
      .filter((s) => s.code === 'levels')
      .map(({ assetId, message }) => ({ severity: 'note', at: `${assetId} ${message}`, document: assetId, message })),
  'licence-unknown': ({ surfaces }) =>
    surfaces.flatMap(({ id, body }) =>
      body.generator || body.origin?.licence
        ? []
        : [{ severity: 'note', at: id, document: id, message: `${body.name}: nobody says under which licence it may leave` }],
    ),
} as const satisfies Record<string, (facts: PreflightFacts) => Found[]>;
export type PreflightCode = keyof typeof RULES;

/** FNV-1a: a short name for a place. */
function shortHash(text: string): string {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return (h >>> 0).toString(16).padStart(8, '0');
}

const ORDER: Record<Severity, number> = { error: 0, warning: 1, note: 2 };

/** All findings, the worst first. @param accepted reasons by the keys of findings; errors cannot be accepted */
export function preflight(facts: PreflightFacts, accepted: Readonly<Record<string, string>> = {}): PreflightFinding[] {
  return (Object.entries(RULES) as [PreflightCode, (facts: PreflightFacts) => Found[]][])
    .flatMap(([code, look]) =>
      look(facts).map(({ at, ...found }): PreflightFinding => {
        const key = `${code}-${shortHash(at)}`;
        const reason = found.severity === 'error' ? undefined : accepted[key];
        return { key, code, ...found, ...(reason === undefined ? {} : { accepted: reason }) };
      }),
    )
    .sort((a, b) => ORDER[a.severity] - ORDER[b.severity]);
}

/** Whether a delivery may be made: errors block it always, warnings until they are accepted. */
export const blocks = ({ severity, accepted }: PreflightFinding): boolean =>
  severity === 'error' || (severity === 'warning' && accepted === undefined);
