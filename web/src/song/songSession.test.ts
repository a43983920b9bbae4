import { describe, expect, it, vi } from 'vitest';
import { STALE_REVISION, type SongDocument, type StepRequest } from '@plundra/contract';
import { createSong, EMPTY_HISTORY, takeStep, type Edit, type SongState } from '@plundra/core/song';
import { ApiError } from '../api/client.ts';
import { SongSession, type Keeper, type SessionServer } from './songSession.ts';

const rename = (title: string): Edit => ({ type: 'song.set', patch: { title } });

/** A server in memory that follows the rules of the real one. */
class FakeServer implements SessionServer {
  state: SongState = { song: createSong('s', 'start'), history: EMPTY_HISTORY };
  revision = 0;
  requests: string[] = [];
  down = false;
  /** Stores the step but loses the answer. */
  loseNextAnswer = false;

  document(): SongDocument {
    const { song, history } = this.state;
    return {
      song,
      revision: this.revision,
      history: { done: [...history.done], undone: [...history.undone] },
      recentRequestIds: [...this.requests],
    };
  }
  song(): Promise<SongDocument> {
    if (this.down) return Promise.reject(new ApiError(0, 'unreachable', 'down'));
    return Promise.resolve(this.document());
  }
  async takeStep(_id: string, request: StepRequest): Promise<{ revision: number }> {
    await Promise.resolve();
    if (this.down) return Promise.reject(new ApiError(0, 'unreachable', 'down'));
    const known = this.requests.indexOf(request.requestId);
    if (known >= 0) return Promise.resolve({ revision: known + 1 });
    if (request.baseRevision !== this.revision)
      return Promise.reject(new ApiError(409, STALE_REVISION, 'stale'));
    this.take(request.step as never, request.requestId);
    if (this.loseNextAnswer) {
      this.loseNextAnswer = false;
      return Promise.reject(new ApiError(0, 'unreachable', 'lost'));
    }
    return Promise.resolve({ revision: this.revision });
  }
  take(step: Parameters<typeof takeStep>[1], requestId = `other-${this.revision}`): void {
    this.state = takeStep(this.state, step);
    this.revision++;
    this.requests.push(requestId);
  }
}

function memory(): Keeper & { values: Map<string, string> } {
  const values = new Map<string, string>();
  return {
    values,
    getItem: (key) => values.get(key) ?? null,
    setItem: (key, value) => void values.set(key, value),
    removeItem: (key) => void values.delete(key),
  };
}

function open(server: FakeServer, keeper = memory()) {
  const explain = vi.fn<(message: string) => void>();
  return { session: new SongSession(server.document(), server, keeper, explain, 'me'), explain, keeper };
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
    session.undo();
    session.undo();
    session.redo();
    expect(session.getState().song.title).toBe('b');
    await settled(session);
    expect(server.state.song.title).toBe('b');
    expect(server.revision).toBe(6);
    expect(server.state.history.undone.map((entry) => entry.label)).toEqual(['c']);
  });

  it('puts its edits on top of what another window did', async () => {
    const server = new FakeServer();
    const { session } = open(server);
    server.take({
      kind: 'do',
      id: 'x',
      label: 'key',
      edit: { type: 'song.set', patch: { key: { tonic: 'D', mode: 'minor' } } },
    });
    session.apply('Rename', rename('mine'));
    await settled(session);
    expect(server.state.song).toMatchObject({ title: 'mine', key: { tonic: 'D' } });
    expect(session.getState().song).toEqual(server.state.song);
  });

  it('follows the steps of other windows and ignores its own', async () => {
    const server = new FakeServer();
    const { session } = open(server);
    const step = { kind: 'do', id: 'x', label: 'other', edit: rename('other') } as const;
    server.take(step);
    session.hear({ type: 'song', songId: 's', revision: 1, clientId: 'them', step });
    session.hear({ type: 'song', songId: 's', revision: 1, clientId: 'them', step });
    session.hear({ type: 'song', songId: 's', revision: 2, clientId: 'me', step });
    expect(session.getState().song.title).toBe('other');
    expect(session.getState().history.done).toHaveLength(1);
    await settled(session);
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
    const { session, keeper } = open(server);
    server.down = true;
    session.apply('Rename', rename('offline'));
    await vi.waitFor(() => expect(session.getSaving().saveState).toBe('offline'));
    expect(keeper.values.size).toBe(1);
    server.down = false;
    await settled(session);
    expect(server.state.song.title).toBe('offline');
    expect(keeper.values.size).toBe(0);
  });

  it('brings unsaved edits over a reload', async () => {
    const server = new FakeServer();
    const first = open(server);
    server.down = true;
    first.session.apply('Rename', rename('kept'));
    first.session.close();
    server.down = false;
    const second = open(server, first.keeper);
    expect(second.session.getState().song.title).toBe('kept');
    await settled(second.session);
    expect(server.state.song.title).toBe('kept');
  });

  it('does not take an edit twice whose answer was lost', async () => {
    const server = new FakeServer();
    const { session, keeper } = open(server);
    server.loseNextAnswer = true;
    session.apply('Rename', rename('once'));
    await vi.waitFor(() => expect(session.getSaving().saveState).toBe('offline'));
    session.close();
    const reloaded = open(server, keeper);
    await settled(reloaded.session);
    expect(server.revision).toBe(1);
    expect(reloaded.session.getState().history.done).toHaveLength(1);
  });

  it('has nothing to undo at the start', () => {
    const { session } = open(new FakeServer());
    expect(session.undo()).toBe(false);
    expect(session.redo()).toBe(false);
  });
});
