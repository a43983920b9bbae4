/** Time: pulling starts to the grid, and following another part. What would happen is said and drawn beforehand. */
import { lockFigures } from '@plundra/core/retune';
import { chosenPassages, placedRecordings, shownNotes } from '@plundra/core/song';
import { Button, Select } from '../../controls/index.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { inEach, lockNotes, meantIn, notesMeant, pullNotes, unpullNotes } from './correcting.ts';
import { GridPullFields } from './GridPullFields.tsx';
import { countNotes } from './noteEditing.ts';
import { Share, type CorrectionSheetProps } from './TuneSheet.tsx';
import type { Timing } from './useTiming.ts';

export function TimeSheet({
  part,
  passages,
  selected,
  change,
  timing,
}: CorrectionSheetProps & { timing: Timing }) {
  const { time } = useSong();
  const meant = meantIn(passages, selected);
  if (meant.length === 0)
    return (
      <p className="quiet">This line has no notes that could be moved in time. Read the melody again.</p>
    );
  const notes = notesMeant(meant);
  const { plan } = timing;
  return (
    <>
      <h2>Time</h2>
      <p className="quiet">
        {selected.size > 0
          ? `For the ${countNotes(notes.length)} selected.`
          : `For all ${countNotes(notes.length)}.`}
      </p>
      <h3>Pull to grid</h3>
      <GridPullFields
        settings={timing.settings}
        setSettings={timing.setSettings}
        report={plan?.report}
        count={countNotes}
      />
      <Button
        block
        type="primary"
        disabled={!plan || plan.report.moving === 0}
        title="Key G"
        onClick={() => plan && change(pullNotes(part.id, meant, plan, time))}
      >
        {plan && plan.report.moving > 0 ? `Pull ${countNotes(plan.report.moving)}` : 'Nothing to pull'}
      </Button>
      <Lock part={part} passages={passages} timing={timing} change={change} />
      <Button
        block
        style={{ marginTop: 14 }}
        disabled={!notes.some((note) => note.target?.startSeconds !== undefined)}
        onClick={() => change(inEach(meant, ({ passage, notes: own }) => unpullNotes(part.id, passage, own)))}
      >
        Timing as played
      </Button>
      <p className="quiet">
        Drag the head of an onset over the waveform to move one note; Alt with ← and → moves it by 5 ms.
      </p>
    </>
  );
}

function Lock({
  part,
  passages,
  timing,
  change,
}: Pick<CorrectionSheetProps, 'part' | 'passages' | 'change'> & { timing: Timing }) {
  const { song } = useSong();
  const { lock, setLock, match } = timing;
  const leaders = song.parts.filter(
    (each) =>
      each.id !== part.id &&
      (each.kind === 'notes'
        ? chosenPassages(each).some((passage) => shownNotes(passage).length > 0)
        : each.kind === 'recording' && placedRecordings(each).some(({ line }) => line)),
  );
  const leader = song.parts.find((each) => each.id === lock.leaderPartId);
  const before = match && lockFigures(match.pairs);
  const after =
    match &&
    lockFigures(
      match.pairs.map((pair) => ({
        lateSeconds: pair.lateSeconds * (1 - lock.timing),
        offCents: pair.offCents * (1 - lock.pitch),
      })),
    );
  return (
    <>
      <h3>Lock to</h3>
      <Select
        aria-label="Lock to"
        style={{ width: '100%' }}
        placeholder={leaders.length === 0 ? 'No other part has notes yet' : 'Choose a part to follow'}
        disabled={leaders.length === 0}
        allowClear
        value={leader ? lock.leaderPartId : undefined}
        options={leaders.map((each) => ({ value: each.id, label: each.name }))}
        onChange={(leaderPartId?: string) => setLock({ ...lock, leaderPartId })}
      />
      {match && leader && before && after && (
        <>
          <p className="quiet" data-testid="lock-pairs">
            {match.pairs.length} {match.pairs.length === 1 ? 'pair' : 'pairs'}
            {match.alone.follower.length + match.alone.leader.length > 0 &&
              `; without a partner: ${match.alone.follower.length} here, ${match.alone.leader.length} there`}
            . “One in each ear” plays the two against each other.
          </p>
          <Share
            label="Timing"
            value={lock.timing}
            onChange={(value) => setLock({ ...lock, timing: value })}
          />
          <Share label="Pitch" value={lock.pitch} onChange={(value) => setLock({ ...lock, pitch: value })} />
          <table className="figures numbers" data-testid="lock-figures">
            <thead>
              <tr>
                <th>Apart</th>
                <th>as played</th>
                <th>locked</th>
              </tr>
            </thead>
            <tbody>
              <tr>
                <td>median</td>
                <td>{apart(before.medianMs, before.medianCents)}</td>
                <td>{apart(after.medianMs, after.medianCents)}</td>
              </tr>
              <tr>
                <td>worst</td>
                <td>{apart(before.worstMs, before.worstCents)}</td>
                <td>{apart(after.worstMs, after.worstCents)}</td>
              </tr>
            </tbody>
          </table>
          <Button
            block
            type="primary"
            disabled={match.pairs.length === 0 || (lock.timing === 0 && lock.pitch === 0)}
            onClick={() =>
              change(
                inEach(
                  meantIn(passages, new Set(match.pairs.map(({ follower }) => follower.id))),
                  ({ passage }) =>
                    lockNotes(part.id, passage, match.pairs, lock, match.intervalSemitones, leader.name),
                ),
              )
            }
          >
            Lock {countNotes(match.pairs.length)}
          </Button>
        </>
      )}
    </>
  );
}

const apart = (ms: number, cents: number) => `${ms.toFixed(0)} ms, ${cents.toFixed(0)} cents`;
