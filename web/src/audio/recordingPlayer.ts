/** The recordings of a run of the playhead: started where they lie, started anew where what they play has changed. */
import type { PlayRun } from './engine.ts';
import type { RecordingTrack, Track } from './playlist.ts';
import type { RecordingSound, RecordingSounds, StopSound } from './recordingSounds.ts';

/** A changed correction is heard this much later, when it is ready to play. */
const SWAP_SECONDS = 0.02;

interface RunningSource {
  key: string;
  /** Where it sounds, and with which correction: when either changes it is started anew. */
  state: string;
  stop: StopSound;
}

/** All that decides what a running source plays. */
function stateOf({ correction, originSeconds, fromSeconds, toSeconds }: RecordingTrack): string {
  return [correction?.version ?? 0, originSeconds, fromSeconds, toSeconds].join(' ');
}

const isRecording = (track: Track): track is RecordingTrack => track.type === 'recording';

/** The second of the recording that sounds at a second of the song, or the first that will. */
const placeAt = ({ originSeconds, fromSeconds }: RecordingTrack, songSeconds: number): number =>
  Math.max(fromSeconds, songSeconds - originSeconds);

export class RecordingPlayer {
  private sources: RunningSource[] = [];
  /** Counts starts and stops, so that a start that was waiting for a recording knows it has been overtaken. */
  private round = 0;

  constructor(
    private readonly context: () => AudioContext,
    private readonly sounds: RecordingSounds,
    private readonly outputOf: (track: RecordingTrack) => AudioNode,
  ) {}

  /** Gets ready what will sound from a second of the song on. */
  load(tracks: readonly Track[], songSeconds: number, failed: (error: unknown) => void): Promise<unknown> {
    return Promise.all(
      tracks.filter(isRecording).map(async (track) => {
        // What has passed is not needed; what comes later is got ready on the way.
        if (songSeconds >= track.originSeconds + track.toSeconds) return;
        try {
          const sound = await this.sounds.get(track.hash);
          // A piece that cannot be had is said once, when it should sound.
          await sound.prepare(track, placeAt(track, songSeconds)).catch(() => undefined);
        } catch (error) {
          failed(error);
        }
      }),
    );
  }

  /** Resolves when all that could be fetched is started. */
  async start(tracks: readonly Track[], cycle: PlayRun): Promise<void> {
    const round = ++this.round;
    await Promise.all(
      tracks.filter(isRecording).map(async (track) => {
        const sound = await this.sounds.get(track.hash).catch(() => undefined);
        if (!sound || round !== this.round) return;
        this.startTrack(track, sound, cycle, Math.max(this.context().currentTime, cycle.contextSeconds));
      }),
    );
  }

  /** Whether a recording should sound that was not started. */
  isMissing(tracks: readonly Track[]): boolean {
    const running = new Set(this.sources.map(({ key }) => key));
    return tracks.some((track) => isRecording(track) && !running.has(track.key));
  }

  /** Replaces what sounds where its place or its correction has changed, without a gap. */
  async swapChanged(tracks: readonly Track[], cycle: PlayRun): Promise<void> {
    const { round } = this;
    const context = this.context();
    for (const track of tracks.filter(isRecording)) {
      const running = this.sources.find(({ key }) => key === track.key);
      if (!running || running.state === stateOf(track)) continue;
      const sound = await this.sounds.get(track.hash).catch(() => undefined);
      // Made before the time is taken: laying in a correction takes its time.
      const songSeconds = cycle.songSeconds + context.currentTime - cycle.contextSeconds;
      await sound?.prepare(track, placeAt(track, songSeconds)).catch(() => undefined);
      // Meanwhile it may have been replaced by something newer.
      if (round !== this.round || !sound || !this.sources.includes(running)) continue;
      const at = Math.max(context.currentTime + SWAP_SECONDS, cycle.contextSeconds);
      this.sources = this.sources.filter((source) => source !== running);
      running.stop(at);
      this.startTrack(track, sound, cycle, at);
    }
  }

  /** Ends all at a context time. */
  stop(at: number): void {
    for (const source of this.sources) source.stop(at);
    this.sources = [];
    this.round++;
  }

  /** Lets a track sound from a context time on, wherever the cycle has it then. */
  private startTrack(track: RecordingTrack, sound: RecordingSound, cycle: PlayRun, from: number): void {
    const songSeconds = cycle.songSeconds + from - cycle.contextSeconds;
    const late = songSeconds - track.originSeconds - track.fromSeconds;
    const lengthSeconds = track.toSeconds - track.fromSeconds - Math.max(0, late);
    if (lengthSeconds <= 0) return;
    const stop = sound.start(track, {
      at: from + Math.max(0, -late),
      fromSeconds: track.fromSeconds + Math.max(0, late),
      lengthSeconds,
      output: this.outputOf(track),
      fadeIn: late > 0,
    });
    this.sources.push({ key: track.key, state: stateOf(track), stop });
  }
}
