import type { RemoteStage } from '@pebble/stage';

/** What a stage shows once it shows all of what was asked. */
export async function stagePicture(remote: Pick<RemoteStage, 'settled'>, canvas: HTMLCanvasElement): Promise<ImageData | null> {
  // Effects hand changes to the stage a moment later; a frame reaches the page with its next own ones.
  await new Promise((resolve) => setTimeout(resolve, 40));
  await remote.settled();
  for (let i = 0; i < 3; i++) await new Promise(requestAnimationFrame);
  // The element does not know how large the picture is that a worker draws for it.
  const ratio = Math.min(2, devicePixelRatio);
  const copy = new OffscreenCanvas(Math.round(canvas.clientWidth * ratio), Math.round(canvas.clientHeight * ratio));
  const context = copy.getContext('2d', { willReadFrequently: true });
  context?.drawImage(canvas, 0, 0, copy.width, copy.height);
  return context?.getImageData(0, 0, copy.width, copy.height) ?? null;
}
