/** The code of the places of a song, each loaded when first opened; and all of them ahead, so that none is missing when the server is away. */
export const loadTimeline = async () => (await import('../places/timeline/TimelinePlace.tsx')).TimelinePlace;
export const loadNotes = async () => (await import('../places/notes/NotesPlace.tsx')).NotesPlace;
export const loadChords = async () => (await import('../places/chords/ChordsPlace.tsx')).ChordsPlace;
export const loadShelf = async () => (await import('../places/shelf/ShelfPlace.tsx')).ShelfPlace;

export function loadAllPlaces(): void {
  for (const load of [loadTimeline, loadNotes, loadChords, loadShelf]) load().catch(() => undefined);
}
