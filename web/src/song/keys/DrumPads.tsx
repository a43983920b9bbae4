/** The drums of a kit as keys: the ten of the middle row of letters, and more for the pointer. A MIDI keyboard plays all there are. */
import { percussionName } from '@plundra/core/theory';
import { letterOfCode, ROW_CODES } from './playedKeys.ts';
import { pressedBy } from './pressedBy.ts';
import type { NotePlaying } from './useNotePlaying.ts';

/** General MIDI keys, in the order of the letters. */
export const DRUM_PADS: readonly number[] = [36, 38, 42, 46, 37, 41, 45, 50, 49, 51, 39, 44, 70];

export function DrumPads({ playing, letters }: { playing: NotePlaying; letters: boolean }) {
  const sounding = new Set(playing.held.values());
  return (
    <div className="chord-key-row drum-pads" role="group" aria-label="Drums" data-testid="drum-pads">
      {DRUM_PADS.map((midi, i) => (
        <button
          key={midi}
          type="button"
          className={sounding.has(midi) ? 'chord-key down' : 'chord-key'}
          aria-label={`Drum ${percussionName(midi)}`}
          {...pressedBy(playing, midi)}
        >
          <span className="chord-key-name">{percussionName(midi)}</span>
          {i < ROW_CODES.length && <kbd className={letters ? 'on' : ''}>{letterOfCode(ROW_CODES[i])}</kbd>}
        </button>
      ))}
    </div>
  );
}
