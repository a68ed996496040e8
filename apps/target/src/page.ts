// The target stand-in: given a bundle and nothing else, it loads as strictly as a device would and shows what came of it.
import type { BundleManifest, DeviceWord } from '@pebble/core';
import type { FromStandIn, ToStandIn } from '@pebble/stage';
import type { DeviceTerrain } from '@pebble/formats/bundle';
import type { FromLoader, LoadedAsset, ToLoader } from './protocol';
import { Show, usualLook } from './show';

const element = <T extends HTMLElement>(id: string): T => {
  const found = document.getElementById(id);
  if (!found) throw new Error(`The page has no ${id}`);
  return found as T;
};
const canvas = element<HTMLCanvasElement>('stage');
const status = element('status');
const asked = new URLSearchParams(location.search);
const embedded = window.parent !== window;
document.documentElement.classList.toggle('embedded', embedded);

const loader = new Worker('loader.js');
const tell = (message: ToLoader, transfer: Transferable[] = []) => loader.postMessage(message, transfer);
const answer = (message: FromStandIn) => embedded && window.parent.postMessage(message, location.origin);

let manifest: BundleManifest | null = null;
let show: Show | null = null;
let loaded: LoadedAsset | null = null;
/** What is to be loaded once its bundle is open. */
let wanted: { device: string; asset: string } | null = null;
/** Whether somebody around says how it is looked at. */
let led = false;

const say = (text: string, bad = false) => {
  status.textContent = text;
  status.classList.toggle('bad', bad);
};
const failed = (message: string) => {
  say(message, true);
  answer({ target: 'failed', message });
};

const assetsOf = (of: BundleManifest, device: string): string[] =>
  of.files.flatMap((f) => (f.kind === 'model' && f.target === device ? [f.of[0] ?? f.path] : []));

function choose(device: string, asset?: string): void {
  if (!manifest) return;
  const assets = assetsOf(manifest, device);
  const of = assets.find((a) => a === asset) ?? assets[0];
  fill(
    'device',
    Object.entries(manifest.targets).map(([id, t]) => [id, t.name]),
    device,
  );
  fill(
    'asset',
    assets.map((a) => [a, a]),
    of ?? '',
  );
  if (of === undefined) return failed('The bundle has no model for this device');
  say('reading …');
  tell({ load: { device, asset: of } });
}

function fill(id: string, entries: [value: string, text: string][], chosen: string): void {
  const select = element<HTMLSelectElement>(id);
  select.replaceChildren(...entries.map(([value, text]) => new Option(text, value, false, value === chosen)));
  select.disabled = entries.length < 2;
}

function words(list: readonly DeviceWord[], beside: readonly string[]): void {
  // A file that was changed is told of where the bundle is checked and where it is loaded.
  const said = new Map<string, DeviceWord['does']>([
    ...beside.map((message) => [message, 'refused'] as const),
    ...list.map((w) => [w.message, w.does] as const),
  ]);
  const items = [...said].map(([message, does]) => ({ message, does }));
  element('words').replaceChildren(
    ...items.map(({ does, message }) => {
      const item = document.createElement('li');
      item.className = does;
      item.textContent = `${does === 'refused' ? 'Refused' : 'Put right'}: ${message}`;
      return item;
    }),
  );
  element('clean').hidden = items.length > 0;
}

/** Terrains of the bundle, with what is wrong with their weights. */
function grounds(list: readonly DeviceTerrain[]): void {
  element('terrains').replaceChildren(
    ...list.map(({ path, layers, width, height, problem }) => {
      const item = document.createElement('li');
      item.className = problem ? 'refused' : '';
      const name = path.replace(/^terrains\/|_weights\.json$/g, '');
      item.textContent = problem
        ? `Refused: ${problem}`
        : `Terrain ${name}: ${layers.length} layers on ${width} × ${height} samples, all weights whole`;
      return item;
    }),
  );
}

let beside: string[] = [];
async function showLoaded(of: LoadedAsset): Promise<void> {
  loaded = of;
  show ??= await Show.on(canvas, failed);
  show.size();
  if (!led) show.look(usualLook(of.mesh, canvas.clientWidth / Math.max(1, canvas.clientHeight)));
  show.asset(of);
  say(`${of.asset}: ${of.slots.length} slots, ${(of.bytes / 1e6).toFixed(1)} of ${(of.budget / 1e6).toFixed(0)} MB of textures`);
  const meter = element<HTMLMeterElement>('memory');
  meter.max = of.budget;
  meter.high = of.budget * 0.9;
  meter.value = of.bytes;
  words(of.words, beside);
  answer({ target: 'loaded', words: of.words, bytes: of.bytes, budget: of.budget });
}

loader.onmessage = ({ data }: MessageEvent<FromLoader>) => {
  if ('failed' in data) failed(data.failed);
  else if ('progress' in data) {
    say(`${Math.round(100 * data.progress)} % ${data.note}`);
    answer({ target: 'progress', ...data });
  } else if ('opened' in data) {
    manifest = data.opened;
    beside = data.beside;
    element('project').textContent = manifest.project;
    const device = wanted?.device ?? asked.get('device') ?? Object.keys(manifest.targets)[0];
    choose(device, wanted?.asset ?? asked.get('asset') ?? undefined);
  } else if ('terrains' in data) grounds(data.terrains);
  else showLoaded(data.loaded).catch((error: Error) => failed(error.message));
};
loader.onerror = (event) => failed(event.message || 'The loader of bundles stopped. Reload the page');

const openZip = async (file: File) => {
  say(`opening ${file.name} …`);
  const zip = await file.arrayBuffer();
  tell({ open: { zip } }, [zip]);
};

function free(): void {
  element('device').addEventListener('change', (e) => choose((e.target as HTMLSelectElement).value));
  element('asset').addEventListener('change', (e) => choose(element<HTMLSelectElement>('device').value, (e.target as HTMLSelectElement).value));
  element<HTMLInputElement>('file').addEventListener('change', (e) => {
    const box = e.target as HTMLInputElement;
    const file = box.files?.[0];
    if (file) void openZip(file).then(() => (box.value = ''));
  });
  document.addEventListener('dragover', (e) => e.preventDefault());
  document.addEventListener('drop', (e) => {
    e.preventDefault();
    const file = e.dataTransfer?.files[0];
    if (file) void openZip(file);
  });
  const turn = (yaw: number, pitch: number, times = 1) => {
    const look = show?.stage.look;
    if (!look || !loaded) return;
    const { orbit } = look;
    show?.look({
      ...look,
      orbit: { ...orbit, yaw: orbit.yaw + yaw, pitch: Math.min(1.5, Math.max(-0.3, orbit.pitch + pitch)), distance: orbit.distance * times },
    });
  };
  canvas.addEventListener('pointermove', (e) => e.buttons && turn(-e.movementX * 0.008, e.movementY * 0.008));
  canvas.addEventListener('wheel', (e) => {
    e.preventDefault();
    turn(0, 0, Math.exp(e.deltaY * 0.001));
  });
  canvas.addEventListener('keydown', (e) => {
    const by = { ArrowLeft: [0.1, 0], ArrowRight: [-0.1, 0], ArrowUp: [0, -0.08], ArrowDown: [0, 0.08] }[e.key];
    if (by) turn(by[0], by[1]);
  });
}

let opened = '';
const follow = (data: ToStandIn): void => {
  if ('show' in data) {
    wanted = { device: data.show.device, asset: data.show.asset };
    if (opened === data.show.manifest) return choose(wanted.device, wanted.asset);
    opened = data.show.manifest;
    tell({ open: { manifest: opened } });
  } else if ('look' in data) {
    led = true;
    show?.look(data.look);
    void show?.light(data.sky);
  } else
    void show?.picture(data.width, data.height).then(
      (image) => answer({ target: 'picture', picture: data.picture, image }),
      (error: Error) => failed(error.message),
    );
};

new ResizeObserver(() => show?.size()).observe(canvas);
free();
if (embedded) {
  window.addEventListener('message', ({ data, origin }: MessageEvent<ToStandIn>) => {
    if (origin === location.origin) follow(data);
  });
  // Those around may speak before there is a stage.
  void Show.on(canvas, failed).then(
    (made) => {
      show ??= made;
      show.size();
      answer({ target: 'ready' });
    },
    (error: Error) => failed(error.message),
  );
} else if (asked.get('bundle')) tell({ open: { manifest: asked.get('bundle') ?? '' } });
