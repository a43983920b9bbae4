/** Notes from MIDI keyboards through the browser (Web MIDI API, W3C). */

export interface MidiNoteListener {
  /** @param velocity 1–127 */
  down(midi: number, velocity: number): void;
  up(midi: number): void;
  /** The sustain pedal went down or up. */
  pedal?(down: boolean): void;
  /** The pitch wheel was moved. */
  bend?(semitones: number): void;
}

export interface MidiInputName {
  id: string;
  name: string;
}

export interface MidiListening {
  inputs(): MidiInputName[];
  /** Listens to one of them only; null: to all. */
  choose(inputId: string | null): void;
  stop(): void;
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
const PITCH_BEND = 0xe0;
/** The wheel reaches as far as this, unless a keyboard is told otherwise (General MIDI). */
const BEND_SEMITONES = 2;
const BEND_MIDDLE = 8192;

/**
 * Listens to every keyboard that is or gets plugged in.
 * @param changed what is plugged in is another
 */
export async function listenToMidiKeyboards(
  listener: MidiNoteListener,
  changed: () => void,
): Promise<MidiListening> {
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
  let chosen: string | null = null;
  const onMessage = (event: MIDIMessageEvent) => {
    if (!event.data || event.data.length < 3) return;
    if (chosen !== null && (event.target as MIDIInput | null)?.id !== chosen) return;
    const [status, midi, velocity] = event.data;
    const kind = status & 0xf0;
    if (kind === NOTE_ON && velocity > 0) listener.down(midi, velocity);
    else if (kind === NOTE_OFF || kind === NOTE_ON) listener.up(midi);
    else if (kind === CONTROL_CHANGE && midi === SUSTAIN) listener.pedal?.(velocity >= PEDAL_DOWN);
    else if (kind === PITCH_BEND)
      // Seven low bits come first.
      listener.bend?.((BEND_SEMITONES * (midi + 128 * velocity - BEND_MIDDLE)) / BEND_MIDDLE);
  };
  const connect = () => {
    for (const input of access.inputs.values()) input.onmidimessage = onMessage;
  };
  connect();
  access.onstatechange = () => {
    connect();
    changed();
  };
  return {
    inputs: () =>
      [...access.inputs.values()]
        .filter(({ state }) => state !== 'disconnected')
        .map(({ id, name }) => ({ id, name: name ?? 'a keyboard' })),
    choose(inputId) {
      chosen = inputId;
    },
    stop() {
      access.onstatechange = null;
      for (const input of access.inputs.values()) input.onmidimessage = null;
    },
  };
}
