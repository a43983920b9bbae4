/** Lanes, grid, ruler, pitch labels and the waveform: what changes only with the view. */
import { degreeOf, noteNameIn, percussionName, type Key } from '@plundra/core/theory';
import { drawChordRow } from '../../canvas/chordRow.ts';
import { gridLines } from '../../canvas/timeGrid.ts';
import type { Surface } from '../../canvas/surface.ts';
import { midiOf, secondsOf, xOf, yOf } from '../../canvas/view.ts';
import { drawWaveform, waveformAlong } from '../../canvas/waveform.ts';
import { keyIn } from '../../song/keySpans.ts';
import { colours, fontFamily } from '../../theme/tokens.ts';
import { BANDS, noteBand, type LineScene, type SceneRecording } from './lineScene.ts';

/** The recording's own chords stand along the lower edge of its waveform. */
const OWN_CHORDS_PIXELS = 20;

/** A wash that leaves lanes of the scale and others apart. */
const CHORD_TINT = '#C8A8401F';
const LINE_COLOURS = { bar: '#C9BFAB', beat: '#E2DACA', step: '#ECE6DA' };

export function drawBackground({ context, width, height }: Surface, scene: LineScene): void {
  const band = noteBand(height, scene.recordings !== null);
  context.fillStyle = colours.paper;
  context.fillRect(0, 0, width, height);
  drawLanes(context, width, band, scene);
  drawChordLanes(context, width, band, scene);
  if (scene.recordings) drawRecordings(context, width, height, scene);
  drawGrid(context, width, height, scene);
  drawLabels(context, band, height, scene);
  drawChordRow(context, scene.chords, scene.view, {
    left: BANDS.labels + 1,
    right: width,
    top: BANDS.ruler,
    height: BANDS.chords,
  });
}

/** Notes of the chord that sounds are tinted for as long as it does. */
function drawChordLanes(
  context: CanvasRenderingContext2D,
  width: number,
  band: { top: number; bottom: number },
  { view, chords, drumRows, unpitched }: LineScene,
): void {
  if (drumRows || unpitched) return;
  context.save();
  context.beginPath();
  context.rect(BANDS.labels, band.top, width - BANDS.labels, band.bottom - band.top);
  context.clip();
  context.fillStyle = CHORD_TINT;
  const lowest = Math.max(0, Math.floor(midiOf(view, band.bottom - band.top)) - 1);
  const highest = Math.min(127, Math.ceil(view.topMidi) + 1);
  for (const { fromSeconds, toSeconds, classes } of chords) {
    const [x0, x1] = [xOf(view, fromSeconds), xOf(view, toSeconds)];
    if (x1 < BANDS.labels || x0 > width) continue;
    for (let midi = lowest; midi <= highest; midi++)
      if (classes.has(midi % 12))
        context.fillRect(x0, band.top + yOf(view, midi + 0.5) + 1, x1 - x0, view.pixelsPerSemitone - 1);
  }
  context.restore();
}

/** Lanes of the scale are light; of drums every other one. */
function isLight(midi: number, key: Key | null, drumRows: LineScene['drumRows']): boolean {
  if (drumRows) return midi < 0 || midi >= drumRows.length ? false : midi % 2 === 0;
  return key ? degreeOf(midi, key) !== undefined : ![1, 3, 6, 8, 10].includes(midi % 12);
}

function drawLanes(
  context: CanvasRenderingContext2D,
  width: number,
  band: { top: number; bottom: number },
  scene: LineScene,
): void {
  const { view } = scene;
  context.save();
  context.beginPath();
  context.rect(0, band.top, width, band.bottom - band.top);
  context.clip();
  const lowest = Math.floor(midiOf(view, band.bottom - band.top)) - 1;
  const highest = Math.ceil(view.topMidi) + 1;
  for (const { fromSeconds, toSeconds, key } of scene.keys) {
    const from = Math.max(0, xOf(view, fromSeconds));
    const to = Math.min(width, xOf(view, toSeconds));
    if (to <= from) continue;
    for (let midi = Math.max(0, lowest); midi <= Math.min(127, highest); midi++) {
      const inScale = isLight(midi, key, scene.drumRows);
      const y = band.top + yOf(view, midi + 0.5);
      context.fillStyle = inScale ? colours.laneIn : colours.laneOut;
      context.fillRect(from, y, to - from, view.pixelsPerSemitone);
      context.fillStyle = '#F0EADD';
      context.fillRect(from, y, to - from, 1);
    }
  }
  context.restore();
}

function drawGrid(context: CanvasRenderingContext2D, width: number, height: number, scene: LineScene): void {
  const { view } = scene;
  const left = BANDS.labels;
  context.save();
  context.beginPath();
  context.rect(left, 0, width - left, height);
  context.clip();
  context.fillStyle = colours.paper;
  context.fillRect(left, 0, width, BANDS.ruler + BANDS.chords);
  for (const line of gridLines(view, width, scene.time, scene.gridStepTicks)) {
    const x = Math.round(line.x) + 0.5;
    context.strokeStyle = LINE_COLOURS[line.weight];
    context.beginPath();
    context.moveTo(x, line.weight === 'bar' ? 4 : BANDS.ruler + BANDS.chords);
    context.lineTo(x, height);
    context.stroke();
    if (line.label) {
      context.fillStyle = colours.quietInk;
      context.font = `13px ${fontFamily}`;
      context.textBaseline = 'middle';
      context.textAlign = 'left';
      context.fillText(line.label, x + 5, 14);
    }
  }
  context.strokeStyle = colours.rules;
  for (const y of [BANDS.ruler + 0.5, BANDS.ruler + BANDS.chords + 0.5]) {
    context.beginPath();
    context.moveTo(left, y);
    context.lineTo(width, y);
    context.stroke();
  }
  context.restore();
}

function drawLabels(
  context: CanvasRenderingContext2D,
  band: { top: number; bottom: number },
  height: number,
  scene: LineScene,
): void {
  const { view } = scene;
  // Names are those of the key at the left edge of what is shown.
  const key = keyIn(scene.keys, secondsOf(view, BANDS.labels));
  context.fillStyle = colours.paper;
  context.fillRect(0, 0, BANDS.labels, height);
  context.strokeStyle = colours.rules;
  context.beginPath();
  context.moveTo(BANDS.labels + 0.5, 0);
  context.lineTo(BANDS.labels + 0.5, height);
  context.stroke();
  context.save();
  context.beginPath();
  context.rect(0, band.top, BANDS.labels, band.bottom - band.top);
  context.clip();
  context.textBaseline = 'middle';
  const size = Math.min(13, Math.max(9, view.pixelsPerSemitone * 0.72));
  const everyLabel = view.pixelsPerSemitone >= 10;
  const used = new Set(scene.drumRows ? scene.notes.map((note) => Math.round(note.midi)) : []);
  for (
    let midi = Math.max(0, Math.floor(midiOf(view, band.bottom - band.top)));
    midi <= Math.min(127, Math.ceil(view.topMidi));
    midi++
  ) {
    const y = band.top + yOf(view, midi);
    if (scene.drumRows) {
      if (midi >= scene.drumRows.length || (!everyLabel && !used.has(midi))) continue;
      const key = scene.drumRows[midi];
      context.font = `${used.has(midi) ? '600 ' : ''}${Math.min(12, size)}px ${fontFamily}`;
      context.fillStyle = used.has(midi) ? colours.ink : colours.quietInk;
      context.textAlign = 'left';
      // Longer names are set narrower.
      context.fillText(percussionName(key) ?? `Key ${key}`, 6, y, BANDS.labels - 10);
      continue;
    }
    const degree = key ? degreeOf(midi, key) : undefined;
    const important = key ? degree === 1 : midi % 12 === 0;
    if (!everyLabel && !important) continue;
    const inScale = isLight(midi, key, scene.drumRows);
    context.font = `${important ? '600 ' : ''}${size}px ${fontFamily}`;
    context.fillStyle = inScale ? colours.ink : '#8C8A82';
    context.textAlign = 'left';
    context.fillText(noteNameIn(midi, key), 8, y);
    if (degree !== undefined) {
      context.fillStyle = colours.quietInk;
      context.textAlign = 'right';
      context.fillText(String(degree), BANDS.labels - 8, y);
    }
  }
  context.restore();
  context.fillStyle = colours.quietInk;
  context.font = `12px ${fontFamily}`;
  context.textAlign = 'left';
  context.textBaseline = 'middle';
  context.fillText('Bar', 8, 14);
  if (scene.recordings) context.fillText('Onsets', 8, height - BANDS.waveform + 14);
}

function drawRecordings(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  scene: LineScene,
): void {
  const top = height - BANDS.waveform;
  context.strokeStyle = colours.rules;
  context.beginPath();
  context.moveTo(0, top + 0.5);
  context.lineTo(width, top + 0.5);
  context.stroke();
  for (const recording of scene.recordings!) drawRecording(context, width, height, scene, recording);
}

function drawRecording(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  scene: LineScene,
  recording: SceneRecording,
): void {
  const { view } = scene;
  const top = height - BANDS.waveform;
  if (!recording.peaks) return;
  const left = Math.max(BANDS.labels, xOf(view, recording.toSong(recording.fromSeconds)));
  const right = Math.min(width, xOf(view, recording.toSong(recording.toSeconds)));
  const columns = Math.floor(right - left);
  if (columns <= 0) return;
  const values = waveformAlong(recording.peaks, recording.sampleRateHz, columns, (column) =>
    recording.toRecorded(secondsOf(view, left + column)),
  );
  drawWaveform(context, values, left, top + 22, BANDS.waveform - 26, `${scene.partColour}88`);
  // Where one passage ends and another begins can be seen.
  if (scene.recordings!.length > 1) {
    context.fillStyle = scene.partColour;
    for (const edge of [recording.fromSeconds, recording.toSeconds]) {
      const x = Math.round(xOf(view, recording.toSong(edge)));
      if (x > BANDS.labels && x <= width) context.fillRect(x, top + 20, 1, BANDS.waveform - 20);
    }
  }
  drawChordRow(context, recording.ownChords, view, {
    left: BANDS.labels,
    right: width,
    top: height - OWN_CHORDS_PIXELS,
    height: OWN_CHORDS_PIXELS,
  });
}
