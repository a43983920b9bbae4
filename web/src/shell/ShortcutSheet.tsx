/** The list of all keys. */
import { memo } from 'react';
import { Button, Modal } from 'antd';

const GROUPS: { title: string; keys: [string, string][] }[] = [
  {
    title: 'Playing',
    keys: [
      ['Space', 'Play, stop'],
      ['Home', 'To the start'],
      ['L', 'Loop on or off; loops the selection'],
      ['1 – 4', 'Recording, notes, both, one in each ear'],
      ['B, held', 'Hear before correction'],
      ['Ctrl + K', 'Find an action'],
    ],
  },
  {
    title: 'Notes',
    keys: [
      ['↑ ↓', 'A semitone: in Clean up the note it was, in Tune the note it should be'],
      ['Shift + ↑ ↓', 'An octave'],
      ['Alt + ↑ ↓', '5 cents'],
      ['← →', 'A grid step'],
      ['Alt + ← →', '5 ms'],
      ['J', 'Join the selected notes'],
      ['X', 'Cut at the pointer'],
      ['D', 'Draw notes, on or off'],
      ['Delete', 'Drop the selected notes'],
      ['T', 'Tune: pull to the rails'],
      ['G', 'Pull to the grid'],
    ],
  },
  {
    title: 'Selecting',
    keys: [
      ['N / Shift + N', 'Next, previous doubtful note'],
      ['K', 'Keep: the selected notes are right; on to the next doubtful'],
      ['Ctrl + A', 'Everything'],
      ['Shift + End', 'Everything after'],
      ['Shift + click', 'Add or take away'],
      ['Click on a note name', 'All notes of this pitch'],
      ['Escape', 'Nothing'],
    ],
  },
  {
    title: 'Editing',
    keys: [
      ['Ctrl + Z', 'Undo'],
      ['Ctrl + Shift + Z', 'Redo'],
      ['Ctrl + C, V', 'Copy, paste at the playhead'],
      ['Ctrl + D', 'Duplicate behind itself'],
      ['M', 'Mute the selected notes, else the part'],
      ['S', 'Solo the part'],
    ],
  },
  {
    title: 'Chords',
    keys: [
      ['A … G', 'Type a chord here'],
      ['Enter', 'Next bar, or next beat'],
      ['Ctrl + A', 'All chords'],
      ['← →', 'Beat before, beat after'],
      ['Shift + ← →', 'Bar before, bar after'],
      ['Shift + click', 'Several chords'],
      ['Escape', 'No chord'],
      ['Alt + ← →', 'Move chords by a beat; with Shift by half of one'],
      ['A … ;', 'Chord keys, while the computer keys play; Escape ends it'],
    ],
  },
  {
    title: 'Timeline',
    keys: [
      ['↑ ↓', 'Part above, part below'],
      ['Alt + ↑ ↓', 'Move the part up or down'],
      ['← →', 'Move the selected passages by the grid, else the recording by a beat'],
      ['Alt + ← →', 'Move them by 5 ms'],
      ['X', 'Cut the passage at the pointer, or at the playhead'],
      ['J', 'Join the selected passages'],
      ['Ctrl + D', 'Duplicate them'],
      ['Shift + End', 'Everything from here on'],
      ['Enter', 'Open in Notes'],
      ['Delete', 'Remove the selected passages, else the part'],
    ],
  },
  {
    title: 'Shelf',
    keys: [
      ['↑ ↓', 'Item above, item below'],
      ['H', 'Hear it, or stop'],
      ['Enter', 'Put it into the song'],
    ],
  },
  {
    title: 'Looking',
    keys: [
      ['+ / −', 'Zoom in time'],
      ['Ctrl + wheel', 'Zoom in time'],
      ['Alt + wheel', 'Zoom in pitch'],
      ['Two fingers', 'Zoom and scroll'],
      ['Wheel', 'Scroll pitches'],
      ['Shift + wheel', 'Scroll in time'],
      ['Page up, down', 'Scroll in time by pages'],
      ['F', 'Show everything'],
    ],
  },
  {
    title: 'While dragging',
    keys: [
      ['Ctrl', 'Off the grid, the playhead too'],
      ['Alt', 'By cents'],
      ['Shift on the ruler', 'Set the loop'],
    ],
  },
];

interface Props {
  open: boolean;
  onClose: () => void;
  onFind: () => void;
}

/** Painted again only when it is opened or closed, not with every edit of the song behind it. */
export const ShortcutSheet = memo(function ShortcutSheet({ open, onClose, onFind }: Props) {
  return (
    <Modal open={open} onCancel={onClose} footer={null} title="Keys" width={860}>
      <p className="quiet">
        Ctrl + K finds everything by its name.{' '}
        <Button type="link" size="small" style={{ padding: 0 }} onClick={onFind}>
          Find an action
        </Button>
      </p>
      <div style={{ columns: 3, columnGap: 28 }}>
        {GROUPS.map(({ title, keys }) => (
          <section key={title} style={{ breakInside: 'avoid', marginBottom: 16 }}>
            <h3 style={{ fontSize: 14, marginBottom: 4 }}>{title}</h3>
            {keys.map(([key, what]) => (
              <div key={key} className="row" style={{ minHeight: 24, alignItems: 'baseline' }}>
                <kbd style={{ fontFamily: 'inherit', fontWeight: 600, whiteSpace: 'nowrap' }}>{key}</kbd>
                <span className="quiet" style={{ textAlign: 'right' }}>
                  {what}
                </span>
              </div>
            ))}
          </section>
        ))}
      </div>
    </Modal>
  );
});
