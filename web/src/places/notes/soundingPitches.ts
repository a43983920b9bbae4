/** Where the notes of a part sound that follows the chords: by id, only where that is another pitch. */
import { followedSong, followsOf } from '@plundra/core/arranging';
import { railMidi, type Part, type Song } from '@plundra/core/song';

export function soundingPitches(song: Song, part: Part): ReadonlyMap<string, number> {
  if (!followsOf(part)) return NOTHING;
  const followed = followedSong({ ...song, parts: [part] }).parts[0];
  const written = pitchesOf(part);
  return new Map([...pitchesOf(followed)].filter(([id, midi]) => Math.abs(midi - written.get(id)!) > 0.01));
}

const NOTHING: ReadonlyMap<string, number> = new Map();

function pitchesOf(part: Part): Map<string, number> {
  const pitches = new Map<string, number>();
  if (part.kind === 'recording') {
    for (const { line } of part.takes)
      for (const note of line?.notes ?? []) pitches.set(note.id, railMidi(note, line!.tuningCents));
  } else for (const { notes } of part.passages) for (const { id, midi } of notes) pitches.set(id, midi);
  return pitches;
}
