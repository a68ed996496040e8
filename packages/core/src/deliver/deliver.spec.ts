import fc from 'fast-check';
import type { BundleFile, BundleManifest, BundleTexture, PreflightFacts, RecipeDocument, SurfaceDocument } from '../index';
import {
  BundleError,
  KTX2_CHANNELS,
  TARGETS,
  blocks,
  canonical,
  deviceWords,
  keptAs,
  manifestText,
  parseChannelLayout,
  pathProblem,
  preflight,
  proofProblems,
  proofSummary,
  readManifest,
} from '../index';

const texture: BundleTexture = {
  file: 'ktx2',
  kept: 'BC7',
  width: 256,
  height: 128,
  levels: 9,
  depth: 8,
  colourSpace: 'srgb',
  channels: 'r=baseColor.r,g=baseColor.g,b=baseColor.b',
  green: null,
  runtimeBytes: 43_712,
};
const file = (over: Partial<BundleFile> = {}): BundleFile => ({
  path: 'desktop/textures/still_copper_basecolor.ktx2',
  kind: 'texture',
  bytes: 5,
  sha256: 'a'.repeat(64),
  key: 'b'.repeat(64),
  target: 'desktop',
  of: ['Still'],
  texture,
  ...over,
});
const manifest = (files: BundleFile[] = [file()]): Omit<BundleManifest, 'format' | 'version'> => ({
  project: 'Orrin Ridge',
  targets: { desktop: TARGETS.desktop },
  files,
  sources: [],
  costs: [],
});
const codeOf = (text: string): string => {
  try {
    readManifest(text);
    return 'read';
  } catch (error) {
    if (error instanceof BundleError) return error.code;
    throw error;
  }
};
const changed = (change: (m: Record<string, unknown> & { files: Record<string, unknown>[] }) => void): string => {
  const given = JSON.parse(manifestText(manifest())) as Record<string, unknown> & { files: Record<string, unknown>[] };
  change(given);
  return JSON.stringify(given);
};

describe('a manifest', () => {
  it('is read as it was written, and has the same text in whatever order its files and fields came', () => {
    const files = [file({ path: 'b.png' }), file(), file({ path: 'a/b.glb', kind: 'model', texture: undefined })];
    const text = manifestText(manifest(files));
    expect(manifestText(manifest([...files].reverse()))).toBe(text);
    const turned = Object.fromEntries(Object.entries(manifest(files)).reverse()) as Omit<BundleManifest, 'format' | 'version'>;
    expect(manifestText(turned)).toBe(text);
    const read = readManifest(text);
    expect(read.files.map((f) => f.path)).toEqual(['a/b.glb', 'b.png', 'desktop/textures/still_copper_basecolor.ktx2']);
    expect(read.targets['desktop']).toEqual(jasmine.objectContaining({ name: 'Desktop', memoryBytes: 192e6 }));
  });

  it('writes JSON whose text depends on content alone, whatever that is', () => {
    fc.assert(
      fc.property(fc.dictionary(fc.string(), fc.jsonValue()), (value) => {
        const shuffled = Object.fromEntries(Object.entries(value).reverse());
        return canonical(value) === canonical(shuffled) && canonical(JSON.parse(canonical(value))) === canonical(value);
      }),
    );
  });

  it('is refused with a code for what it suffers from', () => {
    expect(codeOf('{')).toBe('malformed');
    expect(codeOf('[]')).toBe('malformed');
    expect(codeOf(changed((m) => (m['format'] = 'other')))).toBe('malformed');
    expect(codeOf(changed((m) => (m['version'] = 2)))).toBe('newer');
    expect(codeOf(changed((m) => (m['version'] = 0)))).toBe('malformed');
    expect(codeOf(changed((m) => m.files.push({ ...m.files[0], path: 'DESKTOP/textures/Still_copper_baseColor.KTX2' })))).toBe('malformed');
    expect(codeOf(changed((m) => (m.files[0]['target'] = 'toaster')))).toBe('malformed');
    expect(codeOf(changed((m) => delete m.files[0]['texture']))).toBe('malformed');
    for (const path of ['../x.png', 'a/../../x', '/etc/x', 'a//b', 'a/./b', 'con.png', 'a\\b', 'a/b\u0000', ''])
      expect(codeOf(changed((m) => (m.files[0]['path'] = path))))
        .withContext(path)
        .toBe('unsafe-path');
  });

  it('is refused, never half read, whichever of its fields is not what it must be', () => {
    const wrong = [null, -1, 1.5, 'x', {}, [], true];
    const rules: [string, (m: Record<string, unknown> & { files: Record<string, unknown>[] }) => Record<string, unknown>][] = [
      ...['path', 'kind', 'bytes', 'sha256', 'key', 'of'].map((k) => [k, (m: { files: Record<string, unknown>[] }) => m.files[0]] as never),
      ...['file', 'kept', 'width', 'levels', 'depth', 'colourSpace', 'channels', 'runtimeBytes'].map(
        (k) => [k, (m: { files: Record<string, unknown>[] }) => m.files[0]['texture']] as never,
      ),
    ];
    for (const [key, of] of rules)
      for (const value of wrong) {
        const isText = ['path', 'key'].includes(key) && typeof value === 'string';
        const isList = key === 'of' && Array.isArray(value);
        if (isText || isList) continue;
        expect(codeOf(changed((m) => (of(m)[key] = value))))
          .withContext(`${key}: ${JSON.stringify(value)}`)
          .toMatch(/malformed|unsafe-path/);
      }
  });

  it('knows paths that lead out of it, and takes the usual ones', () => {
    expect(pathProblem('desktop/textures/a_b.ktx2')).toBeNull();
    fc.assert(
      fc.property(fc.array(fc.constantFrom('..', '.', '', 'a', 'b.png'), { minLength: 1, maxLength: 5 }), (parts) => {
        const safe = parts.every((p) => p === 'a' || p === 'b.png');
        return (pathProblem(parts.join('/')) === null) === safe;
      }),
    );
  });
});

describe('a device', () => {
  const seen = { width: 256, height: 128, levels: 9, kept: 'BC7', depth: 8, srgb: true } as const;
  const words = (over: object, said: Partial<BundleTexture> = {}, target = TARGETS.desktop as (typeof TARGETS)[keyof typeof TARGETS]) =>
    deviceWords('x', { ...texture, ...said }, { ...seen, ...over }, target).map((w) => w.does);

  it('takes what is as the manifest says, and refuses each way of being otherwise', () => {
    expect(words({})).toEqual([]);
    expect(words({ width: 128 })).toContain('refused');
    expect(words({ kept: 'BC3' })).toContain('refused');
    expect(words({ levels: 8 })).toContain('refused');
    expect(words({ srgb: false })).toContain('refused');
    expect(words({ srgb: null })).toEqual([]);
    expect(words({ levels: 4 }, { levels: 4 })).toEqual(['refused']);
    expect(words({ levels: 1 }, { levels: 1 })).toEqual([]);
    expect(words({ width: 254, levels: 8 }, { width: 254, levels: 8 })).toEqual(['refused']);
  });

  it('leaves larger levels out by itself, and has no blocks that its target does not name', () => {
    expect(words({ width: 8192, levels: 14 }, { width: 8192, levels: 14 })).toEqual(['fixed']);
    expect(words({}, {}, TARGETS.phone)).toEqual(['refused']);
    expect(words({ kept: 'UASTC' }, { kept: 'UASTC' }, TARGETS.phone)).toEqual([]);
  });

  it('is given textures in blocks that hold all of their channels', () => {
    for (const format of ['BC1', 'BC4', 'BC5', 'BC7', 'ASTC_6x6', 'EAC_R11', 'RGBA8'] as const)
      for (const channels of [1, 2, 3, 4] as const)
        expect(KTX2_CHANNELS[keptAs(format, 'BC1', channels)])
          .withContext(`${format} ${channels}`)
          .toBeGreaterThanOrEqual(channels);
    expect(keptAs('BC4', 'BC7', 3)).toBe('BC7');
    expect(keptAs('BC5', 'BC7', 2)).toBe('BC5');
    expect(keptAs('EAC_RG11', 'ASTC_6x6', 2)).toBe('UASTC');
  });
});

describe('a preflight', () => {
  const NOTHING: PreflightFacts = { outputs: [], surfaces: [], recipes: [], loads: [], drawn: [], seen: [] };
  const map = { width: 64, height: 64, depth: 8, colourSpace: 'srgb', findings: [] };
  const surface = (maps: object, over: object = {}) => ({
    id: 's',
    body: {
      kind: 'surface',
      name: 'Wall',
      maps,
      generator: null,
      origin: { licence: 'CC0', author: '', source: '' },
      ...over,
    } as unknown as SurfaceDocument,
  });
  const finding = (code: string) => ({ ...map, findings: [{ code, severity: 'warning', message: 'It is so', confidence: 1 }] });
  const recipe = (layout: string, over: object = {}): PreflightFacts['recipes'][number] => ({
    id: 'r',
    sources: [],
    body: {
      name: 'Usual',
      files: { f: { order: 1, label: 'orm', depth: 8, channels: parseChannelLayout(layout), ...over } },
    } as unknown as RecipeDocument,
  });
  const output = (over: object) => ({ path: 'p', problem: null, note: null, document: 'd', ...over });
  const codes = (facts: Partial<PreflightFacts>): string[] => preflight({ ...NOTHING, ...facts }).map((f) => `${f.severity} ${f.code}`);

  it('says nothing of a project in which all is well', () => {
    expect(
      codes({
        outputs: [output({ texture, source: { width: 256, height: 128 } })],
        surfaces: [surface({ baseColor: map, normal: { ...map, colourSpace: 'data' } })],
        recipes: [recipe('r=baseColor.r,g=baseColor.g,b=baseColor.b,a=opacity'), recipe('r=occlusion,g=roughness,b=metallic')],
        loads: [{ asset: 'Still', assetId: 'a', target: TARGETS.desktop, bytes: 1e6, largest: null }],
        drawn: [{ asset: 'Still', assetId: 'a', slot: 'copper', drawn: { as: 'solid', cut: 0.5 } }],
      }),
    ).toEqual([]);
  });

  // One planted mistake a line, and what it is called.
  const planted: [code: string, facts: Partial<PreflightFacts>][] = [
    ['error not-made', { outputs: [output({ problem: 'it cannot' })] }],
    ['warning lossy-normals', { surfaces: [surface({ normal: finding('normal-lossy') })] }],
    ['error lossy-normals', { recipes: [recipe('r=normal.r,g=normal.g,b=normal.b', { as: 'jpg' })] }],
    ['warning lossy-normals', { outputs: [output({ texture: { ...texture, kept: 'BC1', green: 'y+' } })] }],
    ['warning colour-space', { surfaces: [surface({ baseColor: finding('colour-marked-data') })] }],
    ['warning colour-space', { recipes: [recipe('r=baseColor.r,g=roughness')] }],
    ['warning green-direction', { surfaces: [surface({ normal: finding('normal-direction-unknown') })] }],
    ['warning object-normals', { surfaces: [surface({ normal: finding('normal-of-object') })] }],
    ['warning object-normals', { surfaces: [surface({ normal: { ...map, colourSpace: 'data', space: 'object' } })] }],
    ['warning colour-under-alpha', { surfaces: [surface({ baseColor: finding('colour-under-zero-alpha') })] }],
    ['warning power-of-two', { outputs: [output({ texture: { ...texture, width: 300 } })] }],
    ['warning alpha-unused', { recipes: [recipe('r=occlusion,g=roughness,b=metallic,a=1')] }],
    ['note twice', { recipes: [recipe('r=occlusion,g=occlusion')] }],
    [
      'error over-budget',
      { loads: [{ asset: 'Still', assetId: 'a', target: TARGETS.phone, bytes: 25e6, largest: { slotKey: 's1', slot: 'copper', side: 2048 } }] },
    ],
    ['note noted', { outputs: [output({ note: 'there is no metallic map' })] }],
    ['warning larger-than-source', { outputs: [output({ texture, source: { width: 128, height: 128 } })] }],
    ['note drawn-otherwise', { drawn: [{ asset: 'Still', assetId: 'a', slot: 'steam', drawn: { as: 'additive', cut: 0.5 } }] }],
    ['error overlap', { seen: [{ assetId: 'a', code: 'overlap', message: 'They lie on each other' }] }],
    ['warning unpadded', { seen: [{ assetId: 'a', code: 'unpadded', message: 'No rim' }] }],
    ['note levels-left-out', { seen: [{ assetId: 'a', code: 'levels', message: 'One is left out' }] }],
    ['note licence-unknown', { surfaces: [surface({}, { origin: undefined })] }],
  ];
  for (const [code, facts] of planted) it(`finds ${code}, and that alone`, () => expect(codes(facts)).toEqual([code]));

  it('mends by changes that do away with what was found', () => {
    const [loud] = preflight({ ...NOTHING, recipes: [recipe('r=occlusion,a=1')] });
    expect(loud.mend?.edits).toEqual([{ id: 'r', patch: [{ op: 'remove', path: '/files/f/channels/a' }] }]);
    const [heavy] = preflight({ ...NOTHING, ...planted.find(([c]) => c === 'error over-budget')?.[1] });
    expect(heavy.mend?.edits[0].patch).toEqual([{ op: 'add', path: '/slots/s1/side', value: 1024 }]);
  });

  it('lets a warning go for a reason, and an error never', () => {
    const facts = { ...NOTHING, outputs: [output({ texture: { ...texture, width: 300 } }), output({ path: 'q', problem: 'it cannot' })] };
    const [error, warning] = preflight(facts);
    expect([error, warning].map(blocks)).toEqual([true, true]);
    const accepted = preflight(facts, { [warning.key]: 'a banner', [error.key]: 'no' });
    expect(accepted.map((f) => [f.accepted, blocks(f)])).toEqual([
      [undefined, true],
      ['a banner', false],
    ]);
    // Another place is another finding: a reason does not spread.
    const elsewhere = preflight(
      { ...NOTHING, outputs: [output({ path: 'other', texture: { ...texture, width: 300 } })] },
      { [warning.key]: 'a banner' },
    );
    expect(elsewhere[0].accepted).toBeUndefined();
  });
});

describe('a proof', () => {
  const quality = (psnr: number | null, over = {}) => ({ channels: [{ psnr, mean: 0, p99: 0, max: psnr === null ? 0 : 0.1 }], ...over });
  const spread = (mean: number) => ({ mean, p99: mean, max: mean });

  it('asks every bit of lossless files, and of others what the bundle says of them', () => {
    const problems = (lossless: boolean, found: object, stated?: object) =>
      proofProblems({ rows: [{ path: 'p', lossless, quality: found as never }] }, [{ path: 'p', quality: stated as never }]).length;
    expect(problems(true, quality(null))).toBe(0);
    expect(problems(true, quality(90))).toBe(1);
    expect(problems(false, quality(40), quality(40))).toBe(0);
    expect(problems(false, quality(39), quality(40))).toBe(1);
    expect(problems(false, quality(41), quality(40))).toBe(0);
    expect(problems(false, quality(41))).toBe(1);
    expect(problems(false, quality(40, { angle: spread(2) }), quality(40, { angle: spread(1) }))).toBe(1);
    expect(problems(false, quality(40, { deltaE: spread(2) }), quality(40, { deltaE: spread(1) }))).toBe(1);
  });

  it('sums up the worst of it', () => {
    const rows = [
      { path: 'a', lossless: true, quality: quality(null) },
      { path: 'b', lossless: true, quality: quality(80) },
      { path: 'c', lossless: false, quality: quality(41, { deltaE: spread(0.5) }) },
      { path: 'd', lossless: false, quality: quality(38, { angle: spread(0.3) }) },
    ];
    const lit = [{ asset: 'x', slot: 'y', target: 't', max: 3, mean: 1, deltaE: { mean: 0.2, p99: 0.9 } }];
    expect(proofSummary({ rows, lit })).toEqual({ identical: 1, lossless: 2, lossy: 2, psnr: 38, degrees: 0.3, deltaE: 0.5, litDeltaE: 0.9 });
  });
});
