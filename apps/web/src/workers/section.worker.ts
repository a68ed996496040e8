/// <reference lib="webworker" />
// Draws sections on a canvas that the page handed over: the page's own thread never rasterises one.
import { drawSection } from './section-drawing';
import type { SectionMessage, SectionPicture } from './protocol';

let canvas: OffscreenCanvas | null = null;
let context: OffscreenCanvasRenderingContext2D | null = null;
let latest: SectionPicture | null = null;

function paint(): void {
  const picture = latest;
  latest = null;
  if (!canvas || !context || !picture) return;
  const { width, height, ratio, drawing } = picture;
  const [w, h] = [Math.round(width * ratio), Math.round(height * ratio)];
  if (canvas.width !== w || canvas.height !== h) Object.assign(canvas, { width: w, height: h });
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.clearRect(0, 0, width, height);
  if (drawing) drawSection(context, drawing.section, drawing.scale, drawing.style);
}

addEventListener('message', ({ data }: MessageEvent<SectionMessage>) => {
  if ('canvas' in data) {
    canvas = data.canvas;
    context = canvas.getContext('2d');
    return;
  }
  // Only the newest of the pictures that came while one was being drawn.
  if (!latest) requestAnimationFrame(paint);
  latest = data;
});
