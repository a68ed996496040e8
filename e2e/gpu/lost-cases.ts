// Runs in the browser: a graphics card that is lost and comes back knowing nothing.
import { computeLight, makeFlat, SKIES } from '@pebble/core';
import { RemoteStage, hostStage } from '@pebble/stage';
import { halves, plain } from './piece-cases';
import { PANE, bare, lookOf, pixels } from './stage-page';

const SIDE = 32;
const orbit = { yaw: 0, pitch: Math.PI / 2 - 1e-3, distance: 4, target: [0, 0, 0] as [number, number, number], field: 0.45 };

/** Bytes in the middle of the picture: as it is drawn first, while the card is away, and after it came back by itself; and how often that was said. */
export async function lost(): Promise<{ before: number[]; away: boolean; after: number[]; told: number; answers: boolean }> {
  const { port1, port2 } = new MessageChannel();
  let offscreen: OffscreenCanvas | null = null;
  port2.addEventListener('message', ({ data }: MessageEvent<{ type: string; canvas: OffscreenCanvas }>) => {
    if (data.type === 'open') offscreen = data.canvas;
  });
  hostStage(port2);
  const canvas = document.createElement('canvas');
  const stage = new RemoteStage(port1, canvas, computeLight(SKIES.overcast, 16, 8, 16), PANE);
  let told = 0;
  let answers = false;
  port1.addEventListener('message', ({ data }: MessageEvent<{ type: string }>) => (answers ||= data.type === 'pulse'));
  port1.start();
  port2.start();
  stage.onRestored = () => told++;
  stage.setSize(SIDE, SIDE);
  stage.setSpecimen(halves(), makeFlat(1, 2));
  stage.setLook(lookOf({ channel: 'baseColor', orbit }), false);
  stage.setProgram({ program: bare(plain([1, 0, 0])), values: {}, slots: { surfaces: [], masks: [], ids: [] } });
  await stage.settled();
  const gl = (offscreen as unknown as OffscreenCanvas).getContext('webgl2') as WebGL2RenderingContext;
  const middle = () => [...pixels(gl, SIDE, SIDE).subarray((16 * SIDE + 8) * 4, (16 * SIDE + 8) * 4 + 3)];
  const before = middle();
  const extension = gl.getExtension('WEBGL_lose_context') as WEBGL_lose_context;
  const heard = (name: string) => new Promise((resolve) => (offscreen as unknown as OffscreenCanvas).addEventListener(name, resolve, { once: true }));
  const gone = heard('webglcontextlost');
  extension.loseContext();
  await gone;
  const away = gl.isContextLost();
  await new Promise((resolve) => setTimeout(resolve, 50));
  const back = heard('webglcontextrestored');
  extension.restoreContext();
  await back;
  await stage.settled();
  const after = middle();
  port1.postMessage({ type: 'pulse' });
  for (let i = 0; i < 100 && !answers; i++) await new Promise((resolve) => setTimeout(resolve, 20));
  stage.dispose();
  return { before, away, after, told, answers };
}
