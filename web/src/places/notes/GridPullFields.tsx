/** Grid, strength, swing and the limit of a pull, and what it would do. */
import { GRID_VALUES, type GridPull, type GridValue, type PullReport } from '@plundra/core/song';
import { InputNumber, Select, Switch } from '../../controls/index.tsx';
import { Share } from './TuneSheet.tsx';

const SMALLEST_ALONE_MS = 5;

export function GridPullFields({
  settings,
  setSettings,
  report,
  count,
}: {
  settings: GridPull;
  setSettings(settings: GridPull): void;
  report: PullReport | undefined;
  /** "3 notes" */
  count(count: number): string;
}) {
  const set = (next: Partial<GridPull>) => setSettings({ ...settings, ...next });
  const alone = settings.leaveAloneBeyondSeconds;
  return (
    <>
      <div className="row">
        <span className="label">Grid</span>
        <Select
          aria-label="Grid to pull to"
          size="small"
          style={{ width: 130 }}
          value={settings.grid}
          options={GRID_VALUES.map((value) => ({ value, label: gridName(value) }))}
          onChange={(grid) => set({ grid })}
        />
      </div>
      <Share label="Pull" value={settings.pull} onChange={(pull) => set({ pull })} />
      <Share label="Swing" value={settings.swing} onChange={(swing) => set({ swing })} />
      <div className="row">
        <span className="label">Leave alone beyond</span>
        <Switch
          size="small"
          aria-label="Leave alone what is far from the grid"
          checked={alone !== null}
          onChange={(on) => set({ leaveAloneBeyondSeconds: on ? 0.06 : null })}
        />
        <InputNumber
          aria-label="Leave alone beyond"
          size="small"
          className="numbers"
          style={{ width: 92 }}
          disabled={alone === null}
          min={SMALLEST_ALONE_MS}
          max={2000}
          value={alone === null ? 60 : Math.round(alone * 1000)}
          onChange={(ms) => ms !== null && set({ leaveAloneBeyondSeconds: ms / 1000 })}
          suffix="ms"
        />
      </div>
      {report && (
        <p className="numbers" data-testid="pull-report">
          {describePull(report, count)}
        </p>
      )}
    </>
  );
}

/** "14 of 38 notes move, median 21 ms, furthest 74 ms → bar 7 beat 3" */
export function describePull(
  { moving, total, medianMs, furthestMs, furthestTo }: PullReport,
  count: (count: number) => string,
): string {
  if (!furthestTo) return `None of ${count(total)} would move.`;
  return `${moving} of ${count(total)} move, median ${medianMs.toFixed(0)} ms, furthest ${furthestMs.toFixed(0)} ms → bar ${furthestTo.bar} beat ${furthestTo.beat}`;
}

/** "1/8 triplet", "1/4 dotted" */
export function gridName(value: GridValue): string {
  return value.replace('t', ' triplet').replace('.', ' dotted');
}
