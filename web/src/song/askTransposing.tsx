/** A new key can mean that the music moves, or that its name was wrong: which of them is asked. */
import type { App } from 'antd';
import { keyName, type Key } from '@plundra/core/theory';
import { Button } from '../controls/index.tsx';

export interface TransposeQuestion {
  from: Key;
  to: Key;
  /** "at bar 17"; empty for the whole song. */
  where: string;
  semitones: number;
  /** What moves, in words, and what stays. */
  moving: readonly string[];
  staying: readonly string[];
  onNameOnly(): void;
  onTranspose(): void;
}

export function askTransposing(
  modal: ReturnType<typeof App.useApp>['modal'],
  { from, to, where, semitones, moving, staying, onNameOnly, onTranspose }: TransposeQuestion,
): void {
  const size = Math.abs(semitones);
  const way = `${size} ${size === 1 ? 'semitone' : 'semitones'} ${semitones > 0 ? 'up' : 'down'}`;
  const answer = (then: () => void) => () => {
    then();
    dialog.destroy();
  };
  const dialog = modal.info({
    icon: null,
    title: `From ${keyName(from)} to ${keyName(to)}${where && ` ${where}`}`,
    width: 460,
    content: (
      <>
        <p>
          {where ? 'Everything from here to the next change of key' : 'The song'} can be moved {way}, or the
          key can be named anew and every note stays. One undo brings either back.
        </p>
        <p>
          <b>Moves:</b> {moving.length === 0 ? 'nothing' : moving.join(', ')}
        </p>
        {staying.length > 0 && (
          <p>
            <b>Stays:</b> {staying.join(', ')}
          </p>
        )}
      </>
    ),
    footer: (
      <div style={{ display: 'flex', gap: 8, justifyContent: 'flex-end', marginTop: 12 }}>
        <Button onClick={() => dialog.destroy()}>Cancel</Button>
        <Button onClick={answer(onNameOnly)}>Only name the key</Button>
        <Button type="primary" disabled={moving.length === 0} onClick={answer(onTranspose)}>
          Transpose {way}
        </Button>
      </div>
    ),
  });
}
