/**
 * Windows on one song over a bad network, in simulated time: any request and any answer may be late, repeated, out of
 * order or lost, and so may be what windows hear of each other. One seed is one schedule.
 */
import { createRandom, type Random } from '@plundra/core/signal';
import { createSong, type Edit, type Note, type NotePart, type Song } from '@plundra/core/song';
import { ApiError } from '../api/apiError.ts';
import type { SessionServer, StepStore, WaitingStep } from '../song/sessionTypes.ts';
import { SongSession } from '../song/songSession.ts';
import { SongServer } from './songServer.ts';

export interface SimulationSettings {
  seed: number;
  windows: number;
  /** Steps that each window takes. */
  steps: number;
}

export interface SimulationReport {
  /** Steps that windows took, and what became of them. */
  taken: number;
  applied: number;
  refused: number;
  /** Requests, answers and events that the network lost or repeated. */
  lost: number;
  repeated: number;
  /** Windows that closed with steps waiting, which another took over. */
  closed: number;
  /** What does not hold; empty when all is well. */
  faults: string[];
}

const LOSS = 0.12;
const REPEAT = 0.12;
const SLOWEST_MS = 900;
/** More than any schedule takes; beyond it something runs in circles. */
const MAX_TASKS = 20_000;

export async function simulate({ seed, windows, steps }: SimulationSettings): Promise<SimulationReport> {
  const random = createRandom(seed);
  const clock = createClock();
  const server = new SongServer(startSong());
  const report: SimulationReport = {
    taken: 0,
    applied: 0,
    refused: 0,
    lost: 0,
    repeated: 0,
    closed: 0,
    faults: [],
  };
  let healthy = false;
  const loses = () => !healthy && random() < LOSS && ++report.lost > 0;
  const repeats = () => !healthy && random() < REPEAT && ++report.repeated > 0;
  const delay = () => (healthy ? 1 : 1 + Math.floor(random() ** 3 * SLOWEST_MS));

  /** A call through the network. */
  const call = <T>(work: () => Promise<T>): Promise<T> =>
    new Promise((resolve, reject) => {
      const unreachable = () => reject(new ApiError(0, 'unreachable', 'lost'));
      const arrive = () =>
        void work().then(
          (answer) =>
            loses() ? clock.after(SLOWEST_MS, unreachable) : clock.after(delay(), () => resolve(answer)),
          (error: Error) => clock.after(delay(), () => reject(error)),
        );
      if (loses()) return clock.after(SLOWEST_MS, unreachable);
      clock.after(delay(), arrive);
      if (repeats()) clock.after(delay(), arrive);
    });
  const network: SessionServer = {
    song: (id, asked) => call(() => server.song(id, asked)),
    sendSteps: (id, request) => call(() => server.sendSteps(id, structuredClone(request))),
    songRevision: () => call(() => server.songRevision()),
    historyEntry: (id, entryId) => call(() => server.historyEntry(id, entryId)),
  };

  /** What windows took: by name of the step, and the word that the user knows it by. */
  const intended = new Map<string, string>();
  const said: string[] = [];
  const open = (kept: WaitingStep[] = []) => {
    const waiting = new Map(kept.map((step) => [step.requestId, step]));
    const outbox: StepStore = {
      keep(_, step) {
        waiting.set(step.requestId, structuredClone(step));
        const { kind, id } = step.step;
        intended.set(
          step.requestId,
          step.step.kind === 'do' ? `“${step.step.label}”` : `The ${kind} (${id})`,
        );
        report.taken++;
      },
      drop: (ids) => ids.forEach((id) => waiting.delete(id)),
    };
    const session = new SongSession(server.document(kept.map(({ requestId }) => requestId)), network, {
      outbox,
      kept,
      explain: (message) => void said.push(message),
      clientId: `w${Math.floor(random() * 1e9)}`,
      later: (action, ms) => clock.after(ms, action),
    });
    const listener = (event: Parameters<SongSession['hear']>[0]) => {
      // A stream that breaks is opened again, and whoever listens looks at the song anew.
      if (loses()) return clock.after(delay() + 50, () => void session.look());
      clock.after(delay(), () => session.hear(event));
      if (repeats()) clock.after(delay(), () => session.hear(event));
    };
    server.listeners.add(listener);
    return { session, waiting, listener };
  };

  const opened = Array.from({ length: windows }, () => open());
  let names = 0;
  for (let w = 0; w < windows; w++)
    for (let i = 0; i < steps; i++)
      clock.after(Math.floor(random() * 4000), () => {
        const { session } = opened[w];
        const chance = random();
        if (chance < 0.14) void session.undo();
        else if (chance < 0.2) void session.redo();
        else session.apply(`edit ${names}`, editFor(session.getState().song, `e${names++}`, random));
        // Now and then a window is closed in the middle of it, and another takes over what was kept.
        if (random() < 0.03) {
          session.close();
          server.listeners.delete(opened[w].listener);
          const last = session.lastWords();
          if (last && random() < 0.6)
            void call(() => server.sendSteps('s', structuredClone(last))).catch(() => undefined);
          if (opened[w].waiting.size > 0) report.closed++;
          opened[w] = open([...opened[w].waiting.values()]);
        }
      });
  await clock.run(4500);
  healthy = true;
  await clock.run(Infinity);
  // What closed windows still had on its way may have arrived last.
  for (const { session } of opened) void session.look();
  await clock.run(Infinity);
  if (clock.stuck()) report.faults.push('it does not come to rest');

  const final = JSON.stringify(server.state);
  opened.forEach(({ session, waiting }, w) => {
    const { saveState, waiting: count } = session.getSaving();
    if (saveState !== 'saved' || count > 0 || waiting.size > 0)
      report.faults.push(`window ${w} ends ${saveState} with ${count} waiting and ${waiting.size} kept`);
    if (JSON.stringify(session.getState()) !== final) report.faults.push(`window ${w} shows another song`);
  });
  const stored = new Map<string, number>();
  for (const { requestId } of server.log) stored.set(requestId, (stored.get(requestId) ?? 0) + 1);
  for (const [requestId, name] of intended) {
    const times = stored.get(requestId) ?? 0;
    const refusals = said.filter((message) => message.startsWith(name.replace(/ \(.*/, ''))).length;
    if (times > 1) report.faults.push(`${name} was taken ${times} times`);
    if (times === 1) report.applied++;
    else report.refused++;
    if (times === 0 && refusals === 0) report.faults.push(`${name} vanished without a word`);
    if (times > 0 && refusals > 0 && name.startsWith('“'))
      report.faults.push(`${name} was taken and said to be lost`);
  }
  return report;
}

/** Simulated time: what is due happens in its order, and all that follows from it before the next. */
function createClock() {
  let now = 0;
  let count = 0;
  const tasks: { at: number; order: number; action: () => void }[] = [];
  return {
    after(ms: number, action: () => void): void {
      tasks.push({ at: now + ms, order: count++, action });
    },
    stuck: () => count > MAX_TASKS,
    async run(until: number): Promise<void> {
      for (;;) {
        // Promises that are settled by now go on first.
        for (let i = 0; i < 12; i++) await Promise.resolve();
        let next = -1;
        tasks.forEach(({ at, order }, i) => {
          if (next < 0 || at < tasks[next].at || (at === tasks[next].at && order < tasks[next].order))
            next = i;
        });
        if (next < 0 || tasks[next].at > until || count > MAX_TASKS) return;
        const [{ at, action }] = tasks.splice(next, 1);
        now = at;
        action();
      }
    },
  };
}

const NOTES = Array.from({ length: 10 }, (_, i): Note => ({
  id: `n${i}`,
  startTicks: i * 480,
  lengthTicks: 400,
  midi: 60 + i,
  velocity: 64,
}));

const partOf = (id: string): NotePart => ({
  kind: 'notes',
  id,
  name: id,
  mark: 'P',
  colour: 0,
  levelDb: 0,
  pan: 0,
  mute: false,
  solo: false,
  program: 4,
  passages: [{ type: 'notes', id: 'p', startTicks: 0, lengthTicks: 4800, notes: NOTES }],
});

const startSong = (): Song => ({
  ...createSong('s', 'Ferry at Six'),
  parts: [partOf('keys'), partOf('flute')],
});

/** An edit that shows when it is taken twice, or not at all, or in another order. */
function editFor(song: Song, name: string, random: Random): Edit {
  const part = song.parts[Math.floor(random() * song.parts.length)] as NotePart | undefined;
  const at = { partId: part?.id ?? 'gone', passageId: 'p' };
  const note = part?.passages[0]?.notes.at(Math.floor(random() * 10))?.id ?? 'gone';
  const chance = random();
  if (chance < 0.2) return { type: 'song.set', patch: { title: `${song.title.slice(0, 40)}.${name}` } };
  if (chance < 0.35) return { type: 'part.add', part: partOf(name), index: 0 };
  if (chance < 0.45) return { type: 'part.remove', partId: at.partId };
  if (chance < 0.6) return { type: 'part.set', partId: at.partId, patch: { name } };
  if (chance < 0.8)
    return {
      type: 'passage.adjust',
      ...at,
      which: 'all',
      add: { startTicks: 7, midi: random() < 0.5 ? 1 : -1 },
      set: {},
    };
  if (chance < 0.9) return { type: 'passage.notes', ...at, remove: [note], put: [] };
  return { type: 'time.insert', atTicks: 960, lengthTicks: 480 };
}
