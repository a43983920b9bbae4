/** Time, for a recording without a line: its onsets, and pulling them to the grid. */
import { useEffect, useRef, useState } from 'react';
import { Alert, Spin } from 'antd';
import { WarningFilled } from '@ant-design/icons';
import { keptOnsets } from '@plundra/core/reading';
import { riskText, riskyOnsets } from '@plundra/core/retune';
import {
  emptyStretch,
  heardAt,
  resetOnsets,
  type RecordingPart,
  type PlacedRecording,
  type Stretch,
} from '@plundra/core/song';
import { Button, Segmented, Slider } from '../../controls/index.tsx';
import { useCorrected } from '../../song/SongContext.tsx';
import { colours } from '../../theme/tokens.ts';
import { GridPullFields } from './GridPullFields.tsx';
import type { LabelledEdit } from './noteEditing.ts';
import { countOnsets, setStretch, withFound } from './onsetEditor.ts';
import { useOnsets } from '../../song/useOnsets.ts';
import type { Timing } from './useTiming.ts';

const FIRST_SENSITIVITY = 0.65;
const createId = () => crypto.randomUUID();

export function OnsetSheet({
  part,
  passage,
  selected,
  setSelected,
  change,
  timing,
}: {
  part: RecordingPart;
  passage: PlacedRecording;
  selected: ReadonlySet<string>;
  setSelected(ids: ReadonlySet<string>): void;
  change(change: LabelledEdit | undefined): void;
  timing: Timing;
}) {
  const { corrected } = useCorrected();
  const limited = corrected.get(`${part.id}/${passage.takeId}`)?.limited.length ?? 0;
  const onsets = useOnsets(passage.recordingHash, true);
  const [sensitivity, setSensitivity] = useState(FIRST_SENSITIVITY);
  const stretch = passage.stretch ?? emptyStretch(part.material);
  const { found } = onsets;
  const listed = found && keptOnsets(found, sensitivity);
  const take = (at: number) => {
    if (!found) return;
    const seconds = keptOnsets(found, at)
      .map((onset) => onset.seconds)
      .filter((each) => each >= passage.shownSeconds.from && each < passage.shownSeconds.to);
    const next = withFound(stretch, seconds, createId);
    change(setStretch(part.id, passage, `Find ${countOnsets(next.onsets.length)}`, next));
  };
  // Onsets found for the first time are taken at once.
  const taken = useRef(stretch.onsets.length > 0);
  useEffect(() => {
    if (taken.current || !found) return;
    taken.current = true;
    take(FIRST_SENSITIVITY);
  });
  const moved = stretch.onsets.filter((onset) => onset.targetSeconds !== undefined).length;
  const risky = riskyOnsets(stretch, passage.shownSeconds.to);
  const { plan } = timing;
  const pulls = plan?.stretch !== undefined && !sameTimes(plan.stretch, stretch);
  return (
    <>
      <h2>Time</h2>
      {onsets.error ? (
        <Alert
          type="warning"
          title={onsets.error.message}
          action={<Button onClick={onsets.retry}>Try again</Button>}
        />
      ) : !found ? (
        <p className="quiet">
          <Spin size="small" /> Finding onsets …
        </p>
      ) : (
        <p className="quiet" data-testid="onset-scope">
          {selected.size > 0
            ? `For the ${countOnsets(selected.size)} selected.`
            : `${countOnsets(stretch.onsets.length)}, ${moved} moved.`}
        </p>
      )}
      <div className="row">
        <span className="label">Sensitivity</span>
        <Slider
          ariaLabelForHandle="Sensitivity"
          style={{ flex: 1 }}
          min={0}
          max={100}
          disabled={!found}
          value={Math.round(sensitivity * 100)}
          onChange={(value) => setSensitivity(value / 100)}
          onChangeComplete={(value) => take(value / 100)}
          tooltip={{ open: false }}
        />
        <span className="numbers" style={{ width: 34, textAlign: 'right' }}>
          {listed?.length ?? ''}
        </span>
      </div>
      <div className="row">
        <span className="label">Between onsets</span>
        <Segmented<'stretch' | 'slice'>
          size="small"
          aria-label="Between onsets"
          value={stretch.how}
          options={[
            { value: 'stretch', label: 'Stretch', title: 'For sounds that ring: chords, pads, a full mix' },
            { value: 'slice', label: 'Cut', title: 'For hits: nothing is stretched' },
          ]}
          onChange={(how) =>
            change(
              setStretch(
                part.id,
                passage,
                how === 'slice' ? 'Cut between onsets' : 'Stretch between onsets',
                {
                  ...stretch,
                  how,
                },
              ),
            )
          }
        />
      </div>
      <h3>Pull to grid</h3>
      <GridPullFields
        settings={timing.settings}
        setSettings={timing.setSettings}
        report={plan?.report}
        count={countOnsets}
      />
      <Button
        block
        type="primary"
        disabled={!pulls}
        title="Key G"
        onClick={() =>
          plan?.stretch && change(pullChange(part.id, passage, plan.report.moving, plan.stretch))
        }
      >
        {plan && pulls ? `Pull ${countOnsets(plan.report.moving)}` : 'Nothing to pull'}
      </Button>
      <Button
        block
        style={{ marginTop: 14 }}
        disabled={moved === 0}
        onClick={() => change(setStretch(part.id, passage, 'Timing as played', resetOnsets(stretch)))}
      >
        Timing as played
      </Button>
      {risky.size > 0 && (
        <div className="row" style={{ marginTop: 14 }} data-testid="risks">
          <span>
            <WarningFilled style={{ color: colours.error, marginRight: 6 }} />
            Behind {countOnsets(risky.size)} it may be heard: {riskText(risky.values())}
          </span>
          <Button size="small" onClick={() => setSelected(new Set(risky.keys()))}>
            Select
          </Button>
        </div>
      )}
      {limited > 0 && (
        <p data-testid="limited">
          {countOnsets(limited)} could not go all the way: between onsets 50 to 200 % of the length can be
          heard. Cut instead of stretching moves them further.
        </p>
      )}
      <p className="quiet">
        Drag the head of an onset over the waveform to move it; Draw (D) and a click on the waveform adds one,
        Delete removes the selected.
      </p>
    </>
  );
}

/** Whether everything a pull would change was pulled already. */
const sameTimes = (a: Stretch, b: Stretch) =>
  a.onsets.every((onset, i) => Math.abs(heardAt(onset) - heardAt(b.onsets[i])) < 0.0005);

export const pullChange = (
  partId: string,
  passage: PlacedRecording,
  moving: number,
  stretch: Stretch,
): LabelledEdit => setStretch(partId, passage, `Pull ${countOnsets(moving)} to the grid`, stretch);
