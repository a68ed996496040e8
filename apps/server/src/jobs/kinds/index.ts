// Every kind of job, one file each.
import type { JobKind } from '@pebble/contracts';
import type { JobDefinition } from '../kind';
import { bake } from './bake';
import { deliver } from './deliver';
import { demo } from './demo';
import { fetch } from './fetch';
import { finished } from './finished';
import { generate } from './generate';
import { hillside } from './hillside';
import { imports } from './import';
import { layout } from './layout';
import { look } from './look';
import { meshes } from './meshes';
import { normals } from './normals';
import { pack } from './pack';
import { preflight } from './preflight';
import { proof } from './proof';
import { remap } from './remap';
import { stamp } from './stamp';
import { still } from './still';
import { terrain } from './terrain';

export const DEFINITIONS: { [K in JobKind]: JobDefinition<K> } = {
  look,
  meshes,
  terrain,
  layout,
  import: imports,
  fetch,
  remap,
  generate,
  bake,
  stamp,
  normals,
  pack,
  preflight,
  deliver,
  proof,
  demo,
  still,
  hillside,
  finished,
};
