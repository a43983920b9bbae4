/** Notes from MIDI keyboards through the browser (Web MIDI API, W3C). */

export interface MidiNoteListener {
  /** @param velocity 1–127 */
  down(midi: number, velocity: number): void;
  up(midi: number): void;
  /** The sustain pedal went down or up. */
  pedal?(down: boolean): void;
}

export class MidiKeyboardError extends Error {
  override name = 'MidiKeyboardError';
}

const NOTE_OFF = 0x80;
const NOTE_ON = 0x90;
const CONTROL_CHANGE = 0xb0;
/** Controller 64, down from 64 on (MIDI 1.0). */
const SUSTAIN = 64;
const PEDAL_DOWN = 64;

/** Listens to every keyboard that is or gets plugged in. Gives their names, and a function that stops. */
export async function listenToMidiKeyboards(
  listener: MidiNoteListener,
): Promise<{ names: string[]; stop(): void }> {
  if (!('requestMIDIAccess' in navigator))
    throw new MidiKeyboardError(
      'This browser knows no MIDI keyboards. Use the computer keys or the pointer.',
    );
  let access: MIDIAccess;
  try {
    access = await navigator.requestMIDIAccess();
  } catch {
    throw new MidiKeyboardError(
      'The browser does not let this page use MIDI keyboards. Allow it in the settings of the page and try again.',
    );
  }
  const onMessage = (event: MIDIMessageEvent) => {
    if (!event.data || event.data.length < 3) return;
    const [status, midi, velocity] = event.data;
    const kind = status & 0xf0;
    if (kind === NOTE_ON && velocity > 0) listener.down(midi, velocity);
    else if (kind === NOTE_OFF || kind === NOTE_ON) listener.up(midi);
    else if (kind === CONTROL_CHANGE && midi === SUSTAIN) listener.pedal?.(velocity >= PEDAL_DOWN);
  };
  const connect = () => {
    for (const input of access.inputs.values()) input.onmidimessage = onMessage;
  };
  connect();
  access.onstatechange = connect;
  const names = [...access.inputs.values()].map(({ name }) => name ?? 'a keyboard');
  return {
    names,
    stop() {
      access.onstatechange = null;
      for (const input of access.inputs.values()) input.onmidimessage = null;
    },
  };
}
