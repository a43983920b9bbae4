import { describe, expect, it } from 'vitest';
import { hzToMidi } from '@plundra/core/theory';
import { TRUTH_HOP_SECONDS } from './clip.ts';
import { instrumentClip, type Instrument } from './instruments.ts';
import type { PlayedNote, Player } from './players.ts';

const FLUTE: Instrument = {
  name: 'flute',
  lowMidi: 60,
  highMidi: 80,
  kind: 'auto',
  vibratoCents: 0,
  slides: 0,
};

/** A player that notes down what it is asked to play, and sounds as long as it is told. */
function listening(): Player & { played: PlayedNote[]; bends: number[] } {
  const tone = (seconds: number, rate: number) => new Float32Array(Math.ceil(seconds * rate)).fill(0.5);
  const player = {
    name: `listening ${Math.random()}`,
    played: [] as PlayedNote[],
    bends: [] as number[],
    play(notes: PlayedNote[], bends: number[], durationSeconds: number, rate: number) {
      player.played = notes;
      player.bends = bends;
      return Promise.resolve(tone(durationSeconds, rate));
    },
    alone: (_midi: number, lengthSeconds: number, rate: number) => Promise.resolve(tone(lengthSeconds, rate)),
  };
  return player;
}

describe('a line that an instrument plays', () => {
  it('strikes each note when none is slurred', async () => {
    const player = listening();
    const clip = await instrumentClip(player, FLUTE, 3);
    expect(player.played.map((note) => note.midi)).toEqual(clip.notes.map((note) => note.midi));
  });

  it('blows slurred notes in one breath and passes half way where the next one starts', async () => {
    const player = listening();
    const clip = await instrumentClip(player, FLUTE, 3, { slurs: 1, slowness: 1, sampleRateHz: 22050 });
    expect(player.played.length).toBeLessThan(clip.notes.length);
    const slurred = clip.notes.filter(
      (note) => !player.played.some((struck) => Math.abs(struck.startSeconds - note.startSeconds) < 1e-6),
    );
    expect(slurred.length).toBeGreaterThan(2);
    for (const note of slurred) {
      const before = clip.notes[clip.notes.indexOf(note) - 1];
      expect(before.endSeconds).toBe(note.startSeconds);
      const stroke = player.played.findLast((struck) => struck.startSeconds < note.startSeconds)!;
      const at = note.startSeconds / TRUTH_HOP_SECONDS;
      const bendBeside = (frames: number) => stroke.midi + player.bends[Math.round(at + frames)];
      expect(bendBeside(-6)).toBeCloseTo(before.midi);
      expect(bendBeside(6)).toBeCloseTo(note.midi);
      const share = at - Math.floor(at);
      const low = Math.floor(at) - at;
      const passing = (1 - share) * bendBeside(low) + share * bendBeside(low + 1);
      expect(Math.abs(passing - (before.midi + note.midi) / 2)).toBeLessThan(0.1);
      expect(hzToMidi(clip.f0Hz[Math.round(at) + 6])).toBeCloseTo(note.midi, 3);
    }
  });
});
