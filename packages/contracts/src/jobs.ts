import type { Amounts, GeneratorName, LookedAt, PreflightFacts, SentFile } from '@pebble/core';
import type {
  BakeRequest,
  DeliverRequest,
  ImportRequest,
  LayoutRequest,
  LookRequest,
  MeshesRequest,
  TerrainRequest,
  PackRequest,
  PreflightRequest,
  ProofRequest,
  RemapRequest,
} from './api';
import type { FetchRequest } from './quarry';
import type { NormalsRequest, StampRequest } from './stamps';

/** A request that is about one document. */
type About<T> = T & { document: string };

/** What a kind of job is given, and what it tells when it is done, besides the documents it made. One entry a kind. */
export interface JobKinds {
  /** Files are looked at: what each seems to hold. */
  look: { payload: LookRequest; result: { files: LookedAt[] } };
  /** Meshes become specimens; the pictures that they carry, and files that cannot be read, are told of. */
  meshes: { payload: MeshesRequest; result: { files: SentFile[] } };
  /** Heights become a specimen. */
  terrain: { payload: TerrainRequest; result: object };
  /** A specimen gets one more set of texture coordinates; tells which. */
  layout: { payload: About<LayoutRequest>; result: { set: number } };
  import: { payload: ImportRequest; result: object };
  fetch: { payload: FetchRequest; result: object };
  remap: { payload: About<RemapRequest>; result: object };
  generate: {
    payload: {
      name: GeneratorName;
      seed: number;
      size: number;
      amounts?: Amounts;
      /** Document whose pixels are drawn anew; its name, size and relief stay. */
      replace?: string;
      /** Makes no step that undo knows, and waits until what people asked for is done. */
      silent?: boolean;
    };
    result: object;
  };
  bake: { payload: About<BakeRequest>; result: { surface: string } };
  /** Stamps go into what slots of an asset wear; tells the surface that they wear then. */
  stamp: { payload: About<StampRequest>; result: { surface: string } };
  /** The normal map of what slots of an asset wear is turned by the mesh. */
  normals: { payload: About<NormalsRequest>; result: object };
  pack: { payload: PackRequest; result: { blob: string; bytes: number; files: string[]; fileName: string } };
  /** What meshes tell of a delivery before it is made. */
  preflight: { payload: PreflightRequest; result: { seen: PreflightFacts['seen'] } };
  /** A bundle: the hash of its manifest, whose files are kept by theirs; how many of them had to be made. */
  deliver: { payload: DeliverRequest; result: { manifest: string; files: number; bytes: number; made: number; fileName: string } };
  /** A bundle against the project: the hash of the figures as JSON. */
  proof: { payload: ProofRequest; result: { proof: string; problems: number } };
  demo: { payload: object; result: object };
  still: { payload: object; result: object };
  hillside: { payload: object; result: object };
  finished: { payload: { silent?: boolean }; result: object };
}
export type JobKind = keyof JobKinds;
export type JobPayload<K extends JobKind> = JobKinds[K]['payload'];
/** What somebody sends to ask for it; its document is in the path. */
export type JobRequest<K extends JobKind> = Omit<JobPayload<K>, 'document' | 'silent'>;
/** `documents`: ids of those that it made. */
export type JobResult<K extends JobKind> = JobKinds[K]['result'] & { documents: string[] };

interface JobFacts {
  /** Where it is asked for; `:id` is the document that it is about. Null for one that only follows another. */
  path: string | null;
  /** Whether its surface has a place on the wall while it is being made. */
  onWall: boolean;
}
export const JOBS = {
  look: { path: '/looks', onWall: false },
  meshes: { path: '/specimens', onWall: false },
  terrain: { path: '/terrains', onWall: false },
  layout: { path: '/specimens/:id/layout', onWall: false },
  import: { path: '/imports', onWall: true },
  fetch: { path: '/quarry', onWall: true },
  remap: { path: '/surfaces/:id/maps', onWall: false },
  generate: { path: '/generate', onWall: true },
  bake: { path: '/blends/:id/surface', onWall: true },
  stamp: { path: '/assets/:id/stamps', onWall: false },
  normals: { path: '/assets/:id/normals', onWall: false },
  pack: { path: '/pack', onWall: false },
  preflight: { path: '/preflight', onWall: false },
  deliver: { path: '/deliveries', onWall: false },
  proof: { path: '/proofs', onWall: false },
  demo: { path: '/demo', onWall: true },
  still: { path: null, onWall: false },
  hillside: { path: null, onWall: false },
  finished: { path: null, onWall: false },
} as const satisfies Record<JobKind, JobFacts>;

/** Kinds that can be asked for. */
export type AskedKind = { [K in JobKind]: (typeof JOBS)[K]['path'] extends string ? K : never }[JobKind];
/** Where a kind of job is asked for, about a document where it is about one. */
export const jobPath = (kind: AskedKind, document = ''): string => JOBS[kind].path.replace(':id', document);

export type JobStatus = 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
/** A job of one kind as everybody sees it. */
export interface JobOf<K extends JobKind> {
  id: string;
  kind: K;
  label: string;
  status: JobStatus;
  /** 0–1 */
  progress: number;
  note: string;
  /** Sentence for people when it failed. */
  error: string | null;
  result: JobResult<K> | null;
}
export type JobView = { [K in JobKind]: JobOf<K> }[JobKind];
/** What a job of this kind told, once it is done. */
export const jobResult = <K extends JobKind>(kind: K, job: JobView | undefined): JobResult<K> | null =>
  job?.kind === kind ? (job.result as JobResult<K> | null) : null;
