/** `plundra <command> …`: the same core without a screen and without the server. */
import { UsageError } from './usage.ts';

const USAGE = `Usage: plundra <command>
  melody IN [--kind voice|guitar|bass|auto] [--out FILE.json]
      contour and notes of a single-line recording as JSON
  notes IN [--sensitivity 0-1] [--out FILE.json]
      all notes of a chordal recording as JSON
  hits IN [--sensitivity 0-1] [--out FILE.json]
      the hits of a drum recording by kind as JSON
  chords IN [--near BPM] [--out FILE.json]
      key and chords of a recording, with other readings, as JSON; --near: beats are looked for at about this tempo
  tempo IN [--near BPM|--loop] [--out FILE.json]
      tempo, beats, bar lines and onsets as JSON; --loop: IN is a loop, so it holds a whole number of beats, and its key is read
  midi IN --out OUT.mid [--melody [--kind …] [--bends]|--notes|--hits|--chords] [--sensitivity …] [--bpm N]
      the same notes as a MIDI file; chords as voiced notes
  tune IN --out OUT.wav [--key G:major] [--pitch 0-100] [--vibrato 0-200] [--wander 0-200]
       [--grid 1/16 --bpm N [--first-beat S] [--pull 0-100] [--swing 0-100]] [--targets FILE.json] [--kind …]
      pitch and timing of a single line corrected; --vibrato and --wander say how much of them stays
  harmony IN --out OUT.wav --interval 3rd-above|6th-below|… --key G:major [--kind …]
      the recording as a second voice
  import FILE… [--title TITLE]
      a new song from recordings and MIDI files, in the data folder
  show SONG [--out FILE.json]
      the document of a song of the data folder (by title or id) as JSON
  export SONG --out FILE.(mid|txt|cho)
      a song of the data folder (by title or id) as a MIDI file, or its chord sheet as text
IN: WAV, FLAC, MP3 or OGG. The data folder is PLUNDRA_DATA, or data in this checkout.`;

type Command = (args: string[]) => Promise<void>;

/** Each is loaded only when it is called: readers bring their weights, the data folder a database. */
const commands: Record<string, () => Promise<Command>> = {
  melody: async () => (await import('./melody.ts')).melody,
  midi: async () => (await import('./midi.ts')).midi,
  notes: async () => (await import('./notes.ts')).notes,
  hits: async () => (await import('./hits.ts')).hits,
  chords: async () => (await import('./chords.ts')).chords,
  tempo: async () => (await import('./tempo.ts')).tempo,
  tune: async () => (await import('./tune.ts')).tune,
  harmony: async () => (await import('./harmony.ts')).harmony,
  import: async () => (await import('./importFiles.ts')).importFiles,
  show: async () => (await import('./show.ts')).show,
  export: async () => (await import('./exportSong.ts')).exportSong,
};

const [name, ...args] = process.argv.slice(2);
try {
  if (['help', '--help', '-h'].includes(name)) console.log(USAGE);
  else {
    if (!name) throw new UsageError('A command is missing.');
    if (!Object.hasOwn(commands, name)) throw new UsageError(`There is no command “${name}”.`);
    const command = await commands[name]();
    await command(args);
  }
} catch (error) {
  if (error instanceof UsageError) {
    console.error(`${error.message}\n\n${USAGE}`);
    process.exitCode = 2;
  } else {
    const known = await isForUsers(error);
    const code = (error as { code?: string }).code;
    if (known) console.error((error as Error).message);
    else if (code === 'ENOENT')
      console.error(`The file ${(error as { path?: string }).path} is not there. Check its name.`);
    else console.error(error);
    process.exitCode = 1;
  }
}

/** Whether the message of an error is a sentence for users. */
async function isForUsers(error: unknown): Promise<boolean> {
  const { AudioFormatError, MidiFormatError } = await import('@plundra/core/formats');
  const { Problem } = await import('@plundra/server/store');
  return error instanceof AudioFormatError || error instanceof MidiFormatError || error instanceof Problem;
}
