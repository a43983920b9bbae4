import { afterEach, expect, it, vi } from 'vitest';
import { prepareSurface } from './surface.ts';

afterEach(() => vi.unstubAllGlobals());

function canvasOf(clientWidth: number, clientHeight: number) {
  const asked = { times: 0 };
  const context = { setTransform: vi.fn(), clearRect: vi.fn() };
  const canvas = {
    width: 300,
    height: 150,
    getContext: () => context,
    get clientWidth() {
      asked.times++;
      return clientWidth;
    },
    clientHeight,
  };
  return { canvas: canvas as unknown as HTMLCanvasElement, context, asked };
}

it('a canvas is sized to its place at the resolution of the screen', () => {
  vi.stubGlobal('window', { devicePixelRatio: 2 });
  const { canvas, context } = canvasOf(200, 40);
  expect(prepareSurface(canvas)).toMatchObject({ width: 200, height: 40 });
  expect([canvas.width, canvas.height]).toEqual([400, 80]);
  expect(context.setTransform).toHaveBeenCalledWith(2, 0, 0, 2, 0, 0);
  expect(context.clearRect).toHaveBeenCalledWith(0, 0, 200, 40);
});

it('the page is not asked for a size that is known: it would be laid out anew for each of hundreds of rows', () => {
  vi.stubGlobal('window', { devicePixelRatio: 1 });
  const { canvas, asked } = canvasOf(1, 1);
  expect(prepareSurface(canvas, { left: 10, right: 30 }, { width: 500, height: 64 })).toMatchObject({
    width: 500,
    height: 64,
  });
  expect(canvas.width).toBe(500);
  expect(asked.times).toBe(0);
});

it('nothing is drawn without a place', () => {
  vi.stubGlobal('window', { devicePixelRatio: 1 });
  expect(prepareSurface(canvasOf(0, 40).canvas)).toBeUndefined();
  expect(prepareSurface(null)).toBeUndefined();
});
