/** What can be typed of a point of the tempo. */
import { Checkbox } from 'antd';
import type { TempoEntry } from '@plundra/core/song';
import { AmountField } from '../../controls/AmountField.tsx';
import { Button } from '../../controls/index.tsx';

interface PointProps {
  entry: TempoEntry;
  bpm: number;
  position: string;
  isFirst: boolean;
  isLast: boolean;
  onBpm(bpm: number): void;
  onRamp(ramp: boolean): void;
  onRemove(): void;
}

export function TempoPointFields({
  entry,
  bpm,
  position,
  isFirst,
  isLast,
  onBpm,
  onRamp,
  onRemove,
}: PointProps) {
  return (
    <div className="dialog-fields" style={{ width: 250 }}>
      <div className="row">
        <span className="label">Tempo at {position}</span>
        <AmountField
          label="Tempo of the point"
          value={bpm}
          min={10}
          max={400}
          decimals={1}
          suffix="bpm"
          width={100}
          autoFocus
          onSet={onBpm}
        />
      </div>
      <Checkbox
        checked={entry.ramp === true}
        disabled={isLast}
        onChange={(event) => onRamp(event.target.checked)}
      >
        Goes evenly to the next tempo
      </Checkbox>
      {isLast && !isFirst && <span className="quiet">It holds until the end of the song.</span>}
      <span className="quiet">
        Recordings keep their own time unless a passage follows the tempo: see its side sheet.
      </span>
      <Button size="small" disabled={isFirst} onClick={onRemove}>
        Remove
      </Button>
    </div>
  );
}
