/** Three octaves of a piano, with the degrees of the key on them and the notes of the sounding chord tinted. */
import type { CSSProperties } from 'react';
import { soundOfKey, type KeySounds } from '@plundra/core/arranging';
import { degreeOf, noteName, noteNameIn, pitchClassesOf, type Chord, type Key } from '@plundra/core/theory';
import { isBlack } from './playedKeys.ts';
import { pressedBy } from './pressedBy.ts';
import type { NotePlaying } from './useNotePlaying.ts';

const OCTAVES_SHOWN = 3;

interface Props {
  playing: NotePlaying;
  lowest: number;
  sounds: KeySounds;
  /** The key of the moment. */
  musicKey: Key | null;
  chord: Chord | null;
  /** The letter that plays a key. */
  letterOf(midi: number): string | undefined;
}

export function PianoKeys({ playing, lowest, sounds: allowed, musicKey, chord, letterOf }: Props) {
  const inChord = new Set(
    chord ? pitchClassesOf(chord).map((pitchClass) => ((pitchClass % 12) + 12) % 12) : [],
  );
  const sounding = new Set(playing.held.values());
  const keys = Array.from({ length: 12 * OCTAVES_SHOWN + 1 }, (_, i) => lowest + i);
  const whites = keys.filter((each) => !isBlack(each));
  const button = (each: number) => {
    const sounds = soundOfKey(each, allowed, musicKey, chord);
    const degree = musicKey ? degreeOf(each, musicKey) : undefined;
    const letter = letterOf(each);
    const classes = [
      'piano-key',
      isBlack(each) ? 'black' : 'white',
      sounding.has(each) ? 'down' : '',
      sounds === each ? '' : 'other',
      inChord.has(each % 12) ? 'in-chord' : '',
    ];
    const before = whites.filter((white) => white < each).length;
    return (
      <button
        key={each}
        type="button"
        className={classes.join(' ')}
        style={
          isBlack(each) ? ({ '--before': before, '--whites': whites.length } as CSSProperties) : undefined
        }
        aria-label={`Key ${noteName(each)}${sounds === each ? '' : `, sounds ${noteNameIn(sounds, musicKey)}`}`}
        {...pressedBy(playing, each)}
      >
        {letter && <kbd>{letter}</kbd>}
        <span className="degree">
          {sounds === each ? (degree ?? '') : `→${noteNameIn(sounds, musicKey).replace(/\d+$/, '')}`}
        </span>
        {!isBlack(each) && <span className="name">{noteName(each)}</span>}
      </button>
    );
  };
  return (
    <div className="piano" role="group" aria-label="Piano keys" data-testid="piano">
      {keys.filter((each) => !isBlack(each)).map(button)}
      {keys.filter(isBlack).map(button)}
    </div>
  );
}
