/** The demo song before it was arranged: each recording whole from the start on, which most tests begin with. */
import { placedNotes, type Part, type Song } from '@plundra/core/song';

/** @param durationSeconds length of a recording by its hash */
export function wholeDemo(song: Song, durationSeconds: (hash: string) => number): Song {
  const { sections: _, groups: __, ...rest } = song;
  return {
    ...rest,
    tempoMap: song.tempoMap.slice(0, 1),
    parts: song.parts.map((part): Part => {
      const { group: ___, ...alone } = part;
      if (alone.kind === 'recording') {
        const [take] = alone.takes;
        const [{ id }] = alone.passages;
        const whole = { offsetSeconds: 0, durationSeconds: durationSeconds(take.recordingHash) };
        return {
          ...alone,
          takes: [take],
          passages: [{ type: 'recording', id, takeId: take.id, startTicks: 0, ...whole }],
        };
      }
      const notes = placedNotes(alone);
      const lengthTicks = Math.max(...notes.map((note) => note.startTicks + note.lengthTicks));
      const [{ id }] = alone.passages;
      return { ...alone, passages: [{ type: 'notes', id, startTicks: 0, lengthTicks, notes }] };
    }),
  };
}
