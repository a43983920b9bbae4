/** A part on the Timeline: mixer controls and its picture. */
import { memo, useEffect, useLayoutEffect, useRef, useState } from 'react';
import { Button, Slider, Tooltip } from 'antd';
import { createPassageTime, type Part } from '@plundra/core/song';
import { CutName } from '../../controls/CutName.tsx';
import { drawChordRow, placedOwnChords } from '../../canvas/chordRow.ts';
import { prepareSurface } from '../../canvas/surface.ts';
import { gridLines } from '../../canvas/timeGrid.ts';
import { secondsOf, xOf, type TimeView } from '../../canvas/view.ts';
import { drawWaveform, waveformColumns } from '../../canvas/waveform.ts';
import { useRecording } from '../../song/useRecording.ts';
import { isAudible } from '../../song/newParts.ts';
import { useSong } from '../../song/SongContext.tsx';
import { colours, partColours } from '../../theme/tokens.ts';

/** The recording's own chords stand along the lower edge of its waveform. */
const OWN_CHORDS_PIXELS = 18;

interface Props {
  part: Part;
  view: TimeView;
  chosen: boolean;
  onChoose(): void;
  onOpen(): void;
}

/** One part: name, mute, solo, level and pan, and the picture of its passages. */
export const PartRow = memo(function PartRow({ part, view, chosen, onChoose, onOpen }: Props) {
  const { apply, song } = useSong();
  const set = (label: string, patch: Partial<Pick<Part, 'mute' | 'solo' | 'levelDb' | 'pan'>>) =>
    apply(`${label} ${part.name}`, { type: 'part.set', partId: part.id, patch });
  const [levelDb, setLevelDb] = useState<number | null>(null);
  const [pan, setPan] = useState<number | null>(null);
  const level = levelDb ?? part.levelDb;
  const place = pan ?? part.pan;
  return (
    <div
      className={`part-row${chosen ? ' chosen' : ''}`}
      onPointerDown={onChoose}
      // The part whose control has the focus is the one that keys act on.
      onFocus={onChoose}
      data-testid="part-row"
      style={{ opacity: isAudible(song, part) ? 1 : 0.6 }}
    >
      <div className="part-head">
        <div className="names">
          <span className="mark" style={{ background: partColours[part.colour] }} aria-hidden>
            {part.mark}
          </span>
          <button
            className="name"
            aria-label={part.name}
            onClick={onOpen}
            title={`Open ${part.name} in Notes`}
          >
            <CutName name={part.name} />
          </button>
          <Tooltip title="Mute (M)">
            <Button
              size="small"
              aria-label={`Mute ${part.name}`}
              aria-pressed={part.mute}
              type={part.mute ? 'primary' : 'default'}
              onClick={() => set(part.mute ? 'Unmute' : 'Mute', { mute: !part.mute })}
            >
              M
            </Button>
          </Tooltip>
          <Tooltip title="Solo (S)">
            <Button
              size="small"
              aria-label={`Solo ${part.name}`}
              aria-pressed={part.solo}
              type={part.solo ? 'primary' : 'default'}
              onClick={() => set(part.solo ? 'Unsolo' : 'Solo', { solo: !part.solo })}
            >
              S
            </Button>
          </Tooltip>
        </div>
        <div className="sliders">
          <Slider
            ariaLabelForHandle={`Level of ${part.name}`}
            style={{ flex: 2 }}
            min={-40}
            max={6}
            step={0.5}
            value={level}
            tooltip={{ formatter: (value) => `${levelText(value ?? 0)} dB` }}
            onChange={setLevelDb}
            onChangeComplete={(value) => {
              setLevelDb(null);
              set('Set level of', { levelDb: value });
            }}
          />
          <span className="quiet numbers" style={{ width: 44, textAlign: 'right', fontSize: 12 }}>
            {levelText(level)} dB
          </span>
          <Slider
            ariaLabelForHandle={`Pan of ${part.name}`}
            style={{ flex: 1 }}
            min={-1}
            max={1}
            step={0.05}
            included={false}
            value={place}
            tooltip={{ formatter: (value) => panText(value ?? 0) }}
            onChange={setPan}
            onChangeComplete={(value) => {
              setPan(null);
              set('Pan', { pan: value });
            }}
          />
          <span className="quiet numbers" style={{ width: 26, fontSize: 12 }}>
            {panText(place)}
          </span>
        </div>
      </div>
      <PartPicture part={part} view={view} onOpen={onOpen} />
    </div>
  );
});

/** "−6.0" with a real minus. */
function levelText(levelDb: number): string {
  return levelDb.toFixed(1).replace('-', '−');
}

/** "L 40", "mid", "R 15". */
function panText(pan: number): string {
  const share = Math.round(Math.abs(pan) * 100);
  return share === 0 ? 'mid' : `${pan < 0 ? 'L' : 'R'} ${share}`;
}

function PartPicture({ part, view, onOpen }: { part: Part; view: TimeView; onOpen: () => void }) {
  const { time } = useSong();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(0);
  const hash = part.kind === 'recording' ? part.passages[0]?.recordingHash : undefined;
  const { recording, peaks, error } = useRecording(hash);
  useLayoutEffect(() => {
    const element = canvas.current!;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    const surface = prepareSurface(canvas.current);
    if (!surface) return;
    const { context, height } = surface;
    for (const line of gridLines(view, width, time, 0)) {
      if (line.weight !== 'bar') continue;
      context.fillStyle = '#E6DFD0';
      context.fillRect(Math.round(line.x), 0, 1, height);
    }
    const colour = partColours[part.colour];
    for (const passage of part.passages) {
      const startSeconds = time.secondsAt(passage.startTicks);
      const endSeconds =
        passage.type === 'recording'
          ? startSeconds + passage.durationSeconds
          : time.secondsAt(passage.startTicks + passage.lengthTicks);
      const x = xOf(view, startSeconds);
      const w = xOf(view, endSeconds) - x;
      context.fillStyle = `${colour}1C`;
      context.beginPath();
      context.roundRect(x, 4, Math.max(2, w), height - 8, 4);
      context.fill();
      if (passage.type === 'notes') {
        drawNotePicture(
          context,
          passage.notes,
          (ticks) => xOf(view, time.secondsAt(passage.startTicks + ticks)),
          height,
          width,
          colour,
        );
      } else if (peaks && recording && passage.recordingHash === hash) {
        const left = Math.max(0, x);
        const columns = Math.floor(Math.min(width, x + w) - left);
        if (columns <= 0) continue;
        const { originSeconds } = createPassageTime(passage, time);
        const span = {
          fromSeconds: secondsOf(view, left) - originSeconds,
          toSeconds: secondsOf(view, left + columns) - originSeconds,
          columns,
        };
        drawWaveform(
          context,
          waveformColumns(peaks, recording.sampleRateHz, span),
          left,
          8,
          height - 16,
          `${colour}CC`,
        );
        drawChordRow(context, placedOwnChords(passage.chords, passage, originSeconds), view, {
          left,
          right: left + columns,
          top: height - OWN_CHORDS_PIXELS - 2,
          height: OWN_CHORDS_PIXELS,
        });
      }
    }
  }, [part, view, width, time, peaks, recording, hash]);
  return (
    <div className="part-picture" onDoubleClick={onOpen} title="Double-click opens the part in Notes">
      <canvas ref={canvas} />
      {error && (
        <span style={{ position: 'absolute', left: 12, top: 26, color: colours.error }}>{error.message}</span>
      )}
    </div>
  );
}

function drawNotePicture(
  context: CanvasRenderingContext2D,
  notes: readonly { startTicks: number; lengthTicks: number; midi: number }[],
  x: (ticks: number) => number,
  height: number,
  width: number,
  colour: string,
): void {
  let low = 127;
  let high = 0;
  for (const { midi } of notes) {
    low = Math.min(low, midi);
    high = Math.max(high, midi);
  }
  const span = Math.max(12, high - low + 2);
  context.fillStyle = colour;
  for (const { startTicks, lengthTicks, midi } of notes) {
    const left = x(startTicks);
    if (left > width) break;
    const right = x(startTicks + lengthTicks);
    if (right < 0) continue;
    const y = 9 + ((high + 1 - midi) / span) * (height - 20);
    context.fillRect(left, y, Math.max(1.5, right - left - 1), 3);
  }
}
