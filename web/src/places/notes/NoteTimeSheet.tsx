/** Time of a note part: pulling its notes to the grid, and how long they last. What would move is drawn beforehand. */
import { useState } from 'react';
import { withLengths, type NotePart } from '@plundra/core/song';
import { Button } from '../../controls/index.tsx';
import { GridPullFields } from './GridPullFields.tsx';
import { countNotes, type LabelledEdit } from './noteEditing.ts';
import { Share } from './TuneSheet.tsx';
import { countMeant, putEach, type NoteTiming } from './useNoteTiming.ts';

export function NoteTimeSheet({
  part,
  selected,
  change,
  timing,
}: {
  part: NotePart;
  selected: ReadonlySet<string>;
  change(change: LabelledEdit | undefined): void;
  timing: NoteTiming;
}) {
  const [share, setShare] = useState(0.9);
  const { plan, meant } = timing;
  const count = countNotes(countMeant(meant));
  const moving = plan ? countMeant(plan.put) : 0;
  const last = (of: number, label: string) =>
    change(
      putEach(
        part.id,
        `${label} for ${count}`,
        meant.map(({ passage, notes }) => ({ passage, notes: withLengths(passage, notes, of) })),
      ),
    );
  return (
    <>
      <h2>Time</h2>
      <p className="quiet">{selected.size > 0 ? `For the ${count} selected.` : `For all ${count}.`}</p>
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
        disabled={moving === 0}
        title="Key G"
        onClick={() => plan && change(putEach(part.id, `Pull ${countNotes(moving)} to the grid`, plan.put))}
      >
        {moving > 0 ? `Pull ${countNotes(moving)}` : 'Nothing to pull'}
      </Button>
      <h3>Lengths</h3>
      <Button block onClick={() => last(1, 'Legato')}>
        Legato: each lasts until the next
      </Button>
      <Share label="Share" value={share} onChange={(value) => setShare(Math.max(0.05, value))} />
      <Button block onClick={() => last(share, `Lengths of ${Math.round(100 * share)} %`)}>
        {Math.round(100 * share)} % of the way to the next
      </Button>
    </>
  );
}
