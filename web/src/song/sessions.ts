/**
 * The songs of this window whose steps are not all saved, or that are open. A song that is left goes on sending; what a
 * window leaves behind when it closes is sent by the next page that opens.
 */
import { api } from '../api/client.ts';
import { notice } from './notices.ts';
import { afterPaint } from './afterPaint.ts';
import { openSong } from './openSong.ts';
import { claimSteps, holdWindow, outbox } from './outbox.ts';
import { SongSession, type WaitingStep } from './songSession.ts';

interface Open {
  session: SongSession;
  /** How many screens show it. */
  users: number;
}

const sessions = new Map<string, Open>();
const opening = new Map<string, Promise<SongSession>>();
const listeners = new Set<() => void>();

/** Songs with steps that wait, for screens outside of a song. */
export interface WaitingSong {
  songId: string;
  title: string;
  waiting: number;
  offline: boolean;
}
let waitingSongs: readonly WaitingSong[] = [];

export const waitingToBeSaved = {
  get: (): readonly WaitingSong[] => waitingSongs,
  subscribe: (listener: () => void): (() => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
};

/** The session of a song; one that is still sending is taken up again. */
export function openSession(songId: string): Promise<SongSession> {
  let promise = opening.get(songId);
  if (!promise) {
    promise = begin(songId).finally(() => opening.delete(songId));
    opening.set(songId, promise);
  }
  return promise;
}

async function begin(songId: string, claimed?: readonly WaitingStep[]): Promise<SongSession> {
  const known = sessions.get(songId);
  if (known) {
    await known.session.catchUp();
    return known.session;
  }
  const kept = claimed ?? (await claimSteps(songId)).get(songId) ?? [];
  const document = await openSong(
    songId,
    kept.map(({ requestId }) => requestId),
  );
  const session = new SongSession(document, api, { keeper: outbox, kept, explain: notice, soon: afterPaint });
  sessions.set(songId, { session, users: 0 });
  session.subscribe(update);
  update();
  return session;
}

/** A screen shows the song; the answer is how to leave it. */
export function showing(session: SongSession): () => void {
  const open = sessions.get(session.songId);
  if (open?.session === session) open.users++;
  else sessions.set(session.songId, { session, users: 1 });
  return () => {
    const left = sessions.get(session.songId);
    if (left?.session === session) left.users--;
    update();
  };
}

function update(): void {
  for (const [songId, { session, users }] of sessions)
    if (users === 0 && !opening.has(songId) && session.isAtRest()) {
      session.close();
      sessions.delete(songId);
    }
  waitingSongs = [...sessions].flatMap(([songId, { session }]) => {
    const { waiting, saveState } = session.getSaving();
    const { title } = session.getState().song;
    return waiting > 0 ? [{ songId, title, waiting, offline: saveState === 'offline' }] : [];
  });
  listeners.forEach((listener) => listener());
}

/** Sends what windows left behind that closed before it was saved. */
export async function sendWhatWasLeft(): Promise<void> {
  for (const [songId, kept] of await claimSteps()) {
    try {
      const session = await begin(songId, kept);
      const count = session.getSaving().waiting;
      if (count > 0)
        notice(
          `${count === 1 ? 'A change' : `${count} changes`} to “${session.getState().song.title}” from your last visit ${count === 1 ? 'is' : 'are'} being saved now.`,
        );
      update();
    } catch {
      // The song is in the bin, or the server is away: the steps stay kept, for the next opening.
    }
  }
}

function sendLastWords(): void {
  for (const [songId, { session }] of sessions) {
    const request = session.lastWords();
    if (request) api.leaveSteps(songId, request);
  }
}

/** Called once, when the page starts. */
export function keepWorkSafe(): void {
  holdWindow();
  window.addEventListener('pagehide', sendLastWords);
  window.addEventListener('beforeunload', (event) => {
    if (waitingSongs.length === 0) return;
    sendLastWords();
    event.preventDefault();
  });
  void sendWhatWasLeft();
}
