import type { Dot, ShorelineSize } from '@/core/drift/shoreline';

/** A change of less than this many points of drift in a week draws no trail. */
const MOVED = 4;

/** Paints the dots of a Shoreline, with a trail from where each was a week ago and a ring around one of them. */
export function paintDots(
  canvas: HTMLCanvasElement,
  dots: readonly Dot[],
  size: ShorelineSize,
  here: Dot | null,
): void {
  const { width, height, ashore, radius } = size;
  const scale = window.devicePixelRatio || 1;
  canvas.width = (width + ashore) * scale;
  canvas.height = height * scale;
  const context = canvas.getContext('2d')!;
  context.scale(scale, scale);
  const style = getComputedStyle(canvas);
  const color = (band: Dot['band']) => style.getPropertyValue(`--band-${band ?? 'none'}`).trim();
  // One path for each band: thousands of dots are then a handful of calls.
  for (const band of [0, 1, 2, null] as const) {
    const inBand = dots.filter((dot) => dot.band === band);
    if (inBand.length === 0) continue;
    const ink = color(band);
    context.strokeStyle = ink;
    context.fillStyle = ink;
    context.globalAlpha = 0.22;
    context.beginPath();
    for (const { x, y, xBefore, score } of inBand) {
      if (xBefore === null || score === null || Math.abs(xBefore - x) < (MOVED / 100) * width) continue;
      context.moveTo(xBefore, y);
      context.lineTo(x, y);
    }
    context.stroke();
    context.globalAlpha = 1;
    context.setLineDash(band === null ? [2, 1.5] : []);
    context.beginPath();
    for (const { x, y } of inBand) {
      context.moveTo(x + radius, y);
      context.arc(x, y, radius, 0, 2 * Math.PI);
    }
    if (band === null) context.stroke();
    else context.fill();
    context.setLineDash([]);
  }
  if (here) {
    context.strokeStyle = style.getPropertyValue('--text').trim();
    context.lineWidth = 2;
    context.beginPath();
    context.arc(here.x, here.y, radius + 2.5, 0, 2 * Math.PI);
    context.stroke();
  }
}
