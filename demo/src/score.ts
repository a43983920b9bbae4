/** The music of the demo songs: made-up tunes as beats and notes. */

export interface ScoreNote {
  /** Beats from the start of the song. */
  beat: number;
  beats: number;
  midi: number;
  /** Sung syllable's vowel; instruments ignore it. */
  vowel?: 'a' | 'e' | 'i' | 'o' | 'u';
}

/** Reads "G4:1 A4:.5 -:1 …" from a beat on; "-" rests; a "~" before a name ties it legato to the note before. */
export function melody(text: string, startBeat: number): (ScoreNote & { legato: boolean })[] {
  const vowels = ['o', 'a', 'e', 'i', 'a', 'u', 'e'] as const;
  let beat = startBeat;
  const notes: (ScoreNote & { legato: boolean })[] = [];
  for (const token of text.trim().split(/\s+/)) {
    const [name, length] = token.split(':');
    const beats = Number(length);
    if (name !== '-') {
      const legato = name.startsWith('~');
      notes.push({
        beat,
        beats,
        midi: noteNumber(name.replace('~', '')),
        vowel: vowels[notes.length % vowels.length],
        legato,
      });
    }
    beat += beats;
  }
  return notes;
}

function noteNumber(name: string): number {
  const [, letter, accidental, octave] = /^([A-G])([#b]?)(\d)$/.exec(name)!;
  const steps: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };
  return steps[letter] + (accidental === '#' ? 1 : accidental === 'b' ? -1 : 0) + 12 * (Number(octave) + 1);
}

/** "Ferry at Six": four bars of introduction, eight of verse, eight of chorus. One chord for each bar. */
export const FERRY = {
  bpm: 92,
  beatsPerBar: 4,
  bars: 20,
  chords: [
    'G',
    'C',
    'G',
    'D',
    'G',
    'Em',
    'C',
    'D',
    'G',
    'Bm',
    'C',
    'D',
    'C',
    'D',
    'Em',
    'G',
    'Am',
    'D',
    'G',
    'G',
  ],
  lead: [
    melody('G4:1 A4:.5 B4:1.5 D5:1 B4:.5 A4:.5 G4:2 -:1 E4:.5 G4:.5 A4:1 ~G4:.5 E4:1.5 A4:2 F#4:1 -:1', 16),
    melody(
      'G4:1 A4:.5 B4:1.5 D5:1 D5:.5 C5:.5 ~B4:1 F#4:1 -:1 E4:.5 G4:.5 C5:1.5 ~B4:.5 A4:1 A4:.5 G4:.5 F#4:2',
      32,
    ),
    melody('-:.5 E5:.5 E5:.5 D5:.5 C5:1 E5:1 D5:1.5 ~C5:.5 A4:2 B4:1 G4:.5 B4:.5 ~D5:2 B4:2 -:2', 48),
    melody('C5:1 ~B4:.5 A4:.5 A4:1 E5:1 D5:1 ~C5:1 A4:1 F#4:1 A4:.5 ~G4:3.5 -:1 B4:.5 A4:.5 ~G4:2', 64),
  ].flat(),
  backing: [
    melody('-:2 G4:2 B3:2 -:2 E4:2 ~C4:2 F#4:2 D4:2', 32),
    melody('-:.5 C5:.5 C5:.5 B4:.5 A4:1 C5:1 B4:1.5 ~A4:.5 F#4:2 G4:1 E4:.5 G4:.5 ~B4:2 G4:2 -:2', 48),
    melody('A4:1 ~G4:.5 E4:.5 E4:1 C5:1 B4:1 ~A4:1 F#4:1 D4:1 F#4:.5 ~D4:3.5', 64),
  ].flat(),
  guitarLine: [
    melody(
      'D5:.5 E5:.5 G5:1 E5:.5 D5:.5 B4:1 C5:1 E5:1 G5:1.5 E5:.5 D5:.5 B4:.5 G4:1 A4:.5 B4:.5 D5:1 F#5:1.5 E5:.5 D5:2',
      0,
    ),
    melody('-:2 D5:.5 B4:.5 A4:.5 G4:.5 -:4 -:2 G5:.5 E5:.5 C5:.5 A4:.5 D5:2 F#5:1 A5:1', 32),
    melody('B5:1 A5:.5 G5:.5 E5:1 D5:1 G5:4', 72),
  ].flat(),
};

/** "Kettle Waltz": sixteen bars in three. */
export const KETTLE = {
  bpm: 126,
  beatsPerBar: 3,
  bars: 16,
  chords: ['Dm', 'Gm', 'A', 'Dm', 'Dm', 'Bb', 'Gm', 'A', 'F', 'C', 'Dm', 'Bb', 'Gm', 'A', 'Dm', 'Dm'],
  lead: [
    melody(
      'A4:2 D5:1 ~C5:.5 Bb4:.5 G4:2 C#5:2 ~E5:1 D5:3 A4:1 F4:1 A4:1 Bb4:2 F4:1 G4:1 Bb4:1 ~D5:1 C#5:3',
      0,
    ),
    melody(
      'C5:2 A4:1 G4:2 E4:1 F4:1 A4:1 ~D5:1 Bb4:3 Bb4:1 A4:.5 G4:.5 D5:1 C#5:1 ~B4:.5 C#5:.5 E5:1 D5:5',
      24,
    ),
  ].flat(),
};

const CHORD_NOTES: Record<string, number[]> = {
  G: [7, 11, 2],
  C: [0, 4, 7],
  D: [2, 6, 9],
  Em: [4, 7, 11],
  Bm: [11, 2, 6],
  Am: [9, 0, 4],
  Dm: [2, 5, 9],
  Gm: [7, 10, 2],
  A: [9, 1, 4],
  Bb: [10, 2, 5],
  F: [5, 9, 0],
};

/** Pitch classes of a chord of the demo songs, root first. */
export function chordTones(symbol: string): number[] {
  return CHORD_NOTES[symbol];
}

/** The chord's tones stacked upwards from `lowest`, `count` of them, starting with the nearest above it. */
export function stackedFrom(symbol: string, lowest: number, count: number): number[] {
  const tones = chordTones(symbol);
  const notes: number[] = [];
  for (let midi = lowest; notes.length < count; midi++) if (tones.includes(midi % 12)) notes.push(midi);
  return notes;
}
