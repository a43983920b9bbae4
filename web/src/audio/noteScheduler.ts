/** Tells the sampler ahead of time what the note parts play, and again when they change while they sound. */
import type { Seconds } from '@plundra/core/signal';
import { firstFrom } from './firstFrom.ts';
import type { PlayRun } from './engine.ts';
import type { NoteTrack, PlayedNote, Track } from './playlist.ts';
import { replan, type TimedNote } from './replan.ts';
import type { SamplerVoice } from './sampler.ts';

const SHORTEST_SECONDS = 0.03;

interface SoundingNote extends TimedNote {
  key: string;
  /** Its end is planned in the sampler. */
  ended: boolean;
  off: (midi: number, at: Seconds) => void;
}

export class NoteScheduler {
  private sounding: SoundingNote[] = [];

  /** @param voiceOf undefined while the sampler is not ready */
  constructor(private readonly voiceOf: (track: NoteTrack) => SamplerVoice | undefined) {}

  /** Plans what starts between two times of the song. */
  plan(tracks: readonly Track[], cycle: PlayRun, from: Seconds, to: Seconds): void {
    for (const track of tracks) {
      const voice = track.type === 'notes' && this.voiceOf(track);
      if (!voice) continue;
      for (const bend of track.bends) {
        if (bend.timeSeconds >= from && bend.timeSeconds < to)
          voice.bend(bend.semitones, contextTime(cycle, bend.timeSeconds));
      }
      for (
        let i = firstFrom(track.notes, from);
        i < track.notes.length && track.notes[i].startSeconds < to;
        i++
      )
        this.strike(track.key, voice, timed(cycle, track.notes[i]));
    }
  }

  /**
   * Lets notes that changed under the playhead, or a moment before it, sound as they are now.
   * @param now context time from which something can still be changed
   * @param until time of the song up to which notes are planned
   */
  replan(tracks: readonly Track[], cycle: PlayRun, now: Seconds, until: Seconds): void {
    const horizon = contextTime(cycle, until);
    for (const track of tracks) {
      const voice = track.type === 'notes' && this.voiceOf(track);
      if (!voice) continue;
      const planned = this.sounding.filter(({ key }) => key === track.key);
      const wanted = track.notes
        // Notes that began before the playhead are not struck.
        .filter(({ startSeconds }) => startSeconds >= cycle.songSeconds && startSeconds < until)
        .map((note) => timed(cycle, note));
      const again = replan(planned, wanted, now, horizon);
      if (!again) continue;
      for (const cut of again.cuts) voice.cut(cut);
      this.sounding = this.sounding.filter(({ key }) => key !== track.key);
      for (const note of again.notes) this.strike(track.key, voice, note);
    }
  }

  /** Plans the ends that lie before `limit`. Context times. */
  end(now: Seconds, limit: Seconds): void {
    this.sounding = this.sounding.filter((note) => {
      if (note.offSeconds <= limit && !note.ended) {
        note.off(note.midi, note.offSeconds);
        note.ended = true;
      }
      return note.offSeconds > now;
    });
  }

  /** Ends everything at a context time. */
  endAll(atSeconds: Seconds): void {
    for (const note of this.sounding) if (!note.ended) note.off(note.midi, atSeconds);
    this.sounding = [];
  }

  forget(): void {
    this.sounding = [];
  }

  private strike(key: string, voice: SamplerVoice, note: TimedNote & { velocity: number }): void {
    const { midi, velocity, onSeconds, offSeconds } = note;
    voice.noteOn(midi, velocity, onSeconds);
    this.sounding.push({ key, midi, onSeconds, offSeconds, ended: false, off: voice.noteOff });
  }
}

function contextTime(cycle: PlayRun, songSeconds: Seconds): Seconds {
  return cycle.contextSeconds + songSeconds - cycle.songSeconds;
}

function timed(cycle: PlayRun, { midi, velocity, startSeconds, endSeconds }: PlayedNote) {
  return {
    midi,
    velocity,
    onSeconds: contextTime(cycle, startSeconds),
    offSeconds: contextTime(cycle, Math.max(endSeconds, startSeconds + SHORTEST_SECONDS)),
  };
}
