import type {
  AssetSlot,
  Colouring,
  Frame,
  Mesh,
  MeshPicture,
  Orbit,
  Overdraw,
  PageView,
  PaintedVertices,
  SlotLaying,
  SlottedMesh,
  SpecimenDocument,
  UvIsland,
  UvOverlap,
} from '@pebble/core';

/** A level of detail of a specimen, and one of its sets of texture coordinates. */
export interface MeshSource extends Frame {
  /** Blob of the model. */
  model: string;
  level: number;
  set: number;
}

/** What a set of texture coordinates is worth, without the triangles. */
export interface LayoutFacts {
  islands: UvIsland[];
  overlaps: UvOverlap[];
  covered: number;
  collapsed: number;
  triangles: number;
  /** Sides of a tile a metre. */
  density: { mean: number; low: number; high: number } | null;
  bounds: { lo: [number, number, number]; hi: [number, number, number] };
}

export interface MeshLook {
  colouring: Colouring;
  /** Pairs of parts of this level that may lie on each other. */
  allowed: readonly (readonly [number, number])[];
  highlight: number | null;
}

/** A line and places of texture space on a mesh, in metres, with what of them is seen. */
export interface Traced {
  /** Ends of the pieces of the line, six numbers each. */
  ends: Float32Array;
  seen: Uint8Array;
  places: ({ at: [number, number, number]; seen: boolean } | null)[];
}

export interface PixelSize {
  width: number;
  height: number;
}

export interface MeshRequests {
  layout: { args: { source: MeshSource }; result: LayoutFacts };
  /** The page of texture coordinates. */
  page: { args: { source: MeshSource; look: MeshLook; view: PageView; size: PixelSize }; result: ImageBitmap };
  /** The mesh in space. */
  form: { args: { source: MeshSource; look: MeshLook; orbit: Orbit; size: PixelSize }; result: ImageBitmap };
  /** The island at a place of texture space, or at a pixel of the form that was drawn last. */
  islandOnPage: { args: { source: MeshSource; u: number; v: number }; result: number | null };
  islandOnForm: { args: { source: MeshSource; x: number; y: number }; result: number | null };
  /** Cells of the texture that each slot lies on (`cellsText`), by slot. */
  covered: { args: { source: MeshSource }; result: Record<string, string> };
  /** The whole level as one mesh, its texture coordinates in metres by the mean density of the set. */
  specimen: { args: { source: MeshSource }; result: Mesh };
  /** The level as one mesh, each slot laid in metres a repetition by a set of its own, and which triangles are whose. */
  slotted: { args: { source: MeshSource; lays: Readonly<Record<string, SlotLaying>> }; result: SlottedMesh };
  /** A mesh made finer so many times; with what it carries, or just its colours as tiles kept on the server. */
  finer: { args: { mesh: Mesh; times: number }; result: Mesh };
  finerColours: { args: { mesh: Mesh; times: number }; result: { vertices: number; tiles: Record<string, string> } };
  /** Colours that were painted on a mesh, on that mesh made finer otherwise; null when they were painted on another one. */
  coloursAt: { args: { mesh: Mesh; painted: PaintedVertices; times: number }; result: Float32Array | null };
  /** A mesh seen from an eye, light where values at its vertices are. */
  valued: { args: { mesh: Pick<Mesh, 'position' | 'normal' | 'index'>; values: Float32Array; orbit: Orbit; size: PixelSize }; result: MeshPicture };
  /** Where places lie on each other on the texture of a specimen, or of a slot on it, and what is said of that; null when all is well. */
  overlap: {
    args: { specimen: SpecimenDocument; slot?: Pick<AssetSlot, 'slot' | 'uvSet' | 'size'> };
    result: { message: string; picture: ImageBitmap } | null;
  };
  /** How often its pixels are drawn where it shows what is behind it. */
  overdraw: { args: { mesh: Pick<Mesh, 'position' | 'index'>; orbit: Orbit }; result: Overdraw };
  /** A mesh of numbered parts as binary glTF. */
  glb: { args: { name: string; mesh: Mesh; parts: readonly { name: string; slot: string }[] }; result: Uint8Array<ArrayBuffer> };
  /** Gives the mean curvature of a mesh by vertex, in 1/m; with `sky` it is taken up under a key for what follows. */
  ground: { args: { key: string; mesh: Pick<Mesh, 'position' | 'normal' | 'index'>; sky: boolean }; result: Float32Array };
  /** Takes up a mesh on which places of texture space are looked for: its triangles, and those that the open blend lies on. */
  stand: { args: { key: string; mesh: Pick<Mesh, 'position' | 'index' | 'texcoord'>; own: Uint32Array }; result: null };
  /** Where a line of texture space, and places of it, lie on the mesh that was taken up last, and what of it an eye sees. */
  trace: {
    args: {
      key: string;
      line: readonly [number, number, number, number] | null;
      places: readonly (readonly [number, number])[];
      eye: readonly [number, number, number];
    };
    result: Traced;
  };
  /** The coordinate that is seen at a place of the picture, in shares of it; null where the open blend does not lie there. */
  under: { args: { key: string; orbit: Orbit; aspect: number; x: number; y: number }; result: [number, number] | null };
  /** Shares of open sky over vertices of the mesh that was taken up last. */
  sky: { args: { key: string; range: readonly [number, number] }; result: Float32Array };
}
