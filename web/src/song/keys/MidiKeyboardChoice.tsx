/** Lets MIDI keyboards play, and says which of them does. */
import { Button, Select } from 'antd';
import type { MidiKeyboards } from './useKeyboardPlaying.ts';

const ALL = '';

export function MidiKeyboardChoice({ inputs, chosenId, choose, connect }: MidiKeyboards) {
  if (!inputs || inputs.length === 0)
    return (
      <Button size="small" type="text" onClick={connect}>
        {inputs ? 'No MIDI keyboard yet' : 'MIDI keyboard'}
      </Button>
    );
  return (
    <Select
      size="small"
      aria-label="MIDI keyboard that plays"
      style={{ width: 148 }}
      value={chosenId ?? ALL}
      onChange={(id) => choose(id === ALL ? null : id)}
      options={[
        { value: ALL, label: inputs.length === 1 ? inputs[0].name : 'All MIDI keyboards' },
        ...(inputs.length > 1 ? inputs.map(({ id, name }) => ({ value: id, label: name })) : []),
      ]}
    />
  );
}
