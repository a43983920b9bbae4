/** What the Time step prepares: a pull to the grid or a lock to another part, before either is applied. */
import { useEffect, useMemo, useState } from 'react';
import { matchLines, type LockMatch, type LockNote } from '@plundra/core/retune';
import {
  createPassageTime,
  melodyLineOf,
  placedRecordings,
  railMidi,
  soundingNotesOf,
  wantedSpan,
  type GridPull,
  type Part,
  type PlacedRecording,
  type TimeMap,
} from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import { meantIn, planOnsetPull, planPull, type LockSettings, type PullPlan } from './correcting.ts';
import type { LeaderNote, LineScene } from './lineScene.ts';

export interface Timing {
  settings: GridPull;
  setSettings(settings: GridPull): void;
  plan: PullPlan | null;
  lock: LockSettings & { leaderPartId?: string };
  setLock(lock: LockSettings & { leaderPartId?: string }): void;
  match: LockMatch | null;
  /** What the canvas shows of it. */
  shown: Pick<LineScene, 'wouldGo' | 'leader'>;
}

export const FIRST_PULL: GridPull = { grid: '1/16', pull: 1, swing: 0, leaveAloneBeyondSeconds: null };
const NOTHING: Timing['shown'] = { wouldGo: new Map(), leader: [] };

/** `passages`: of the part; `passage`: the one that is worked on, where onsets are moved instead of notes. */
export function useTiming(
  passages: readonly PlacedRecording[],
  passage: PlacedRecording | null,
  selected: ReadonlySet<string>,
  open: boolean,
): Timing {
  const { song, time, setListen } = useSong();
  const [settings, setSettings] = useState(FIRST_PULL);
  const [lock, setLock] = useState<Timing['lock']>({ timing: 1, pitch: 1 });
  const line = melodyLineOf(passage);
  const meant = useMemo(() => (open ? meantIn(passages, selected) : []), [open, passages, selected]);
  const plan = useMemo(() => {
    if (!open || !passage) return null;
    if (line) return planPull(meant, settings, time);
    return passage.stretch ? planOnsetPull(passage, passage.stretch, selected, settings, time) : null;
  }, [open, passage, line, meant, selected, settings, time]);
  // The part that was followed may be gone.
  const leader = song.parts.find((part) => part.id === lock.leaderPartId);
  const leaderNotes = useMemo(
    () => (open && leader ? soundingNotes(leader, time) : null),
    [open, leader, time],
  );
  const match = useMemo(() => {
    if (!leaderNotes || !line) return null;
    const follower = meant.flatMap(({ passage: of, notes }) => {
      const { toSong } = createPassageTime(of, time);
      return notes.map((note) => ({
        id: note.id,
        startSeconds: toSong(note.startSeconds),
        endSeconds: toSong(note.endSeconds),
        midi: note.midi,
      }));
    });
    return matchLines(
      follower.sort((a, b) => a.startSeconds - b.startSeconds),
      leaderNotes,
    );
  }, [leaderNotes, line, meant, time]);

  // One in each ear plays against the part that is followed.
  const againstPartId = (open && leader?.id) || null;
  useEffect(() => {
    setListen({ againstPartId });
    return () => setListen({ againstPartId: null });
  }, [againstPartId, setListen]);

  const shown = useMemo(() => {
    if (!open) return NOTHING;
    if (match && leaderNotes) {
      const partner = new Map(match.pairs.map((pair) => [pair.leader.id, pair.follower.id]));
      return {
        wouldGo: new Map(
          match.pairs.map((pair) => [
            pair.follower.id,
            { startSeconds: pair.follower.startSeconds - lock.timing * pair.lateSeconds },
          ]),
        ),
        leader: leaderNotes.map((note): LeaderNote => ({
          ...note,
          midi: note.midi + match.intervalSemitones,
          partnerId: partner.get(note.id),
        })),
      };
    }
    return {
      wouldGo: new Map([...(plan?.starts ?? [])].map(([id, startSeconds]) => [id, { startSeconds }])),
      leader: [],
    };
  }, [open, match, leaderNotes, plan, lock.timing]);

  return { settings, setSettings, plan, lock: { ...lock, leaderPartId: leader?.id }, setLock, match, shown };
}

/** Notes of a part as they sound, in song time. */
function soundingNotes(part: Part, time: TimeMap): LockNote[] {
  if (part.kind !== 'recording')
    return soundingNotesOf(part)
      .map(({ id, midi, startTicks, lengthTicks }) => ({
        id,
        startSeconds: time.secondsAt(startTicks),
        endSeconds: time.secondsAt(startTicks + lengthTicks),
        midi,
      }))
      .sort((a, b) => a.startSeconds - b.startSeconds);
  const notes = placedRecordings(part).flatMap((passage): LockNote[] => {
    const { line } = passage;
    if (!line) return [];
    const { toSong } = createPassageTime(passage, time);
    return line.notes.map((note) => {
      const span = wantedSpan(note);
      return {
        id: note.id,
        startSeconds: toSong(span.startSeconds),
        endSeconds: toSong(span.endSeconds),
        midi: railMidi(note, line.tuningCents),
      };
    });
  });
  return notes.sort((a, b) => a.startSeconds - b.startSeconds);
}
