import type { RemoteStage } from '@pebble/stage';

interface PictureSize {
  width: number;
  height: number;
}
/** The element does not know how large the picture is that a worker draws for it. */
function shownSize(canvas: HTMLCanvasElement): PictureSize {
  const ratio = Math.min(2, devicePixelRatio);
  return { width: Math.round(canvas.clientWidth * ratio), height: Math.round(canvas.clientHeight * ratio) };
}

/** What a stage shows once it shows all of what was asked. @param size as large as it was told to draw; as it is shown unless stated */
export async function stagePicture(
  remote: Pick<RemoteStage, 'settled'>,
  canvas: HTMLCanvasElement,
  { width, height }: PictureSize = shownSize(canvas),
): Promise<ImageData | null> {
  // Effects hand changes to the stage a moment later; a frame reaches the page with its next own ones.
  await new Promise((resolve) => setTimeout(resolve, 40));
  await remote.settled();
  for (let i = 0; i < 3; i++) await new Promise(requestAnimationFrame);
  const copy = new OffscreenCanvas(width, height);
  const context = copy.getContext('2d', { willReadFrequently: true });
  context?.drawImage(canvas, 0, 0, width, height);
  return context?.getImageData(0, 0, width, height) ?? null;
}

/** The left part of a picture as PNG. */
export async function pngOf(picture: ImageData, width: number): Promise<Uint8Array<ArrayBuffer>> {
  const canvas = new OffscreenCanvas(width, picture.height);
  canvas.getContext('2d')?.putImageData(picture, 0, 0);
  return new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer());
}
