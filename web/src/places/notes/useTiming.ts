/** What the Time step prepares: a pull to the grid or a lock to another part, before either is applied. */
import { useEffect, useMemo, useState } from 'react';
import { matchLines, type LockMatch, type LockNote } from '@plundra/core/retune';
import {
  createPassageTime,
  melodyLineOf,
  railMidi,
  wantedSpan,
  type GridPull,
  type Part,
  type RecordingPassage,
  type TimeMap,
} from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import { meantNotes, planOnsetPull, planPull, type LockSettings, type PullPlan } from './correcting.ts';
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

export function useTiming(
  passage: RecordingPassage | null,
  selected: ReadonlySet<string>,
  open: boolean,
): Timing {
  const { song, time, setListen } = useSong();
  const [settings, setSettings] = useState(FIRST_PULL);
  const [lock, setLock] = useState<Timing['lock']>({ timing: 1, pitch: 1 });
  const line = melodyLineOf(passage);
  const plan = useMemo(() => {
    if (!open || !passage) return null;
    if (line) return planPull(passage, meantNotes(line, selected), settings, time);
    return passage.stretch ? planOnsetPull(passage, passage.stretch, selected, settings, time) : null;
  }, [open, passage, line, selected, settings, time]);
  // The part that was followed may be gone.
  const leader = song.parts.find((part) => part.id === lock.leaderPartId);
  const leaderNotes = useMemo(
    () => (open && leader ? soundingNotes(leader, time) : null),
    [open, leader, time],
  );
  const match = useMemo(() => {
    if (!leaderNotes || !passage || !line) return null;
    const { originSeconds } = createPassageTime(passage, time);
    const follower = meantNotes(line, selected).map((note) => ({
      id: note.id,
      startSeconds: originSeconds + note.startSeconds,
      endSeconds: originSeconds + note.endSeconds,
      midi: note.midi,
    }));
    return matchLines(follower, leaderNotes);
  }, [leaderNotes, passage, line, selected, time]);

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
  const notes = part.passages.flatMap((passage): LockNote[] => {
    if (passage.type === 'notes')
      return passage.notes.map((note) => ({
        id: note.id,
        startSeconds: time.secondsAt(passage.startTicks + note.startTicks),
        endSeconds: time.secondsAt(passage.startTicks + note.startTicks + note.lengthTicks),
        midi: note.midi,
      }));
    const { line } = passage;
    if (!line) return [];
    const { originSeconds } = createPassageTime(passage, time);
    return line.notes.map((note) => {
      const span = wantedSpan(note);
      return {
        id: note.id,
        startSeconds: originSeconds + span.startSeconds,
        endSeconds: originSeconds + span.endSeconds,
        midi: railMidi(note, line.tuningCents),
      };
    });
  });
  return notes.sort((a, b) => a.startSeconds - b.startSeconds);
}
