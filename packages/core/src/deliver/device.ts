// What a device makes of what it is given: what it refuses, and what it puts right without being asked.
import type { Ktx2Kind, TargetDocument } from '../cost';
import { BLOCK_FORMATS } from '../cost';
import type { BundleTexture } from './manifest';

/** A texture as its bytes say it, whatever the manifest says. */
export interface TextureSeen {
  width: number;
  height: number;
  levels: number;
  kept: Ktx2Kind;
  depth: number;
  /** Null where the file does not say it. */
  srgb: boolean | null;
}

export interface DeviceWord {
  /** Refused: it is not loaded. Fixed: it is loaded otherwise than it came, which costs time or memory. */
  does: 'refused' | 'fixed';
  path: string;
  message: string;
}

/** In which kinds of block a target's formats come. Universal blocks are turned into whatever it has. */
function takes(target: TargetDocument, kept: Ktx2Kind): boolean {
  if (kept === 'plain' || kept === 'UASTC' || kept === 'ETC1S') return true;
  // Devices of desktops have the whole family; what keeps no map in it has none of it.
  return Object.values(target.formats).some((f) => f.startsWith('BC')) && Object.hasOwn(BLOCK_FORMATS, kept);
}

/** What a device has to say of a texture. @param said what the manifest tells of it */
export function deviceWords(path: string, said: BundleTexture, seen: TextureSeen, target: TargetDocument): DeviceWord[] {
  const out: DeviceWord[] = [];
  const refused = (message: string) => out.push({ does: 'refused', path, message });
  const fixed = (message: string) => out.push({ does: 'fixed', path, message });
  if (seen.width !== said.width || seen.height !== said.height)
    refused(`${path} is ${seen.width} × ${seen.height}, and the manifest says ${said.width} × ${said.height}`);
  if (seen.kept !== said.kept) refused(`${path} keeps its texels as ${seen.kept}, and the manifest says ${said.kept}`);
  if (seen.levels !== said.levels) refused(`${path} has ${seen.levels} levels, and the manifest says ${said.levels}`);
  if (seen.srgb !== null && seen.srgb !== (said.colourSpace === 'srgb'))
    refused(`${path} is marked as ${seen.srgb ? 'sRGB' : 'linear'}, and the manifest says ${said.colourSpace}`);
  if (!takes(target, seen.kept)) refused(`${target.name} has no ${seen.kept}`);
  if (seen.kept.startsWith('BC') && (seen.width % 4 || seen.height % 4))
    refused(`${path} is ${seen.width} × ${seen.height}; blocks of ${seen.kept} want multiples of 4`);
  const side = Math.max(seen.width, seen.height);
  if (side > target.maxSize) fixed(`${path} is ${side} pixels; ${target.name} holds ${target.maxSize} and leaves the larger levels out`);
  const whole = Math.floor(Math.log2(side)) + 1;
  if (seen.levels !== 1 && seen.levels !== whole) refused(`${path} has ${seen.levels} of ${whole} levels: all of them, or one`);
  return out;
}
