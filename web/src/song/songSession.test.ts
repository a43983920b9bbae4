import { describe, expect, it, vi } from 'vitest';
import { createSong, type Edit } from '@plundra/core/song';
import { ApiError } from '../api/apiError.ts';
import { simulate } from '../test/simulation.ts';
import { SongServer } from '../test/songServer.ts';
import type { SessionServer, StepStore, WaitingStep } from './sessionTypes.ts';
import { SongSession } from './songSession.ts';

const rename = (title: string): Edit => ({ type: 'song.set', patch: { title } });

/** A server that can be away, lose answers, or hold them back. */
class FakeServer extends SongServer {
  down = false;
  gone = false;
  /** Stores the steps but loses the answer. */
  loseNextAnswer = false;
  /** Holds back the answers to steps until they are let go. */
  held: (() => void)[] | undefined;

  override async song(id: string, asked: readonly string[] = []) {
    this.answers();
    return super.song(id, asked);
  }
  override async historyEntry(id: string, entryId: string) {
    this.answers();
    return super.historyEntry(id, entryId);
  }
  override async sendSteps(...call: Parameters<SessionServer['sendSteps']>) {
    await Promise.resolve();
    this.answers();
    const answer = await super.sendSteps(...call);
    if (this.loseNextAnswer) {
      this.loseNextAnswer = false;
      throw new ApiError(0, 'unreachable', 'lost');
    }
    if (this.held) await new Promise<void>((resolve) => this.held!.push(resolve));
    return answer;
  }
  private answers(): void {
    if (this.down) throw new ApiError(0, 'unreachable', 'down');
    if (this.gone) throw new ApiError(404, 'song_not_found', 'gone');
  }
}

function memory(): StepStore & { steps: WaitingStep[] } {
  const outbox = {
    steps: [] as WaitingStep[],
    keep: (_: string, step: WaitingStep) => void outbox.steps.push(step),
    drop: (ids: readonly string[]) =>
      void (outbox.steps = outbox.steps.filter(({ requestId }) => !ids.includes(requestId))),
  };
  return outbox;
}

function open(server: FakeServer, outbox = memory()) {
  const explain = vi.fn<(message: string) => void>();
  const kept = [...outbox.steps];
  const document = server.document(kept.map(({ requestId }) => requestId));
  const session = new SongSession(document, server, { outbox, kept, explain, clientId: 'me' });
  return { session, explain, outbox };
}

const settled = (session: SongSession) =>
  vi.waitFor(() => expect(session.getSaving().saveState).toBe('saved'), 4000);

describe('a song session', () => {
  it('shows an edit at once and saves it behind', async () => {
    const server = new FakeServer();
    const { session } = open(server);
    session.apply('Rename', rename('new'));
    expect(session.getSaving()).toMatchObject({ saveState: 'saving', waiting: 1 });
    expect(session.getState().song.title).toBe('new');
    expect(server.state.song.title).toBe('start');
    await settled(session);
    expect(server.state.song.title).toBe('new');
  });

  it('keeps the order of many edits, undo and redo among them', async () => {
    const server = new FakeServer();
    const { session } = open(server);
    for (const title of ['a', 'b', 'c']) session.apply(title, rename(title));
    void session.undo();
    void session.undo();
    await session.redo();
    expect(session.getState().song.title).toBe('b');
    await settled(session);
    expect(server.state.song.title).toBe('b');
    expect(server.revision).toBe(6);
    expect(server.state.history.undone.map((entry) => entry.label)).toEqual(['c']);
  });

  it('keeps an edit whose neighbour is acknowledged late, while another window edits', async () => {
    // What was lost without a word: the first of two edits answered late, a foreign edit in between.
    const server = new FakeServer();
    const { session } = open(server);
    server.held = [];
    session.apply('First', rename('first'));
    await vi.waitFor(() => expect(server.held).toHaveLength(1));
    session.apply('Second', { type: 'song.set', patch: { followOff: true } });
    server.take({ kind: 'do', id: 'x', label: 'other', edit: { type: 'song.set', patch: { key: null } } });
    await session.catchUp();
    const { held } = server;
    server.held = undefined;
    held.forEach((letGo) => letGo());
    await settled(session);
    expect(server.state.song).toMatchObject({ title: 'first', followOff: true });
    expect(session.getState().song).toEqual(server.state.song);
  });

  it('puts its edits on top of what another window did', async () => {
    const server = new FakeServer();
    const { session } = open(server);
    server.take({
      kind: 'do',
      id: 'x',
      label: 'key',
      edit: { type: 'song.set', patch: { key: { fifths: -1, mode: 'minor' } } },
    });
    session.apply('Rename', rename('mine'));
    await settled(session);
    expect(server.state.song).toMatchObject({ title: 'mine', key: { fifths: -1 } });
    expect(session.getState().song).toEqual(server.state.song);
  });

  it('follows the steps of other windows, each once', async () => {
    const server = new FakeServer();
    const { session } = open(server);
    const step = { kind: 'do', id: 'x', label: 'other', edit: rename('other') } as const;
    server.listeners.add((event) => {
      session.hear(event);
      session.hear(event);
    });
    server.take(step);
    expect(session.getState().song.title).toBe('other');
    expect(session.getState().history.done).toEqual([{ id: 'x', label: 'other' }]);
    await settled(session);
  });

  it('undoes what another window did, and what was done before it was opened', async () => {
    const server = new FakeServer();
    server.take({ kind: 'do', id: 'old', label: 'old', edit: rename('old') });
    const { session } = open(server);
    expect(await session.undo()).toEqual({ id: 'old', label: 'old' });
    expect(session.getState().song.title).toBe('start');
    await settled(session);
    expect(server.state.song.title).toBe('start');
    expect(await session.undo()).toBeUndefined();
  });

  it('says when an undo cannot be had because the server is away', async () => {
    const server = new FakeServer();
    server.take({ kind: 'do', id: 'old', label: 'old', edit: rename('old') });
    const { session, explain } = open(server);
    server.down = true;
    expect(await session.undo()).toBeUndefined();
    expect(explain.mock.calls[0][0]).toMatch(/as soon as the server is reached/);
    expect(session.getState().song.title).toBe('old');
  });

  it('says when an edit does not fit any more, and goes on', async () => {
    const server = new FakeServer();
    const { session, explain } = open(server);
    const part = {
      kind: 'drums',
      id: 'p',
      name: 'Kit',
      mark: 'KI',
      colour: 0,
      levelDb: 0,
      pan: 0,
      mute: false,
      solo: false,
      passages: [],
    } as const;
    session.apply('Add', { type: 'part.add', part: { ...part, passages: [] }, index: 0 });
    await settled(session);
    server.take({ kind: 'do', id: 'x', label: 'gone', edit: { type: 'part.remove', partId: 'p' } });
    session.apply('Mute Kit', { type: 'part.set', partId: 'p', patch: { mute: true } });
    session.apply('Rename', rename('still saved'));
    await settled(session);
    expect(explain.mock.calls[0][0]).toMatch(/“Mute Kit” could not be kept/);
    expect(server.state.song.title).toBe('still saved');
  });

  it('waits while the server is away and saves when it is back', async () => {
    const server = new FakeServer();
    const { session, outbox } = open(server);
    server.down = true;
    session.apply('Rename', rename('offline'));
    await vi.waitFor(() => expect(session.getSaving().saveState).toBe('offline'));
    expect(outbox.steps).toHaveLength(1);
    server.down = false;
    await settled(session);
    expect(server.state.song.title).toBe('offline');
    expect(outbox.steps).toEqual([]);
  });

  it('brings unsaved edits and undos into the next window', async () => {
    const server = new FakeServer();
    server.take({ kind: 'do', id: 'old', label: 'old', edit: rename('old') });
    const first = open(server);
    await first.session.undo();
    await settled(first.session);
    await first.session.redo();
    await settled(first.session);
    server.down = true;
    await first.session.undo();
    first.session.apply('Key', { type: 'song.set', patch: { key: { fifths: -1, mode: 'minor' } } });
    first.session.close();
    server.down = false;
    const second = open(server, first.outbox);
    await settled(second.session);
    expect(server.state.song).toMatchObject({ title: 'start', key: { fifths: -1 } });
    expect(second.session.getState().song).toEqual(server.state.song);
  });

  it('does not take an edit twice whose answer was lost', async () => {
    const server = new FakeServer();
    const { session, outbox } = open(server);
    server.loseNextAnswer = true;
    session.apply('Rename', rename('once'));
    await vi.waitFor(() => expect(session.getSaving().saveState).toBe('offline'));
    session.close();
    const reloaded = open(server, outbox);
    await settled(reloaded.session);
    expect(server.revision).toBe(1);
    expect(reloaded.session.getState().history.done).toHaveLength(1);
    expect(outbox.steps).toEqual([]);
  });

  it('keeps what waits when the song was deleted elsewhere, and saves it when it is back', async () => {
    const server = new FakeServer();
    const { session, explain, outbox } = open(server);
    server.gone = true;
    session.apply('Rename', rename('kept'));
    await vi.waitFor(() => expect(session.getSaving()).toEqual({ saveState: 'gone', waiting: 1 }));
    expect(explain.mock.calls).toEqual([[expect.stringMatching(/deleted in another window.*bin/)]]);
    expect(outbox.steps).toHaveLength(1);
    server.gone = false;
    await session.catchUp();
    await settled(session);
    expect(server.state.song.title).toBe('kept');
  });

  it('sends its last words on top of whatever the song is by then', async () => {
    const server = new FakeServer();
    const { session } = open(server);
    server.down = true;
    for (let i = 0; i < 12; i++) session.apply(`${i}`, rename(`title ${i}`));
    const words = session.lastWords()!;
    session.close();
    server.down = false;
    server.take({
      kind: 'do',
      id: 'x',
      label: 'other',
      edit: { type: 'song.set', patch: { followOff: true } },
    });
    await server.sendSteps('s', words);
    expect(server.state.song).toMatchObject({ title: 'title 11', followOff: true });
    expect(open(new FakeServer()).session.lastWords()).toBeUndefined();
  });

  it('takes over what another window left, once', async () => {
    const server = new FakeServer();
    const { session, outbox } = open(server);
    server.down = true;
    session.apply('First', rename('first'));
    session.close();
    server.down = false;
    const next = open(server, memory());
    next.session.apply('Key', { type: 'song.set', patch: { key: { fifths: -1, mode: 'minor' } } });
    next.session.adopt(outbox.steps);
    next.session.adopt(outbox.steps);
    expect(next.session.getState().song.title).toBe('first');
    await settled(next.session);
    expect(server.state.song).toMatchObject({ title: 'first', key: { fifths: -1 } });
    expect(server.revision).toBe(2);
  });

  it('has nothing to undo at the start', async () => {
    const { session } = open(new FakeServer());
    expect(await session.undo()).toBeUndefined();
    expect(await session.redo()).toBeUndefined();
  });

  it('moves many notes in a few words', async () => {
    const server = new FakeServer({
      ...createSong('s', 'start'),
      parts: [
        {
          kind: 'drums',
          id: 'd',
          name: 'Kit',
          mark: 'K',
          colour: 0,
          levelDb: 0,
          pan: 0,
          mute: false,
          solo: false,
          passages: [
            {
              type: 'notes',
              id: 'p',
              startTicks: 0,
              lengthTicks: 960,
              notes: Array.from({ length: 2000 }, (_, i) => ({
                id: `n${i}`,
                startTicks: i,
                lengthTicks: 1,
                midi: 60,
                velocity: 80,
              })),
            },
          ],
        },
      ],
    });
    const { session, outbox } = open(server);
    const part = session.getState().song.parts[0];
    const notes = part.passages[0].type === 'notes' ? part.passages[0].notes : [];
    const put = notes.map((note) => ({ ...note, startTicks: note.startTicks + 240 }));
    session.apply('Move', { type: 'passage.notes', partId: 'd', passageId: 'p', remove: [], put });
    expect(JSON.stringify(outbox.steps).length).toBeLessThan(400);
    await settled(session);
    expect(server.state.song.parts[0].passages[0]).toMatchObject({ notes: put });
  });
});

describe('windows over a network that delays, repeats, reorders and loses', () => {
  it.each([
    [2, 600],
    [3, 600],
  ])('%i windows: all end equal, and every edit is taken or its refusal said', async (windows, schedules) => {
    let [applied, refused, closed] = [0, 0, 0];
    for (let seed = 1; seed <= schedules; seed++) {
      const report = await simulate({ seed: seed * 10 + windows, windows, steps: 9 });
      expect(report.faults, `seed ${seed * 10 + windows}`).toEqual([]);
      applied += report.applied;
      refused += report.refused;
      closed += report.closed;
    }
    // The schedules are what they should be: most is taken, some is refused, windows close in the middle.
    expect(applied).toBeGreaterThan(schedules * windows * 5);
    expect(refused).toBeGreaterThan(schedules / 10);
    expect(closed).toBeGreaterThan(schedules / 20);
  });
});
