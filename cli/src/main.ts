/** `plundra <command> …`: the same core without a screen and without the server. */
import { AudioFormatError, MidiFormatError } from '@plundra/core/formats';
import { Problem } from '@plundra/server/store';
import { chords } from './chords.ts';
import { exportSong } from './exportSong.ts';
import { harmony } from './harmony.ts';
import { hits } from './hits.ts';
import { importFiles } from './importFiles.ts';
import { melody } from './melody.ts';
import { midi } from './midi.ts';
import { notes } from './notes.ts';
import { tempo } from './tempo.ts';
import { tune } from './tune.ts';
import { UsageError } from './usage.ts';

const USAGE = `Usage: plundra <command>
  melody IN [--kind voice|guitar|bass|auto] [--out FILE.json]
      contour and notes of a single-line recording as JSON
  notes IN [--sensitivity 0-1] [--out FILE.json]
      all notes of a chordal recording as JSON
  hits IN [--sensitivity 0-1] [--out FILE.json]
      the hits of a drum recording by kind as JSON
  chords IN [--out FILE.json]
      key and chords of a recording, with other readings, as JSON
  tempo IN [--out FILE.json]
      tempo, beats, bar lines and onsets as JSON
  midi IN --out OUT.mid [--melody [--kind …] [--bends]|--notes|--hits|--chords] [--sensitivity …] [--bpm N]
      the same notes as a MIDI file; chords as voiced notes
  tune IN --out OUT.wav [--key G:major] [--pitch 0-100] [--vibrato 0-200] [--wander 0-200]
       [--grid 1/16 --bpm N [--first-beat S] [--pull 0-100] [--swing 0-100]] [--targets FILE.json] [--kind …]
      pitch and timing of a single line corrected; --vibrato and --wander say how much of them stays
  harmony IN --out OUT.wav --interval 3rd-above|6th-below|… --key G:major [--kind …]
      the recording as a second voice
  import FILE… [--title TITLE]
      a new song from recordings and MIDI files, in the data folder
  export SONG --out FILE.(mid|txt|cho)
      a song of the data folder (by title or id) as a MIDI file, or its chord sheet as text
IN: WAV, FLAC, MP3 or OGG. The data folder is PLUNDRA_DATA, or data in this checkout.`;

const commands: Record<string, (args: string[]) => Promise<void>> = {
  melody,
  midi,
  notes,
  hits,
  chords,
  tempo,
  tune,
  harmony,
  import: importFiles,
  export: exportSong,
};

const [name, ...args] = process.argv.slice(2);
try {
  const command = commands[name ?? ''];
  if (!command) throw new UsageError(name ? `There is no command “${name}”.` : 'A command is missing.');
  await command(args);
} catch (error) {
  if (error instanceof UsageError) {
    console.error(`${error.message}\n\n${USAGE}`);
    process.exitCode = 2;
  } else {
    const known =
      error instanceof AudioFormatError || error instanceof MidiFormatError || error instanceof Problem;
    const code = (error as { code?: string }).code;
    if (known) console.error(error.message);
    else if (code === 'ENOENT')
      console.error(`The file ${(error as { path?: string }).path} is not there. Check its name.`);
    else console.error(error);
    process.exitCode = 1;
  }
}
