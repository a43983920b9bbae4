import type { Engine } from './engine.ts';

/** Shows what follows the playhead: now, whenever the engine changes, and at each frame of the screen while it plays. @returns what ends it */
export function whileMoving(engine: Engine, show: () => void): () => void {
  let request = 0;
  const loop = () => {
    show();
    if (engine.getState().playing) request = requestAnimationFrame(loop);
  };
  loop();
  const unsubscribe = engine.subscribe(() => {
    cancelAnimationFrame(request);
    loop();
  });
  return () => {
    cancelAnimationFrame(request);
    unsubscribe();
  };
}
