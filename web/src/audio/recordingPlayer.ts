/** The recordings of a run of the playhead: started where they lie, started anew where what they play has changed. */
import type { PlayRun } from './engine.ts';
import type { RecordingTrack, Track } from './playlist.ts';
import type { RecordingSound, RecordingSounds, Sounding } from './recordingSounds.ts';

/** What has changed is heard this much later, when it is ready to play. */
const SWAP_SECONDS = 0.02;
/** A passage is started this long before it sounds; a song may have thousands. */
const AHEAD_SECONDS = 10;

interface RunningSource {
  key: string;
  /** Where it sounds, and with which correction: when either changes it is started anew. */
  state: string;
  sounding: Sounding;
}

/** All that decides what a running source plays. */
function stateOf(track: RecordingTrack): string {
  const { correction, originSeconds, fromSeconds, toSeconds, levelDb, fadeInSeconds, fadeOutSeconds } = track;
  return [
    correction?.version ?? 0,
    originSeconds,
    fromSeconds,
    toSeconds,
    levelDb,
    fadeInSeconds,
    fadeOutSeconds,
  ].join(' ');
}

const isRecording = (track: Track): track is RecordingTrack => track.type === 'recording';

/** The second of the recording that sounds at a second of the song, or the first that will. */
const placeAt = ({ originSeconds, fromSeconds }: RecordingTrack, songSeconds: number): number =>
  Math.max(fromSeconds, songSeconds - originSeconds);

/** What sounds at a second of the song or begins soon after it. */
const soonOf = (tracks: readonly Track[], songSeconds: number): RecordingTrack[] =>
  tracks.filter(
    (track): track is RecordingTrack =>
      isRecording(track) &&
      track.originSeconds + track.toSeconds > songSeconds &&
      track.originSeconds + track.fromSeconds < songSeconds + AHEAD_SECONDS,
  );

export class RecordingPlayer {
  private sources: RunningSource[] = [];
  /** What is on the way to be started, and how it will sound: it is not asked for twice. */
  private readonly beginning = new Map<string, string>();
  /** Counts starts and stops, so that a start that was waiting for a recording knows it has been overtaken. */
  private round = 0;

  constructor(
    private readonly context: () => BaseAudioContext,
    private readonly sounds: RecordingSounds,
    private readonly outputOf: (track: RecordingTrack) => AudioNode,
  ) {}

  /** Gets ready what will sound from a second of the song on. */
  load(tracks: readonly Track[], songSeconds: number, failed: (error: unknown) => void): Promise<unknown> {
    return Promise.all(
      soonOf(tracks, songSeconds).map(async (track) => {
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

  /** Resolves when all is started that sounds soon and could be fetched. */
  async start(tracks: readonly Track[], cycle: PlayRun): Promise<void> {
    const round = ++this.round;
    await Promise.all(
      soonOf(tracks, cycle.songSeconds).map(async (track) => {
        const sound = await this.sounds.get(track.hash).catch(() => undefined);
        if (!sound || round !== this.round) return;
        this.startTrack(track, sound, cycle, Math.max(this.context().currentTime, cycle.contextSeconds));
      }),
    );
  }

  /**
   * Goes on with what should sound now and soon: what is new is started, what has changed is replaced without a gap, and
   * what is gone is ended.
   */
  async update(tracks: readonly Track[], cycle: PlayRun): Promise<void> {
    const { round } = this;
    const context = this.context();
    const wanted = new Map(tracks.filter(isRecording).map((track) => [track.key, track]));
    const gone = this.sources.filter(({ key }) => !wanted.has(key));
    if (gone.length > 0) {
      const at = Math.max(context.currentTime + SWAP_SECONDS, cycle.contextSeconds);
      gone.forEach(({ sounding }) => sounding.stop(at));
      this.sources = this.sources.filter((source) => !gone.includes(source));
    }
    const running = new Map(this.sources.map((source) => [source.key, source]));
    const now = () => cycle.songSeconds + context.currentTime - cycle.contextSeconds;
    const asked = soonOf(tracks, now()).filter(
      (track) =>
        running.get(track.key)?.state !== stateOf(track) && this.beginning.get(track.key) !== stateOf(track),
    );
    await Promise.all(
      asked.map(async (track) => {
        const before = running.get(track.key);
        const there = this.sounds.ready(track.hash);
        // What is made while it plays need not be waited for: what it replaces goes on until it is there.
        if (there && track.correction?.made && (!before || before.sounding.replacedBy)) {
          this.sources = this.sources.filter((source) => source !== before);
          const at = Math.max(context.currentTime, cycle.contextSeconds);
          this.startTrack(track, there, cycle, at, before?.sounding);
          return;
        }
        this.beginning.set(track.key, stateOf(track));
        const sound = there ?? (await this.sounds.get(track.hash).catch(() => undefined));
        // Made before the time is taken: laying in a correction takes its time.
        await sound?.prepare(track, placeAt(track, now())).catch(() => undefined);
        if (this.beginning.get(track.key) === stateOf(track)) this.beginning.delete(track.key);
        const still = this.sources.find(({ key }) => key === track.key);
        // Meanwhile it may have been replaced by something newer, or all may have been stopped.
        if (round !== this.round || !sound || still !== before) return;
        const at = Math.max(context.currentTime + SWAP_SECONDS, cycle.contextSeconds);
        if (before) {
          this.sources = this.sources.filter((source) => source !== before);
          before.sounding.stop(at);
        }
        this.startTrack(track, sound, cycle, at);
      }),
    );
  }

  /** Ends all at a context time. */
  stop(at: number): void {
    for (const { sounding } of this.sources) sounding.stop(at);
    this.sources = [];
    this.beginning.clear();
    this.round++;
  }

  /** Lets a track sound from a context time on, wherever the cycle has it then. */
  private startTrack(
    track: RecordingTrack,
    sound: RecordingSound,
    cycle: PlayRun,
    from: number,
    replaces?: Sounding,
  ): void {
    const songSeconds = cycle.songSeconds + from - cycle.contextSeconds;
    const late = songSeconds - track.originSeconds - track.fromSeconds;
    const lengthSeconds = track.toSeconds - track.fromSeconds - Math.max(0, late);
    // Only what goes on where the other was heard lets it sound until then.
    if (late <= 0 || lengthSeconds <= 0) replaces?.stop(from);
    if (lengthSeconds <= 0) return;
    const sounding = sound.start(track, {
      at: from + Math.max(0, -late),
      fromSeconds: track.fromSeconds + Math.max(0, late),
      lengthSeconds,
      output: this.outputOf(track),
      fadeIn: late > 0,
      ...(replaces && late > 0 && { replaces }),
    });
    this.sources.push({ key: track.key, state: stateOf(track), sounding });
  }
}
