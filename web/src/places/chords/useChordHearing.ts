/** Hearing chords: one at a click, or all of them along with the song. */
import { useCallback } from 'react';
import { voiceChord, type ChordOrNone } from '@plundra/core/theory';
import type { ChordListening } from '../../audio/playlist.ts';
import { useSong } from '../../song/SongContext.tsx';

const HEARD_SECONDS = 1.1;
const HEARD_VELOCITY = 84;

export function useChordHearing(): (chord: ChordOrNone) => void {
  const { engine, listen } = useSong();
  const { program, octaves } = listen.chords;
  return useCallback(
    (chord) => {
      if (!chord || engine.getState().playing) return;
      void engine.live.preview(
        voiceChord(chord, { voicing: 'keyboard', octaves }),
        HEARD_VELOCITY,
        program,
        HEARD_SECONDS,
      );
    },
    [engine, program, octaves],
  );
}

export const FIRST_CHORD_LISTENING: ChordListening = { how: 'off', program: 4, octaves: 0 };
