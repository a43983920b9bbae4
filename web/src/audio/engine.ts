/**
 * Playing: one Web Audio graph for recordings and sampled notes. Recordings run as buffer sources; notes are
 * handed to the sampler a little ahead of their time, read from the song afresh each time, so that an edit is
 * heard as soon as the playhead reaches it.
 */
import { laterIn } from './later.ts';
import { createLiveSound, LIVE_KEYS } from './liveSound.ts';
import { Mixer } from './mixer.ts';
import { NoteScheduler } from './noteScheduler.ts';
import { RecordingPlayer } from './recordingPlayer.ts';
import { createRecordingSounds } from './recordingSounds.ts';
import { createSampler, type Sampler } from './sampler.ts';
import type { Track } from './playlist.ts';

export interface LoopRange {
  startSeconds: number;
  endSeconds: number;
}

export interface PlayState {
  playing: boolean;
  /** Sounds are being fetched before play can begin. */
  loading: boolean;
  loop: LoopRange | null;
  loopOn: boolean;
  metronome: boolean;
  /** A bar of clicks goes before playing and recording. */
  countIn: boolean;
  /** Where the take begins that is being recorded; null: none is. */
  recordingFromSeconds: number | null;
}

export interface BeatClick {
  timeSeconds: number;
  downbeat: boolean;
}

/** What the engine asks while it plays. */
export interface EngineSources {
  tracks(): Track[];
  endSeconds(): number;
  /** Beats between two times of the song. */
  beats(fromSeconds: number, toSeconds: number): BeatClick[];
  /** Beats of so many bars before a time, as seconds before it. */
  countIn(atSeconds: number, bars: number): number[];
  problem(message: string): void;
}

export interface PlayOptions {
  /**
   * Something is recorded: the song does not end, and goes round a loop only where that is wanted. `notes`: they are played in, and
   * no take is recorded.
   */
  record?: { loop: boolean; notes?: true };
  /** Bars of clicks that come before; absent: one where that is set. */
  countInBars?: number;
  /** Whether beats are heard while it plays; absent: as set. */
  metronome?: boolean;
  /** Clicks on other beats than those of the song, from here to the end whatever goes round; asked for as it plays. */
  beats?: EngineSources['beats'];
}

const LOOKAHEAD_SECONDS = 0.18;
/** A new plan begins this much later, so that it reaches the sampler in time. */
const REPLAN_SECONDS = 0.01;
const TICK_MS = 40;
/** Time between pressing play and the first sample, so that everything starts together. */
const START_DELAY_SECONDS = 0.06;
/** How long before the end of a loop its beginning is made ready. */
const LOOP_AHEAD_SECONDS = 8;

/** Beginnings of passages are looked for this often; they are started long before they sound. */
const BEGINNINGS_MS = 1000;

/** One run of the playhead. */
export interface PlayRun {
  /** Context time at which song second `songSeconds` sounds. */
  contextSeconds: number;
  songSeconds: number;
}

export class Engine {
  private context: AudioContext | undefined;
  private sampler: Sampler | undefined;
  private samplerLoading: Promise<Sampler> | undefined;
  private mixer: Mixer | undefined;
  private clicks: { tone: OscillatorNode; until: number }[] = [];
  private cycle: PlayRun | undefined;
  private plannedUntil = 0;
  private ticks = 0;
  private timer: ReturnType<typeof setInterval> | undefined;
  /** Counts starts and stops, so that a start that was waiting for a recording knows it has been overtaken. */
  private run = 0;
  private restSeconds = 0;
  /** Context times of the clicks that count in the run. */
  private countInAt: number[] = [];
  private recording: PlayOptions['record'];
  private clicksWanted: boolean | undefined;
  private otherBeats: PlayOptions['beats'];
  private state: PlayState = {
    playing: false,
    loading: false,
    loop: null,
    loopOn: false,
    metronome: false,
    countIn: false,
    recordingFromSeconds: null,
  };
  private readonly listeners = new Set<() => void>();

  private readonly notes = new NoteScheduler((track) =>
    this.sampler?.voice(track.key, track.program, this.strip(track)),
  );

  private readonly sounds = createRecordingSounds(
    () => this.ensureContext(),
    laterIn(() => this.ensureContext()),
    (error) => this.fail(error),
  );
  private readonly recordings = new RecordingPlayer(
    () => this.ensureContext(),
    this.sounds,
    (track) => this.strip(track),
  );
  private rounds = 0;
  /** The round of the loop whose next one is made ready. */
  private loopReady: PlayRun | undefined;

  private asked: EngineSources = {
    tracks: () => [],
    endSeconds: () => 0,
    beats: () => [],
    countIn: () => [],
    problem: () => undefined,
  };

  /** Notes played by hand, at once. */
  readonly live = createLiveSound(
    async () => {
      const context = this.ensureContext();
      await context.resume();
      const sampler = await this.ensureSampler();
      return { context, sampler, output: (key) => this.mix().strip({ strip: key, gainDb: 0, pan: 0 }) };
    },
    (error) => this.fail(error),
  );

  /**
   * What sounds from now on.
   * @param make has made what is new in it; what is heard until then goes on
   */
  setTracks(tracks: () => Track[], make: () => void): void {
    this.asked = { ...this.asked, tracks };
    make();
    this.refresh();
  }

  setSources(asked: EngineSources): void {
    this.asked = asked;
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  getState = (): PlayState => this.state;

  /** Where the playhead is, in seconds of the song. */
  positionSeconds(): number {
    if (!this.context || !this.cycle || !this.state.playing) return this.restSeconds;
    const since = this.context.currentTime - this.context.baseLatency - this.cycle.contextSeconds;
    return Math.max(this.restSeconds, this.cycle.songSeconds + since);
  }

  /** The same for what is played by hand: while it is counted in, before where the playhead waits. */
  playedSeconds(): number {
    if (!this.context || !this.cycle || !this.state.playing) return this.restSeconds;
    const since = this.context.currentTime - this.context.baseLatency - this.cycle.contextSeconds;
    return this.cycle.songSeconds + since;
  }

  /** How often the loop has gone round since it began to play. */
  roundsPlayed(): number {
    return this.rounds;
  }

  /** The beat of the count-in that sounds now, from 1 on; null while the song runs or rests. */
  countInBeat(): number | null {
    if (!this.context || !this.cycle || !this.state.playing || this.countInAt.length === 0) return null;
    const now = this.context.currentTime;
    if (now >= this.cycle.contextSeconds) return null;
    return Math.max(1, this.countInAt.filter((at) => at <= now).length);
  }

  /** Fetches and decodes ahead of the first play. */
  prepare(hashes: readonly string[]): void {
    for (const hash of hashes) void this.sounds.get(hash).catch(() => undefined);
  }

  /**
   * Plays from where the playhead rests. Returns when the playhead begins to move; undefined when it does not.
   */
  async play({
    record,
    countInBars = this.state.countIn ? 1 : 0,
    metronome,
    beats,
  }: PlayOptions = {}): Promise<PlayRun | undefined> {
    if (this.state.playing || this.state.loading) return undefined;
    this.recording = record;
    this.clicksWanted = metronome;
    this.otherBeats = beats;
    this.set({ loading: true });
    try {
      const context = this.ensureContext();
      await context.resume();
      const tracks = this.asked.tracks();
      const loads = [this.recordings.load(tracks, this.startSeconds(), (error) => this.fail(error))];
      if (tracks.some((track) => track.type === 'notes'))
        loads.push(this.ensureSampler().catch((error: unknown) => this.fail(error)));
      await Promise.all(loads);
      const from = this.startSeconds();
      this.restSeconds = from;
      const before = countInBars > 0 ? this.asked.countIn(from, countInBars) : [];
      const start = context.currentTime + START_DELAY_SECONDS + (before[0] ?? 0);
      this.countInAt = before.map((seconds) => start - seconds);
      const perBar = before.length / Math.max(1, countInBars);
      this.countInAt.forEach((at, i) => this.click(at, i % perBar === 0));
      this.cycle = { contextSeconds: start, songSeconds: from };
      this.rounds = 0;
      this.plannedUntil = from;
      const run = ++this.run;
      this.set({
        playing: true,
        loading: false,
        recordingFromSeconds: record && !record.notes ? from : null,
      });
      const { cycle } = this;
      await this.recordings.start(tracks, cycle);
      if (run !== this.run) return undefined;
      this.tick();
      this.timer = setInterval(() => this.tick(), TICK_MS);
      return cycle;
    } catch (error) {
      this.set({ loading: false, playing: false });
      this.fail(error);
      return undefined;
    }
  }

  stop(): void {
    if (!this.state.playing) return;
    this.restSeconds = this.positionSeconds();
    this.silence();
    this.set({ playing: false, recordingFromSeconds: null });
  }

  toggle(): void {
    if (this.state.playing) this.stop();
    else void this.play();
  }

  seek(seconds: number): void {
    const wasPlaying = this.state.playing;
    if (wasPlaying) this.silence();
    this.restSeconds = Math.max(0, seconds);
    this.set({ playing: false });
    if (wasPlaying) void this.play({ countInBars: 0, beats: this.otherBeats });
  }

  setLoop(loop: LoopRange | null): void {
    // Rounds that are being recorded are as long as the first.
    if (this.goesRound()) return;
    this.set({ loop, loopOn: loop !== null && (this.state.loopOn || this.state.loop === null) });
  }

  toggleLoop(): void {
    this.set({ loopOn: !this.state.loopOn && this.state.loop !== null });
  }

  toggleMetronome(): void {
    this.set({ metronome: !this.state.metronome });
  }

  toggleCountIn(): void {
    this.set({ countIn: !this.state.countIn });
  }

  sampleRateHz(): number {
    return this.ensureContext().sampleRate;
  }

  private goesRound(): boolean {
    return this.state.playing && this.recording?.loop === true;
  }

  /** Where play begins. */
  private startSeconds(): number {
    const loop = this.activeLoop();
    const from = this.restSeconds;
    if (loop && (from < loop.startSeconds || from >= loop.endSeconds)) return loop.startSeconds;
    return !this.recording && from >= this.asked.endSeconds() ? (loop?.startSeconds ?? 0) : from;
  }

  private activeLoop(): LoopRange | null {
    const wanted = this.recording ? this.recording.loop : this.state.loopOn && !this.otherBeats;
    return wanted ? this.state.loop : null;
  }

  /** Plays on with other tracks, levels or listen mode. */
  refresh(): void {
    const { context } = this;
    if (!context || !this.state.playing) return;
    const tracks = this.asked.tracks();
    for (const track of tracks) this.strip(track);
    this.mix().keep(new Set([...tracks.map(({ strip }) => strip), ...LIVE_KEYS]));
    if (this.cycle) void this.recordings.update(tracks, this.cycle);
    // The next round of a loop is planned with what is known when it begins.
    if (this.cycle && this.plannedUntil >= this.positionSeconds())
      this.notes.replan(tracks, this.cycle, context.currentTime + REPLAN_SECONDS, this.plannedUntil);
  }

  close(): void {
    this.silence();
    this.sounds.close();
    void this.context?.close();
  }

  private tick(): void {
    const { context, cycle } = this;
    if (!context || !cycle) return;
    const heardNow = this.positionSeconds();
    const limit = context.currentTime + LOOKAHEAD_SECONDS;
    const loop = this.activeLoop();
    const end = loop ? loop.endSeconds : Infinity;
    const horizon = Math.min(end, cycle.songSeconds + (limit - cycle.contextSeconds));
    this.planNotes(cycle, this.plannedUntil, horizon);
    this.plannedUntil = Math.max(this.plannedUntil, horizon);
    this.notes.end(context.currentTime, limit);
    if (++this.ticks % Math.round(BEGINNINGS_MS / TICK_MS) === 0)
      void this.recordings.update(this.asked.tracks(), cycle);
    if (loop && heardNow > end - LOOP_AHEAD_SECONDS && this.loopReady !== cycle) {
      this.loopReady = cycle;
      // What cannot be fetched is said when it should sound.
      void this.recordings.load(this.asked.tracks(), loop.startSeconds, () => undefined);
    }
    if (loop && horizon >= end) {
      this.restart({
        contextSeconds: cycle.contextSeconds + (end - cycle.songSeconds),
        songSeconds: loop.startSeconds,
      });
    } else if (!this.recording && heardNow > this.asked.endSeconds() + 0.5) {
      this.stop();
      this.restSeconds = 0;
      this.set({});
    }
  }

  /** The next round of a loop: planned at its exact time, taken over when it is reached. */
  private restart(next: PlayRun): void {
    const context = this.context!;
    this.recordings.stop(next.contextSeconds);
    this.notes.endAll(next.contextSeconds);
    const delay = Math.max(0, next.contextSeconds - context.currentTime);
    const before = this.cycle;
    this.plannedUntil = next.songSeconds;
    void this.recordings.start(this.asked.tracks(), next);
    // Until then the playhead still runs in the old round.
    clearInterval(this.timer);
    setTimeout(() => {
      if (!this.state.playing || this.cycle !== before) return;
      this.cycle = next;
      this.rounds++;
      this.restSeconds = next.songSeconds;
      this.tick();
      this.timer = setInterval(() => this.tick(), TICK_MS);
    }, delay * 1000);
    this.planNotes(next, next.songSeconds, next.songSeconds + LOOKAHEAD_SECONDS);
    this.plannedUntil = next.songSeconds + LOOKAHEAD_SECONDS;
  }

  private planNotes(cycle: PlayRun, from: number, to: number): void {
    if (to <= from) return;
    this.notes.plan(this.asked.tracks(), cycle, from, to);
    const wanted = this.otherBeats !== undefined || (this.clicksWanted ?? this.state.metronome);
    const beats = wanted ? (this.otherBeats ?? this.asked.beats)(from, to) : [];
    for (const { timeSeconds, downbeat } of beats)
      this.click(cycle.contextSeconds + timeSeconds - cycle.songSeconds, downbeat);
  }

  /** The decoded sound of a recording; undefined where it is too long to be held. */
  async decoded(hash: string): Promise<AudioBuffer | undefined> {
    return (await this.sounds.get(hash)).decoded;
  }

  private silence(): void {
    clearInterval(this.timer);
    this.recordings.stop(0);
    for (const { tone } of this.clicks) tone.stop(0);
    this.clicks = [];
    this.notes.forget();
    this.sampler?.silenceAll();
    this.cycle = undefined;
    this.run++;
  }

  private click(at: number, downbeat: boolean): void {
    const context = this.context!;
    const tone = context.createOscillator();
    const level = context.createGain();
    tone.frequency.value = downbeat ? 1568 : 1046;
    level.gain.setValueAtTime(downbeat ? 0.35 : 0.22, at);
    level.gain.exponentialRampToValueAtTime(0.001, at + 0.05);
    tone.connect(level).connect(this.mix().input);
    tone.start(at);
    tone.stop(at + 0.06);
    this.clicks = this.clicks.filter((each) => each.until > context.currentTime);
    this.clicks.push({ tone, until: at + 0.06 });
  }

  /** Where what belongs to no part is heard. */
  output(): AudioNode {
    return this.mix().input;
  }

  ensureContext(): AudioContext {
    this.context ??= new AudioContext({ latencyHint: 'interactive' });
    return this.context;
  }

  private ensureSampler(): Promise<Sampler> {
    this.samplerLoading ??= createSampler(this.ensureContext()).then(
      (sampler) => (this.sampler = sampler),
      (error: unknown) => {
        this.samplerLoading = undefined;
        throw error;
      },
    );
    return this.samplerLoading;
  }

  private mix(): Mixer {
    this.mixer ??= new Mixer(this.ensureContext());
    return this.mixer;
  }

  private strip(track: Track): AudioNode {
    return this.mix().strip(track);
  }

  private fail(error: unknown): void {
    this.asked.problem(
      error instanceof Error
        ? error.message
        : 'The sound could not be played. Reload the page and try again.',
    );
  }

  private set(change: Partial<PlayState>): void {
    this.state = { ...this.state, ...change };
    this.listeners.forEach((listener) => listener());
  }
}
