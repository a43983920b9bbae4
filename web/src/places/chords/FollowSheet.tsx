/** Who follows the chords, and how. */
import { useState } from 'react';
import { Button, Checkbox, Segmented, Switch } from 'antd';
import { followedSong, followNote, followsOf, type Aim, type Way } from '@plundra/core/arranging';
import {
  changeAt,
  chordEntriesOf,
  createPassageTime,
  keyAt,
  melodyLineOf,
  placedNotes,
  placedRecordings,
  railMidi,
  wantedSpan,
  type Follows,
  type NotePart,
  type RecordingPart,
  type SimpleEdit,
  type Song,
  type TimeMap,
} from '@plundra/core/song';
import { mod12, prettyName, spellInKey, type Key } from '@plundra/core/theory';
import { useSong } from '../../song/SongContext.tsx';

type Follower = RecordingPart | Extract<NotePart, { kind: 'notes' }>;

const EXPLAINED: Record<Aim, Record<Way, string>> = {
  chord: {
    root: 'Travels with the root, keeps its shape, and adapts third, fifth and seventh.',
    nearest: 'Each note steps to the nearest note of the chord.',
  },
  scale: {
    root: 'Travels with the root, then bends to the scale.',
    nearest: 'Each note steps to the nearest note of the scale; few notes move.',
  },
};
const SAMPLES = 3;

export function FollowSheet() {
  const { song, apply } = useSong();
  const followers = song.parts.filter(
    (part): part is Follower =>
      part.kind === 'notes' || (part.kind === 'recording' && part.material !== 'drums'),
  );
  const [openId, setOpenId] = useState<string | null>(null);
  if (followers.length === 0) return null;
  const any = followers.some((part) => followsOf(part));
  return (
    <>
      <h3>Who follows</h3>
      {any && (
        <label className="row">
          <span className="label">Following, in the whole song</span>
          <Switch
            size="small"
            aria-label="Following, in the whole song"
            checked={!song.followOff}
            onChange={(on) =>
              apply(on ? 'Follow the chords' : 'Sound as written', {
                type: 'song.set',
                patch: { followOff: !on },
              })
            }
          />
        </label>
      )}
      {followers.map((part) => (
        <FollowerRow
          key={part.id}
          part={part}
          open={openId === part.id}
          onOpen={() => setOpenId(openId === part.id ? null : part.id)}
        />
      ))}
    </>
  );
}

function FollowerRow({ part, open, onOpen }: { part: Follower; open: boolean; onOpen: () => void }) {
  const { song, time, apply } = useSong();
  const follows = followsOf(part);
  const unread = part.kind === 'recording' && !part.takes.some((take) => melodyLineOf(take));
  const set = (next: Follows | null) =>
    apply(next ? `${part.name} follows the chords` : `${part.name} as written`, {
      type: 'part.follow',
      partId: part.id,
      follows: next,
    });
  const isBass =
    part.kind === 'recording' ? part.material === 'bass' : part.program >= 32 && part.program < 40;
  return (
    <>
      <div className="row">
        <button
          type="button"
          className="plain-button"
          disabled={!follows}
          aria-expanded={follows ? open : undefined}
          onClick={onOpen}
        >
          {part.name}
        </button>
        <Switch
          size="small"
          aria-label={`${part.name} follows`}
          title={unread ? 'Read its melody first: single lines follow note by note' : undefined}
          disabled={unread}
          checked={follows !== undefined}
          onChange={(on) => {
            // Its notes were written over the chords of now; from here on it follows them.
            set(
              on
                ? {
                    aim: 'chord',
                    way: isBass ? 'nearest' : 'root',
                    bassOnBass: isBass,
                    writtenOver: chordEntriesOf(song).map(({ id, startTicks, chord }) => ({
                      id,
                      startTicks,
                      chord,
                    })),
                  }
                : null,
            );
            if (on !== open) onOpen();
          }}
        />
      </div>
      {follows && open && (
        <div className="follow-choices">
          <Segmented<Aim>
            size="small"
            block
            aria-label="Aim"
            value={follows.aim}
            options={[
              { value: 'chord', label: 'Chord notes' },
              { value: 'scale', label: 'Scale notes' },
            ]}
            onChange={(aim) => set({ ...follows, aim })}
          />
          <Segmented<Way>
            size="small"
            block
            aria-label="Way"
            value={follows.way}
            options={[
              { value: 'root', label: 'With the root', disabled: follows.writtenOver.length === 0 },
              { value: 'nearest', label: 'To the nearest' },
            ]}
            onChange={(way) => set({ ...follows, way })}
          />
          <Checkbox
            checked={follows.bassOnBass}
            onChange={(event) => set({ ...follows, bassOnBass: event.target.checked })}
          >
            Bass on the chord’s bass
          </Checkbox>
          <p className="quiet">
            {follows.writtenOver.length === 0
              ? 'The chords it was written over are not known, so notes step to the nearest. Reading them first gives better results.'
              : EXPLAINED[follows.aim][follows.way]}
          </p>
          <p className="numbers">{samplesOf(song, part, follows, time)}</p>
          <Button
            size="small"
            onClick={() => apply(`Make it permanent: ${part.name}`, permanent(song, part))}
          >
            Make it permanent
          </Button>
        </div>
      )}
    </>
  );
}

/** "E4 → E♭4, G4 stays": what happens to the first notes that stand over a changed chord. */
function samplesOf(song: Song, part: Follower, follows: Follows, time: TimeMap): string {
  const nameOf = (midi: number, key: Key | null) =>
    `${prettyName(spellInKey(mod12(midi), key))}${Math.floor(midi / 12) - 1}`;
  const shown: string[] = [];
  for (const { midi, ticks } of notesOf(part, time)) {
    const from = changeAt(follows.writtenOver, ticks)?.chord;
    const to = changeAt(chordEntriesOf(song), ticks)?.chord;
    if (JSON.stringify(from) === JSON.stringify(to)) continue;
    const key = keyAt(song, ticks);
    const goes = followNote(midi, from, to, key, follows);
    shown.push(goes === midi ? `${nameOf(midi, key)} stays` : `${nameOf(midi, key)} → ${nameOf(goes, key)}`);
    if (shown.length === SAMPLES) break;
  }
  return shown.length > 0 ? shown.join(', ') : 'Nothing moves yet: change a chord and it goes along.';
}

function notesOf(part: Follower, time: TimeMap): { midi: number; ticks: number }[] {
  if (part.kind === 'notes')
    return placedNotes(part).map((note) => ({
      midi: note.midi,
      ticks: note.startTicks + Math.min(note.lengthTicks / 2, 480),
    }));
  return placedRecordings(part).flatMap((passage) => {
    const line = melodyLineOf(passage);
    const { toTicks } = createPassageTime(passage, time);
    return (line?.notes ?? []).map((note) => ({
      midi: Math.round(railMidi(note, line!.tuningCents)),
      ticks: toTicks(wantedSpan(note).startSeconds + 0.1),
    }));
  });
}

/** The notes as they sound now, and no following any more. */
function permanent(song: Song, part: Follower): { type: 'batch'; edits: SimpleEdit[] } {
  const sounding = followedSong({ ...song, followOff: false }).parts.find(({ id }) => id === part.id)!;
  const partId = part.id;
  const edits: SimpleEdit[] =
    sounding.kind === 'recording'
      ? sounding.takes.flatMap(({ id, line }) =>
          line ? [{ type: 'line.notes', partId, takeId: id, remove: [], put: line.notes }] : [],
        )
      : sounding.passages.map(({ id, notes }) => ({
          type: 'passage.notes',
          partId,
          passageId: id,
          remove: [],
          put: notes,
        }));
  return { type: 'batch', edits: [...edits, { type: 'part.follow', partId: part.id, follows: null }] };
}
