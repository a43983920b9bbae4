/**
 * A stretch of the song as one sound, faster than it sounds: the players, the mixer and the sampler are those of listening,
 * in a context that is stopped every second to be told what comes next.
 */
import { DueWork } from './later.ts';
import { Mixer } from './mixer.ts';
import { NoteScheduler } from './noteScheduler.ts';
import { RecordingPlayer } from './recordingPlayer.ts';
import { createRecordingSounds } from './recordingSounds.ts';
import { createSampler, type Sampler } from './sampler.ts';
import type { NoteTrack, Track } from './playlist.ts';

export interface RenderRequest {
  /** Asked when the decoded sounds are there, at the rate of the file. */
  tracks: (decoded: (hash: string) => Promise<AudioBuffer | undefined>) => Promise<Track[]>;
  fromSeconds: number;
  toSeconds: number;
  sampleRateHz: number;
  /** Share that is done, 0–1. */
  progress(share: number): void;
  signal: AbortSignal;
}

/** What rings on after the end is kept for so long at the most, and ends where it can no longer be heard. */
const TAIL_SECONDS = 6;
const INAUDIBLE = 10 ** (-90 / 20);
/** Rendering stops this often to be told what comes next. Long recordings come in pieces, long enough before they sound. */
const STEP_SECONDS = 1;
const AHEAD_SECONDS = 12;
/** Longer ones do not fit in the memory of a page: two channels of floats. */
export const LONGEST_RENDER_SECONDS = 1800;

/** @throws AbortError when the signal says so; an error with a sentence for what cannot be had */
export async function renderSound(request: RenderRequest): Promise<AudioBuffer> {
  const { fromSeconds, toSeconds, sampleRateHz, signal } = request;
  const lengthSeconds = toSeconds - fromSeconds;
  const frames = Math.ceil((lengthSeconds + TAIL_SECONDS) * sampleRateHz);
  const context = new OfflineAudioContext(2, frames, sampleRateHz);
  const failures: unknown[] = [];
  const due = new DueWork();
  const sounds = createRecordingSounds(
    () => context,
    due.later,
    (error) => failures.push(error),
  );
  try {
    const tracks = withinRange(
      await request.tracks(async (hash) => (await sounds.get(hash)).decoded),
      toSeconds,
    );
    signal.throwIfAborted();
    const mixer = new Mixer(context);
    const strip = (track: Track) => mixer.strip(track);
    let sampler: Sampler | undefined;
    const notes = new NoteScheduler((track) => sampler?.voice(track.key, track.program, strip(track)));
    const recordings = new RecordingPlayer(() => context, sounds, strip);
    const cycle = { contextSeconds: 0, songSeconds: fromSeconds };
    const noteTracks = tracks.filter((track) => track.type === 'notes');

    /** Everything that begins before the next stop is known before it is rendered. */
    const tell = async (atSeconds: number) => {
      const next = atSeconds + STEP_SECONDS;
      if (atSeconds === 0) {
        if (noteTracks.length > 0) sampler = await createSampler(context, sizeOf(noteTracks));
        // None is left out without a word because it could not be fetched.
        await Promise.all(tracks.map((track) => track.type === 'recording' && sounds.get(track.hash)));
        await recordings.start(tracks, cycle);
      } else await recordings.update(tracks, cycle);
      await due.until(atSeconds + AHEAD_SECONDS);
      await sounds.fed(next);
      notes.plan(tracks, cycle, fromSeconds + atSeconds, Math.min(fromSeconds + next, toSeconds));
      notes.end(atSeconds, next);
      await sampler?.told();
      request.progress(atSeconds / (frames / sampleRateHz));
      if (failures.length > 0) throw failures[0];
      signal.throwIfAborted();
    };
    const told = new Promise<void>((resolve, reject) => {
      const stopAt = (atSeconds: number) => {
        if (atSeconds >= lengthSeconds + TAIL_SECONDS) return resolve();
        context
          .suspend(atSeconds)
          .then(async () => {
            stopAt(atSeconds + STEP_SECONDS);
            await tell(atSeconds);
            await context.resume();
          })
          .catch(reject);
      };
      stopAt(0);
    });
    const rendering = context.startRendering();
    await told;
    return shortened(context, await rendering, Math.ceil(lengthSeconds * sampleRateHz));
  } finally {
    sounds.close();
  }
}

/** What goes on beyond the range ends with it. */
function withinRange(tracks: readonly Track[], toSeconds: number): Track[] {
  return tracks
    .map((track) => {
      if (track.type === 'recording') {
        const last = toSeconds - track.originSeconds;
        return track.toSeconds <= last ? track : { ...track, toSeconds: last, fadeOutSeconds: undefined };
      }
      const notes = track.notes
        .filter(({ startSeconds }) => startSeconds < toSeconds)
        .map((note) => (note.endSeconds <= toSeconds ? note : { ...note, endSeconds: toSeconds }));
      return { ...track, notes };
    })
    .filter((track) => track.type === 'notes' || track.toSeconds > track.fromSeconds);
}

function sizeOf(tracks: readonly NoteTrack[]) {
  const drums = tracks.filter(({ program }) => program === 'drums').length;
  return { pitched: tracks.length - drums, drums };
}

/** Without the silence after the last that can be heard, but never shorter than so many frames. */
function shortened(context: BaseAudioContext, sound: AudioBuffer, leastFrames: number): AudioBuffer {
  const channels = Array.from({ length: sound.numberOfChannels }, (_, c) => sound.getChannelData(c));
  let frames = sound.length;
  while (frames > leastFrames && channels.every((channel) => Math.abs(channel[frames - 1]) < INAUDIBLE))
    frames--;
  const short = context.createBuffer(channels.length, Math.max(1, frames), sound.sampleRate);
  channels.forEach((channel, c) => short.copyToChannel(channel.subarray(0, frames), c));
  return short;
}
