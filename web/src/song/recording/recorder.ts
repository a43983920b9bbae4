/**
 * Recording: an input that is open, a take on its way to the server, and what becomes of it in the song. One for each open
 * song, apart from React.
 */
import type { TakeBeginning } from '@plundra/contract';
import type { Edit, Song, TimeMap } from '@plundra/core/song';
import { MAX_TICKS, planSetAside } from '@plundra/core/song';
import type { Engine, LoopRange } from '../../audio/engine.ts';
import { openSoundInput, SoundInputError, type InputBlock, type SoundInput } from '../../audio/soundInput.ts';
import { createLiveTake, type LiveTake } from './liveTake.ts';
import { keepDelaySeconds, keptDelaySeconds, type RecordSettings } from './recordSettings.ts';
import type { BlockStore } from './takeBlocks.ts';
import { TakeStream, type TakeServer } from './takeStream.ts';

export interface RecorderState {
  phase: 'off' | 'opening' | 'recording' | 'saving';
  /** The input, open for its level and the tuner or for recording. */
  input: SoundInput | undefined;
  /** What is being recorded. */
  recording: RecordingNow | undefined;
  /** Why what was recorded waits in the browser; undefined: it does not. */
  waits: string | undefined;
  /** Where the last take went. */
  keptIn: { partId: string; takes: number } | undefined;
}

export interface RecordingNow {
  take: TakeBeginning;
  live: LiveTake;
  startSeconds: number;
}

/** What the recorder asks of the song it records into. */
export interface RecorderSong {
  song: Song;
  time: TimeMap;
  /** Hears an edit without making it. */
  setTried(edit: Edit | null): void;
  /** Puts a take that is on the server into the song. */
  keep(take: TakeBeginning & { frames: number }): Promise<{ partId: string; takes: number } | undefined>;
  problem(title: string, message: string): void;
}

export interface RecordPlan {
  /** Null: a new part. */
  partId: string | null;
  name: string;
}

/** How often the end of a punch is looked for. */
const WATCH_MS = 40;
/** After the end so much more is waited for, besides the delay of the input. */
const TAIL_SECONDS = 0.1;

export class Recorder {
  private state: RecorderState = {
    phase: 'off',
    input: undefined,
    recording: undefined,
    waits: undefined,
    keptIn: undefined,
  };
  private readonly listeners = new Set<() => void>();
  private stream: TakeStream | undefined;
  private release: (() => void) | undefined;
  private watch: ReturnType<typeof setInterval> | undefined;
  /** The song was left: what was recorded is offered when it is opened again. */
  private closed = false;
  /** It was unplugged while it was recorded from. */
  private inputGone = false;
  /** Whether the input stays open when nothing is recorded. */
  private ready = false;
  private opening: Promise<SoundInput> | undefined;

  constructor(
    private readonly engine: Engine,
    private asked: RecorderSong,
    private readonly store: () => Promise<BlockStore>,
    private readonly server: TakeServer,
  ) {
    // Stopping the song by any means ends the take.
    engine.subscribe(() => {
      if (this.state.phase === 'recording' && !engine.getState().playing) void this.finish();
    });
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  getState = (): RecorderState => this.state;

  setSong(asked: RecorderSong): void {
    this.asked = asked;
  }

  /** Opens the input for its level and the tuner, or lets it go. Another choice of input opens that one. */
  async setReady(ready: boolean, settings: RecordSettings): Promise<void> {
    this.ready = ready;
    if (this.state.phase !== 'off') return;
    this.closeInput();
    if (!ready) return;
    try {
      const input = await this.input(settings);
      input.setMonitor(settings.monitor);
    } catch (error) {
      this.explain('The input could not be opened', error);
    }
  }

  setMonitor(on: boolean): void {
    this.state.input?.setMonitor(on);
  }

  /** What is taken off: measured or typed, or else what the browser says. */
  delaySeconds(): number {
    const { input } = this.state;
    return input ? (keptDelaySeconds(input.deviceId) ?? input.saidDelaySeconds) : 0;
  }

  setDelaySeconds(seconds: number): void {
    const { input } = this.state;
    if (input) keepDelaySeconds(input.deviceId, seconds);
    this.set({});
  }

  toggle(settings: RecordSettings, plan: RecordPlan): void {
    if (this.state.phase === 'recording') this.engine.stop();
    else if (this.state.phase === 'off') void this.begin(settings, plan);
  }

  close(): void {
    this.closed = true;
    clearInterval(this.watch);
    this.stopTaking();
    this.closeInput();
    // The rest goes on its way; should the page go first, the next one sends it.
    void this.stream?.end().then(() => this.release?.());
  }

  private async begin(settings: RecordSettings, plan: RecordPlan): Promise<void> {
    const { engine } = this;
    engine.stop();
    this.set({ phase: 'opening' });
    const collected: InputBlock[] = [];
    let unsubscribe = () => {};
    try {
      const input = await this.input(settings);
      input.setMonitor(settings.monitor);
      unsubscribe = input.subscribe((block) => collected.push(block));
      await engine.ensureContext().resume();
      await firstOf(collected);
      const loop = settings.rounds || settings.punch ? engine.getState().loop : null;
      const recordFrom = this.recordFromSeconds(loop, settings);
      this.setAside(plan, recordFrom, loop);
      const run = await engine.play({
        record: { loop: settings.rounds && loop !== null },
        countInBars: settings.countInBars,
        metronome: settings.metronome === 'always',
      });
      const [first] = collected;
      if (!run) {
        unsubscribe();
        this.asked.setTried(null);
        this.set({ phase: 'off' });
        this.closeUnlessReady();
        return;
      }
      const rate = engine.sampleRateHz();
      const heardAt = run.contextSeconds + (recordFrom ?? run.songSeconds) - run.songSeconds;
      const { song, time } = this.asked;
      const startSeconds = recordFrom ?? run.songSeconds;
      const take: TakeBeginning = {
        id: crypto.randomUUID(),
        songId: song.id,
        partId: plan.partId,
        name: plan.name,
        sampleRateHz: rate,
        channels: settings.channels,
        startedAt: new Date().toISOString(),
        startTicks: Math.round(time.ticksAt(startSeconds)),
        startFrame: Math.max(0, Math.round((heardAt + this.delaySeconds()) * rate) - first.frame),
        ...(settings.rounds && loop && { roundSeconds: loop.endSeconds - loop.startSeconds }),
        ...(settings.punch && !settings.rounds && loop && { lengthSeconds: loop.endSeconds - startSeconds }),
      };
      this.release = holdTake(take.id);
      const stream = new TakeStream(take, await this.store(), this.server);
      this.stream = stream;
      stream.subscribe(() => {
        const { waits } = stream.getState();
        if (waits !== this.state.waits) this.set({ waits });
      });
      const live = createLiveTake(rate);
      live.take.startSeconds = take.startFrame / rate;
      let nextFrame = first.frame;
      const takeIn = ({ frame, channels }: InputBlock) => {
        // What the machine had no time for is silence, so that what follows stays in time.
        if (frame > nextFrame) {
          stream.addGap(frame - nextFrame);
          live.add(new Float32Array(frame - nextFrame));
        }
        stream.add(channels);
        live.add(channels[0]);
        nextFrame = frame + channels[0].length;
      };
      unsubscribe();
      collected.forEach(takeIn);
      unsubscribe = input.subscribe(takeIn);
      this.stopTaking = unsubscribe;
      this.set({ phase: 'recording', recording: { take, live: live.take, startSeconds } });
      if (take.lengthSeconds !== undefined && loop)
        this.watch = setInterval(() => {
          if (engine.positionSeconds() > loop.endSeconds + TAIL_SECONDS) engine.stop();
        }, WATCH_MS);
      // It was stopped while all this began.
      if (!engine.getState().playing) void this.finish();
    } catch (error) {
      unsubscribe();
      this.asked.setTried(null);
      this.set({ phase: 'off' });
      this.closeUnlessReady();
      this.explain('Recording could not begin', error);
    }
  }

  private stopTaking: () => void = () => {};

  /** Where recording begins: undefined, where play does. */
  private recordFromSeconds(loop: LoopRange | null, settings: RecordSettings): number | undefined {
    const { engine } = this;
    if (!loop) return undefined;
    const at = engine.positionSeconds();
    // Before the loop the song leads into it; from anywhere else it begins at its start.
    if (settings.rounds || at >= loop.startSeconds) engine.seek(loop.startSeconds);
    return loop.startSeconds;
  }

  /** Who sings a line anew does not hear the old one there. */
  private setAside({ partId }: RecordPlan, fromSeconds: number | undefined, loop: LoopRange | null): void {
    if (partId === null) return;
    const { song, time, setTried } = this.asked;
    const from = Math.round(time.ticksAt(fromSeconds ?? this.engine.positionSeconds()));
    const to = loop ? Math.round(time.ticksAt(loop.endSeconds)) : MAX_TICKS;
    setTried(planSetAside(song, partId, from, to, () => crypto.randomUUID()) ?? null);
  }

  private async finish(): Promise<void> {
    const { recording, input } = this.state;
    const { stream } = this;
    if (!recording || !stream || this.closed || this.state.phase !== 'recording') return;
    clearInterval(this.watch);
    this.set({ phase: 'saving' });
    await new Promise((resolve) => setTimeout(resolve, 1000 * (this.delaySeconds() + TAIL_SECONDS)));
    // An input that was unplugged has nothing more to say.
    await Promise.race([input?.flush(), new Promise((resolve) => setTimeout(resolve, 500))]);
    this.stopTaking();
    await stream.end();
    if (this.closed) return;
    try {
      const keptIn = await this.asked.keep({ ...recording.take, frames: stream.getState().frames });
      if (keptIn) this.set({ keptIn });
    } finally {
      this.stream = undefined;
      this.asked.setTried(null);
      this.release?.();
      this.set({ phase: 'off', recording: undefined, waits: undefined });
      this.closeUnlessReady();
    }
  }

  private input(settings: RecordSettings): Promise<SoundInput> {
    this.opening ??= openSoundInput(
      this.engine.ensureContext(),
      { deviceId: settings.deviceId ?? undefined, channels: settings.channels },
      this.engine.output(),
      () => this.unplugged(),
    ).then(
      (input) => {
        this.set({ input });
        return input;
      },
      (error: unknown) => {
        this.opening = undefined;
        throw error;
      },
    );
    return this.opening;
  }

  private unplugged(): void {
    const was = this.state.phase;
    this.inputGone = was === 'recording';
    if (was === 'recording') this.engine.stop();
    this.asked.problem(
      'The input is gone',
      was === 'recording'
        ? 'It was unplugged, or the browser took it away, so recording has stopped. What came in until then is kept as a take.'
        : 'It was unplugged, or the browser took it away. Connect it again, or choose another.',
    );
    if (was !== 'recording') this.closeInput();
  }

  private closeUnlessReady(): void {
    if (!this.ready || this.inputGone) this.closeInput();
    this.inputGone = false;
  }

  private closeInput(): void {
    const { opening } = this;
    this.opening = undefined;
    void opening?.then(
      (input) => input.close(),
      () => undefined,
    );
    if (this.state.input) this.set({ input: undefined });
  }

  private explain(title: string, error: unknown): void {
    this.asked.problem(
      title,
      error instanceof SoundInputError
        ? error.message
        : 'The audio input could not be opened. Reload the page and try again.',
    );
  }

  private set(change: Partial<RecorderState>): void {
    this.state = { ...this.state, ...change };
    this.listeners.forEach((listener) => listener());
  }
}

const FIRST_BLOCK_MS = 3000;

/** Waits for the first sound of an input. Throws {@link SoundInputError} where none comes. */
async function firstOf(collected: readonly InputBlock[]): Promise<void> {
  for (let waited = 0; collected.length === 0; waited += WATCH_MS) {
    if (waited > FIRST_BLOCK_MS)
      throw new SoundInputError('The input gives no sound. Choose another, or connect it anew.');
    await new Promise((resolve) => setTimeout(resolve, WATCH_MS));
  }
}

const lockOf = (takeId: string) => `plundra-take-${takeId}`;

/** Other windows of this browser know by a lock that a take is being recorded. */
function holdTake(takeId: string): () => void {
  let release = () => {};
  if ('locks' in navigator)
    void navigator.locks.request(lockOf(takeId), () => new Promise<void>((resolve) => (release = resolve)));
  return () => release();
}

/** Whether a window of this browser records a take now. */
export async function isHeld(takeId: string): Promise<boolean> {
  if (!('locks' in navigator)) return false;
  const { held = [] } = await navigator.locks.query();
  return held.some(({ name }) => name === lockOf(takeId));
}
