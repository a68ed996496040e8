// The outer shell of glTF 2.0: JSON by itself, or in a binary file with a chunk of bytes behind it.
import { FormatError } from '../codec';
import { Reader, corrupt, unsupported } from '../reader';

export type Json = Record<string, unknown>;

export interface Container {
  json: Json;
  /** Bytes that come with it, and where in the file they begin. */
  bin: Uint8Array | null;
  binAt: number;
}

const JSON_CHUNK = 0x4e4f534a;
const BIN_CHUNK = 0x004e4942;

/** @throws FormatError */
export function openContainer(bytes: Uint8Array): Container {
  if (!bytes.length) throw new FormatError('empty', 'the file is empty. Export it again');
  const binary = bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46;
  if (!binary) return { json: parse(bytes, 0), bin: null, binAt: 0 };
  const reader = new Reader(bytes);
  const version = reader.u32(4);
  if (version !== 2) throw unsupported(`this is binary glTF of version ${version}; version 2 is read. Export it again as glTF 2.0`, 4);
  const length = reader.u32(8);
  if (length > bytes.length)
    throw new FormatError('truncated', `it says to be ${length} bytes long and ends after ${bytes.length}. Copy or export it again`, bytes.length);
  let json: Json | null = null;
  let bin: Uint8Array | null = null;
  let binAt = 0;
  for (let at = 12; at + 8 <= length;) {
    const size = reader.u32(at);
    const kind = reader.u32(at + 4);
    if (at + 8 + size > length) throw corrupt('a chunk runs past the end of the file', at);
    const chunk = bytes.subarray(at + 8, at + 8 + size);
    if (!json) {
      if (kind !== JSON_CHUNK) throw corrupt('its first chunk is not JSON', at + 4);
      json = parse(chunk, at + 8);
    } else if (kind === BIN_CHUNK && !bin) {
      bin = chunk;
      binAt = at + 8;
    }
    at += 8 + size + ((4 - (size % 4)) % 4);
  }
  if (!json) throw corrupt('it has no JSON in it', 12);
  return { json, bin, binAt };
}

/** Lists and objects in one another; nothing of glTF needs a tenth of it, and readers run out of stack far beyond. */
const DEEPEST = 200;

/** @throws FormatError at the byte where JSON nests too deeply */
function checkDepth(bytes: Uint8Array, at: number): void {
  let [depth, text] = [0, false];
  for (let i = 0; i < bytes.length; i++) {
    const c = bytes[i];
    if (text) {
      if (c === 0x5c) i++;
      else if (c === 0x22) text = false;
    } else if (c === 0x22) text = true;
    else if (c === 0x7b || c === 0x5b) {
      if (++depth > DEEPEST) throw corrupt(`its JSON nests more than ${DEEPEST} deep`, at + i);
    } else if (c === 0x7d || c === 0x5d) depth--;
  }
}

function parse(bytes: Uint8Array, at: number): Json {
  checkDepth(bytes, at);
  let value: unknown;
  try {
    value = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes).replace(/[\0 ]+$/, ''));
  } catch (error) {
    throw new FormatError('corrupt', `its JSON cannot be read: ${(error as Error).message}. Export it again`, at);
  }
  if (!value || typeof value !== 'object' || Array.isArray(value)) throw corrupt('its JSON is no glTF', at);
  return value as Json;
}
