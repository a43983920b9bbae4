/** A canvas at the resolution of the screen, with coordinates in CSS pixels. */
export interface Surface {
  context: CanvasRenderingContext2D;
  width: number;
  height: number;
}

export interface SurfaceSize {
  width: number;
  height: number;
}

/**
 * Sizes the canvas to its place on the page and clears it, or only some of its columns. Undefined while it has no size.
 * @param size its place where that is known already: to ask the page costs a layout of all of it after each canvas that was sized
 */
export function prepareSurface(
  canvas: HTMLCanvasElement | null,
  columns?: { left: number; right: number },
  size?: SurfaceSize,
): Surface | undefined {
  if (!canvas) return undefined;
  const { width, height } = size ?? { width: canvas.clientWidth, height: canvas.clientHeight };
  const ratio = window.devicePixelRatio || 1;
  if (width === 0 || height === 0) return undefined;
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
  }
  const context = canvas.getContext('2d')!;
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  const { left, right } = columns ?? { left: 0, right: width };
  context.clearRect(left, 0, right - left, height);
  return { context, width, height };
}

/** The same columns or a little more, so that they end between pixels of the screen: half a pixel cannot be cleared. */
export function wholePixels(
  { left, right }: { left: number; right: number },
  ratio = window.devicePixelRatio || 1,
) {
  return { left: Math.floor(left * ratio) / ratio, right: Math.ceil(right * ratio) / ratio };
}
