/**
 * Does something when the next picture is on its way to the screen, or soon when none is shown: a message that is sent while a
 * picture is prepared arrives after it. Returns a function that cancels it.
 */
export function afterPaint(action: () => void): () => void {
  let wanted = true;
  const { port1, port2 } = new MessageChannel();
  port1.onmessage = () => {
    port1.close();
    if (wanted) action();
  };
  const soon = () => port2.postMessage(null);
  // A hidden page has no pictures.
  if (document.hidden) soon();
  else requestAnimationFrame(soon);
  return () => {
    wanted = false;
  };
}
