import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeMidi, type MidiEvent } from 'midi-file';
import { describe, expect, it } from 'vitest';
import { loadBank, renderMidi } from '@plundra/demo';
import { loopOf, type SongClip } from './songClips.ts';
import { loadSongs, writtenSong, type SongSet } from './songs.ts';

const PER_QUARTER = 96;

/** Bars of eighths in 3/4 at 90, then two bars of 6/8; each note `lateTicks` late by turns. @param barred whether the metre is written */
function song(lateTicks = 0, barred = true): Uint8Array {
  const events: (MidiEvent & { at: number })[] = [
    { at: 0, deltaTime: 0, meta: true, type: 'setTempo', microsecondsPerBeat: 60e6 / 90 },
    ...(barred ? [metre(0, 3, 4), metre(12 * 3 * PER_QUARTER, 6, 8)] : []),
  ];
  for (let eighth = 0; eighth < 12 * 6 + 12; eighth++) {
    const at = (eighth * PER_QUARTER) / 2 + (eighth % 3) * lateTicks;
    const note = { deltaTime: 0, channel: 0, noteNumber: 60, velocity: 90 };
    events.push({ ...note, at, type: 'noteOn' }, { ...note, at: at + 30, type: 'noteOff' });
  }
  events.sort((a, b) => a.at - b.at);
  const track = events.map(({ at, ...event }, i) => ({ ...event, deltaTime: at - (events[i - 1]?.at ?? 0) }));
  const end: MidiEvent = { deltaTime: 0, meta: true, type: 'endOfTrack' };
  return Uint8Array.from(
    writeMidi({ header: { format: 0, numTracks: 1, ticksPerBeat: PER_QUARTER }, tracks: [[...track, end]] }),
  );
}

const metre = (at: number, numerator: number, denominator: number): MidiEvent & { at: number } => ({
  at,
  deltaTime: 0,
  meta: true,
  type: 'timeSignature',
  numerator,
  denominator,
  metronome: 24,
  thirtyseconds: 8,
});

describe('songs by others', () => {
  it('have their beats and bar lines where they are written; of 6/8 dotted quarters', () => {
    const { beats, downbeats, metres } = writtenSong('a', song())!;
    const quarter = 60 / 90;
    expect(beats).toHaveLength(12 * 3 + 4);
    expect(beats[5]).toBeCloseTo(5 * quarter, 5);
    expect(beats[37]).toBeCloseTo(36 * quarter + 1.5 * quarter, 3);
    expect(downbeats.slice(0, 3)).toEqual([0, 3, 6]);
    expect(downbeats.slice(-2)).toEqual([36, 38]);
    expect(metres[0]).toEqual({ beats: 3, compound: false });
    expect(metres[36]).toEqual({ beats: 2, compound: true });
  });

  it('have no bar lines where nobody wrote a metre', () => {
    const { beats, downbeats } = writtenSong('a', song(0, false))!;
    expect(beats.length).toBeGreaterThan(30);
    expect(downbeats).toEqual([]);
  });

  it('come from a folder and those within it; of each two in three are for training, the third for choosing', () => {
    const folder = mkdtempSync(join(tmpdir(), 'songs-'));
    mkdirSync(join(folder, 'more'));
    for (const name of ['a.mid', 'b.mid', 'c.mid', 'more/d.mid', 'more/e.mid', 'more/f.mid'])
      writeFileSync(join(folder, name), song());
    writeFileSync(join(folder, 'more', 'read me.txt'), 'no song');
    const names = (set: SongSet) => loadSongs(folder, set).map(({ name }) => name);
    expect(names('test')).toEqual(['a.mid', 'b.mid', 'c.mid', 'd.mid', 'e.mid', 'f.mid']);
    expect(names('tuning')).toEqual(['a.mid', 'b.mid', 'd.mid', 'e.mid']);
    expect(names('choosing')).toEqual(['c.mid', 'f.mid']);
    rmSync(folder, { recursive: true });
  });

  it('are left out where they were played freely: what is written says nothing of their beats then', () => {
    expect(writtenSong('a', song(1))).toBeDefined();
    expect(writtenSong('a', song(10))).toBeUndefined();
  });

  it('give loops of whole bars in one metre', () => {
    const clip: SongClip = {
      name: 'a',
      collection: 'songs',
      song: 'a',
      samples: new Float32Array(6 * 22050),
      beats: [0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 4.5],
      downbeats: [0.5, 2, 3.5, 4.5],
      metre: { beats: 3, compound: false },
      heard: 'all',
    };
    expect(loopOf(clip, 0, 2)).toMatchObject({ beats: 6, durationSeconds: 3 });
    expect(loopOf(clip, 0, 2)!.samples).toHaveLength(3 * 22050);
    expect(loopOf(clip, 2, 1)).toBeUndefined();
    expect(loopOf(clip, 2, 2)).toBeUndefined();
  });

  it('sound from where they are asked for', async () => {
    const bank = await loadBank('TimGM6mb');
    const { left } = await renderMidi(bank, song(), (60 / 90) * 2.25, 1, 22050);
    expect(left).toHaveLength(22050);
    const loudest = (from: number, to: number) =>
      Math.max(...left.subarray(Math.round(from * 22050), Math.round(to * 22050)).map(Math.abs));
    // The next eighth lies a quarter of a beat, 167 ms, on.
    expect(loudest(0.17, 0.25)).toBeGreaterThan(3 * loudest(0.05, 0.16));
  });
});
