/** The places of a song, each loaded when it is wanted first; and all of them ahead, so that none is missing when the server is away. */
export const loadTimeline = async () => (await import('../places/timeline/TimelinePlace.tsx')).TimelinePlace;
export const loadLine = async () => (await import('../places/line/LinePlace.tsx')).LinePlace;
export const loadChanges = async () => (await import('../places/changes/ChangesPlace.tsx')).ChangesPlace;

export function loadAllPlaces(): void {
  for (const load of [loadTimeline, loadLine, loadChanges]) load().catch(() => undefined);
}
