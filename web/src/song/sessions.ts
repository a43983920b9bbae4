/**
 * The songs of this window whose steps are not all saved, or that are open. A song that is left goes on sending; what a
 * window leaves behind when it closes is sent by the next page that opens.
 */
import { api } from '../api/client.ts';
import { listenToServer } from '../api/events.ts';
import { notice } from './notices.ts';
import { afterPaint } from './afterPaint.ts';
import { openSong } from './openSong.ts';
import { claimSteps, holdWindow, leaveNote, onWindowEnd, outbox } from './outbox.ts';
import type { WaitingStep } from './sessionTypes.ts';
import { SongSession } from './songSession.ts';

interface Open {
  session: SongSession;
  /** How many screens show it. */
  users: number;
  /** It was shown and left, or is only there to send: it ends when all is saved. */
  ends: boolean;
}

const sessions = new Map<string, Open>();
const opening = new Map<string, Promise<SongSession>>();
const listeners = new Set<() => void>();

/** Songs with steps that wait, for screens outside of a song. */
export interface WaitingSong {
  songId: string;
  title: string;
  waiting: number;
  /** Why it does not go on: the server is away, or the song lies in the bin. */
  held: 'offline' | 'gone' | null;
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

async function begin(songId: string): Promise<SongSession> {
  let late = false;
  const claiming = claim().then(() => (late ? sendWhatWasLeft() : undefined));
  await Promise.race([claiming, new Promise((resolve) => setTimeout(resolve, PATIENCE_MS))]);
  late = true;
  const kept = left.get(songId) ?? [];
  const known = sessions.get(songId);
  if (known) {
    left.delete(songId);
    known.session.adopt(kept);
    await known.session.catchUp();
    return known.session;
  }
  const document = await openSong(
    songId,
    kept.map(({ requestId }) => requestId),
  );
  left.delete(songId);
  const session = new SongSession(document, api, { outbox, kept, explain: notice, soon: afterPaint });
  sessions.set(songId, { session, users: 0, ends: false });
  session.subscribe(update);
  update();
  return session;
}

/** Steps of windows that closed, by song: taken over by this one and not yet with a session. */
const left = new Map<string, WaitingStep[]>();
function leave(songId: string, steps: readonly WaitingStep[]): void {
  left.set(songId, [...(left.get(songId) ?? []), ...steps]);
}

/** A screen shows the song; returns a function that ends that. */
export function showing(session: SongSession): () => void {
  const open = sessions.get(session.songId) ?? { session, users: 0, ends: false };
  sessions.set(session.songId, open);
  open.users++;
  session.resume();
  return () => {
    open.users--;
    open.ends = true;
    update();
  };
}

function update(): void {
  for (const [songId, { session, users, ends }] of sessions)
    if (users === 0 && ends && !opening.has(songId) && session.isAtRest()) {
      session.close();
      sessions.delete(songId);
    }
  waitingSongs = [...sessions].flatMap(([songId, { session }]) => {
    const { waiting, saveState } = session.getSaving();
    const { title } = session.getState().song;
    const held = saveState === 'offline' || saveState === 'gone' ? saveState : null;
    return waiting > 0 ? [{ songId, title, waiting, held }] : [];
  });
  listeners.forEach((listener) => listener());
}

/** A browser whose database does not answer must not keep a song closed; what it holds comes when it comes. */
const PATIENCE_MS = 800;

async function claim(): Promise<void> {
  for (const [songId, steps] of await claimSteps()) leave(songId, steps);
}

let sending: Promise<void> | undefined;

/** Sends what windows left behind that closed before it was saved; once at a time, so that it is said once. */
function sendWhatWasLeft(): Promise<void> {
  sending ??= sendEach().finally(() => (sending = undefined));
  return sending;
}

async function sendEach(): Promise<void> {
  await claim();
  for (const [songId, steps] of [...left]) {
    try {
      const session = await openSession(songId);
      const count = steps.length;
      if (session.getSaving().waiting > 0)
        notice(
          `${count === 1 ? 'A change' : `${count} changes`} to “${session.getState().song.title}” from your last visit ${count === 1 ? 'is' : 'are'} being saved now.`,
        );
      sessions.get(songId)!.ends = true;
      update();
    } catch {
      // The song is in the bin, or the server is away: tried again when either is back.
    }
  }
}

function sendLastWords(): void {
  const waiting = new Map([...left]);
  for (const [songId, { session }] of sessions) {
    const request = session.lastWords();
    if (!request) continue;
    waiting.set(songId, session.waitingSteps());
    api.leaveSteps(songId, request);
  }
  leaveNote(waiting);
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
  const send = () => void sendWhatWasLeft();
  const sendLeft = () => left.size > 0 && send();
  onWindowEnd(send);
  listenToServer((event) => event.type === 'songs' && sendLeft(), sendLeft);
  send();
}
