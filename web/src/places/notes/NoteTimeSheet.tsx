/** Time of a note part: pulling its notes to the grid, and how long they last. What would move is drawn beforehand. */
import { useState } from 'react';
import { withLengths, type NotePart, type NotePassage } from '@plundra/core/song';
import { Button } from '../../controls/index.tsx';
import { GridPullFields } from './GridPullFields.tsx';
import { countNotes, type LabelledEdit } from './noteEditing.ts';
import { Share } from './TuneSheet.tsx';
import type { NoteTiming } from './useNoteTiming.ts';

export function NoteTimeSheet({
  part,
  passage,
  selected,
  change,
  timing,
}: {
  part: NotePart;
  passage: NotePassage;
  selected: ReadonlySet<string>;
  change(change: LabelledEdit | undefined): void;
  timing: NoteTiming;
}) {
  const [share, setShare] = useState(0.9);
  const { plan, meant } = timing;
  const put = (label: string, notes: NotePassage['notes']): LabelledEdit | undefined =>
    notes.length === 0
      ? undefined
      : {
          label,
          edit: {
            type: 'passage.notes',
            partId: part.id,
            passageId: passage.id,
            remove: [],
            put: notes,
          },
        };
  const last = (of: number, label: string) =>
    change(put(`${label} for ${countNotes(meant.length)}`, withLengths(passage, meant, of)));
  return (
    <>
      <h2>Time</h2>
      <p className="quiet">
        {selected.size > 0
          ? `For the ${countNotes(meant.length)} selected.`
          : `For all ${countNotes(meant.length)}.`}
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
        disabled={!plan || plan.put.length === 0}
        title="Key G"
        onClick={() => plan && change(put(`Pull ${countNotes(plan.put.length)} to the grid`, plan.put))}
      >
        {plan && plan.put.length > 0 ? `Pull ${countNotes(plan.put.length)}` : 'Nothing to pull'}
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
