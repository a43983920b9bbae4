import { describe, expect, it } from 'vitest';
import { createRandom, gaussian } from '../../signal/index.ts';
import {
  keyName,
  tonicName,
  chordSymbol,
  parseChord,
  pitchClassesOf,
  type Chord,
} from '../../theory/index.ts';
import { playDrums } from '../../test/drums.ts';
import { computeActivations, KEYS, type Activations } from '../chordal/index.ts';
import { HOP_SAMPLES, READING_HZ } from '../melodySettings.ts';
import { readPulse } from '../rhythm/index.ts';
import { trackBeats } from './beatChoice.ts';
import { evenBars } from './beatGrid.ts';
import { beatEvidence, tempoCandidates } from './beats.ts';
import { chordLogProbabilities, INPUTS, STATES } from './chordModel.ts';
import { chordWeights } from './chordWeights.ts';
import { guessKeys, KEY_PROFILES } from './keyOf.ts';
import { readChords, readChordsOfNotes } from './readChords.ts';

const read = (text: string) => (parseChord(text) as { chord: Chord }).chord;

/** Plucked chords on every beat: six harmonics that fade, the root below. The tempo may change from beat to beat. */
function play(
  symbols: string[],
  beatsEach: number,
  bpm: number | ((beat: number) => number),
  cents = 0,
): Float32Array {
  const lengths = Array.from({ length: symbols.length * beatsEach }, (_, beat) =>
    Math.round((60 / (typeof bpm === 'number' ? bpm : bpm(beat))) * READING_HZ),
  );
  const total = lengths.reduce((sum, length) => sum + length, 0);
  let at = Math.round(0.3 * READING_HZ);
  const out = new Float32Array(at + total + READING_HZ / 2);
  symbols.forEach((symbol, i) => {
    const classes = pitchClassesOf(read(symbol));
    const notes = [36 + classes[0], ...classes.map((each) => 60 + each)];
    for (let b = 0; b < beatsEach; b++) {
      const beat = lengths[i * beatsEach + b];
      for (const midi of b === 0 ? notes : notes.slice(1)) {
        const hz = 440 * 2 ** ((midi - 69 + cents / 100) / 12);
        for (let n = 0; n < beat; n++) {
          const t = n / READING_HZ;
          let value = 0;
          for (let h = 1; h <= 6; h++)
            value += Math.sin(2 * Math.PI * hz * h * t) * (0.06 / h) * Math.exp(-t * (1.5 + 0.7 * h));
          out[at + n] += value * Math.min(1, t / 0.003, (beat - n) / 200);
        }
      }
      at += beat;
    }
  });
  return out;
}

const chordsOf = (samples: Float32Array) =>
  readChords(samples, computeActivations(samples, { coarse: true }));
const PROGRESSION = ['G', 'C', 'D', 'Em', 'C', 'Am', 'D', 'G'];

describe('chords of a recording', () => {
  it('are read with tempo, bar lines and key', () => {
    const reading = chordsOf(play(PROGRESSION, 4, 108));
    expect(reading.tempo.bpm).toBeGreaterThan(106);
    expect(reading.tempo.bpm).toBeLessThan(110);
    expect(reading.tempo.beatsPerBar).toBe(4);
    expect(reading.keys[0].key).toEqual({ fifths: 1, mode: 'major' });
    const named = reading.chords.filter(({ chord }) => chord).map(({ chord }) => chordSymbol(chord));
    expect(named).toEqual(PROGRESSION);
    // The first bar line lies at the first chord.
    expect(Math.abs(reading.tempo.downbeats[0] - 0.3)).toBeLessThan(0.06);
    reading.chords.slice(1).forEach((each, i) => {
      expect(each.startSeconds).toBe(reading.chords[i].endSeconds);
      expect(each.confidence).toBeGreaterThanOrEqual(0);
      expect(each.confidence).toBeLessThanOrEqual(1);
    });
  });

  it('are the same in a recording that is 40 cents low', () => {
    const reading = chordsOf(play(PROGRESSION, 4, 108, -40));
    expect(reading.tuningCents).toBeLessThan(-30);
    expect(reading.chords.filter(({ chord }) => chord).map(({ chord }) => chordSymbol(chord))).toEqual(
      PROGRESSION,
    );
  });

  it('stay right where the player leans into the tempo, and where it changes in the middle', () => {
    for (const bpm of [
      (beat: number) => 100 * (1 + 0.12 * Math.sin(beat / 3)),
      (beat: number) => (beat < 16 ? 96 : 126),
    ]) {
      const reading = chordsOf(play(PROGRESSION, 4, bpm));
      const named = reading.chords.filter(({ chord }) => chord).map(({ chord }) => chordSymbol(chord));
      expect(named).toEqual(PROGRESSION);
    }
  });

  it('are told apart where each lasts a beat', () => {
    const quick = [...PROGRESSION, ...PROGRESSION, ...PROGRESSION, ...PROGRESSION];
    const reading = chordsOf(play(quick, 1, 140));
    const named = reading.chords.filter(({ chord }) => chord).map(({ chord }) => chordSymbol(chord));
    // The last of one and the first of the next are one chord.
    const expected = quick.filter((symbol, i) => symbol !== quick[i - 1]);
    expect(named).toEqual(expected);
  });

  it('are fewer, but of the key, where one lasts a third of a second', () => {
    // Eight seconds: in five, two chords to a beat of 90 are as likely.
    const reading = chordsOf(play([...PROGRESSION, ...PROGRESSION, ...PROGRESSION], 1, 180));
    const scale = [7, 9, 11, 0, 2, 4, 6];
    for (const { chord } of reading.chords)
      if (chord) expect(pitchClassesOf(chord).every((each) => scale.includes(each))).toBe(true);
    reading.chords.slice(1).forEach((each, i) => {
      expect(each.startSeconds).toBe(reading.chords[i].endSeconds);
    });
    expect(tonicName(reading.keys[0].key)).toMatch(/^[GE]$/);
  });

  it('have their tempo where a bar has two strokes, the second of them between beats', () => {
    for (const bpm of [84, 92, 108]) {
      // Two and a half beats, then one and a half.
      const strokes = (stroke: number) => bpm / (stroke % 2 === 0 ? 2.5 : 1.5);
      const { tempo } = chordsOf(play([...PROGRESSION, ...PROGRESSION.slice(0, 4)], 2, strokes));
      expect(Math.abs(tempo.bpm / bpm - 1)).toBeLessThan(0.04);
    }
  });

  it('tell where the key changes', () => {
    const flat = ['Eb', 'Ab', 'Bb', 'Cm', 'Ab', 'Fm', 'Bb', 'Eb'];
    const reading = chordsOf(play([...PROGRESSION, ...flat], 4, 120));
    expect(reading.keyChanges.map(({ key }) => keyName(key))).toEqual(['G major', 'E♭ major']);
    // Eight bars of two seconds after 0.3 s.
    expect(Math.abs(reading.keyChanges[1].startSeconds - 16.3)).toBeLessThan(0.2);
    const named = reading.chords.filter(({ chord }) => chord).map(({ chord }) => chordSymbol(chord));
    expect(named).toEqual([...PROGRESSION, ...flat]);
  });

  it('may be three in a bar', () => {
    const { tempo } = chordsOf(play(['Dm', 'Gm', 'A', 'Dm', 'Bb', 'Gm', 'A', 'Dm'], 3, 120));
    expect(tempo.beatsPerBar).toBe(3);
  });

  it('are none in drums, whose tempo and metre are read all the same', () => {
    const ballad = { kick: 'x.....', snare: '...x..', hat: 'xxxxxx' };
    const reading = chordsOf(playDrums(ballad, { stepSeconds: 60 / 58 / 3, bars: 8 }));
    expect(reading.tempo).toMatchObject({ beatsPerBar: 2, compound: true });
    expect(Math.abs(reading.tempo.bpm - 58)).toBeLessThan(0.5);
    expect(reading.tempo.downbeats).toHaveLength(8);
  });

  it('are no reason to beat time otherwise where skins ring on faint pitches', () => {
    const samples = playDrums(
      { kick: 'x...x...', snare: '..x...x.', hat: 'xxxxxxxx' },
      { stepSeconds: 0.26, bars: 8 },
    );
    const frames = Math.floor(samples.length / HOP_SAMPLES) + 1;
    const sounding = (keys: number, probability: number): Activations => {
      const none = new Uint8Array(frames * KEYS);
      const active = none.map((_, i) => (i % KEYS < keys ? 255 * probability : 0));
      return { frames, tuningCents: 0, onset: none, active, level: none, attack: none };
    };
    const beatsOver = (activations: Activations) => readChords(samples, activations).tempo.beats;
    const { beats } = readPulse(samples);
    expect(beatsOver(sounding(20, 0.4))).toEqual(beats);
    // As much in sum, but surely: there is harmony, and its beats are chosen from more.
    const harmony = sounding(8, 1);
    expect(beatsOver(harmony)).toEqual(trackBeats(beatEvidence(samples, harmony)).seconds);
    expect(beatsOver(harmony)).not.toEqual(beats);
  });

  it('are one when one chord is all there is', () => {
    const reading = chordsOf(play(['Am', 'Am', 'Am', 'Am'], 4, 100));
    expect(reading.chords.filter(({ chord }) => chord).map(({ chord }) => chordSymbol(chord))).toEqual([
      'Am',
    ]);
  });

  it('are none in silence and in noise, and an empty recording is borne', () => {
    const random = createRandom(4);
    const noise = Float32Array.from({ length: 8 * READING_HZ }, () => 0.1 * gaussian(random));
    for (const samples of [new Float32Array(0), new Float32Array(5 * READING_HZ), noise]) {
      const reading = chordsOf(samples);
      expect(reading.chords.every(({ chord }) => chord === null)).toBe(true);
      expect(reading.keys).toEqual([]);
    }
  });

  it('are read over the song’s beats where it may have been played to them, and else over its own', () => {
    // Off the beat throughout: its own beats lie half a beat late.
    const bpm = 92;
    const strokes = (stroke: number) => bpm / (stroke % 2 === 0 ? 2.5 : 1.5);
    const symbols = [...PROGRESSION, ...PROGRESSION.slice(1, 5)];
    const samples = play(symbols, 2, strokes);
    const activations = computeActivations(samples, { coarse: true });
    const over = (first: number, songBpm: number, onlyIfHeard: boolean) => {
      const seconds = Array.from({ length: 49 }, (_, i) => first + (i * 60) / songBpm);
      return readChords(samples, activations, {
        beats: { seconds, ...evenBars(0, 4, seconds.length) },
        onlyIfHeard,
      });
    };
    const fitting = over(0.3, bpm, true);
    expect(fitting.tempo.known).toBe(true);
    const sounding = fitting.chords.filter(({ chord }) => chord);
    const bar = (4 * 60) / bpm;
    sounding.forEach(({ startSeconds }, i) => expect(startSeconds).toBeCloseTo(0.3 + i * bar, 3));
    expect(sounding.map(({ chord }) => chordSymbol(chord))).toEqual(symbols);
    // Counted half as fast they are the same beats.
    expect(over(0.3, bpm / 2, true).tempo.known).toBe(true);
    // A song that nobody gave a tempo, and one that begins a quarter of a beat later.
    for (const [first, songBpm] of [
      [0, 120],
      [0.3 + 15 / bpm, bpm],
    ]) {
      const other = over(first, songBpm, true);
      expect(other.tempo.known).toBe(false);
      expect(Math.abs(other.tempo.bpm / bpm - 1)).toBeLessThan(0.04);
      expect(over(first, songBpm, false).tempo.known).toBe(true);
    }
  });

  it('are read over their own beats where the song’s lie half a beat beside them', () => {
    // Struck on every half beat; chords and basses tell which halves are the beats.
    const bpm = 66;
    const samples = play(PROGRESSION, 8, 2 * bpm);
    const activations = computeActivations(samples, { coarse: true });
    const over = (lateBeats: number) => {
      const seconds = Array.from({ length: 32 }, (_, i) => 0.3 + ((i + lateBeats) * 60) / bpm);
      return readChords(samples, activations, {
        beats: { seconds, ...evenBars(0, 4, seconds.length) },
        onlyIfHeard: true,
      });
    };
    expect(over(0).tempo.known).toBe(true);
    const { tempo, chords } = over(0.5);
    expect(tempo.known).toBe(false);
    const changes = chords.filter(({ chord }) => chord).map(({ startSeconds }) => startSeconds);
    expect(changes).toHaveLength(PROGRESSION.length);
    changes.forEach((seconds, i) => expect(Math.abs(seconds - 0.3 - (i * 240) / bpm)).toBeLessThan(0.1));
  });

  it('are read over a song in three where two beats are heard in each of its bars', () => {
    const samples = play([...PROGRESSION, ...PROGRESSION.slice(1, 5)], 2, 84);
    const activations = computeActivations(samples, { coarse: true });
    const known = (beatsPerBar: number) => {
      const seconds = Array.from({ length: 37 }, (_, i) => 0.3 + (i * 60) / 126);
      return readChords(samples, activations, {
        beats: { seconds, ...evenBars(0, beatsPerBar, seconds.length) },
        onlyIfHeard: true,
      }).tempo.known;
    };
    expect(known(3)).toBe(true);
    // In four the same beats have other bars, to which nothing in it was played.
    expect(known(4)).toBe(false);
  });

  it('lie in bars of the lengths that are known', () => {
    // A bar of three, then bars of four, a chord each: nothing in the sound says so.
    const symbols = ['G', 'C', 'D', 'G'];
    const notes = symbols.flatMap((symbol, i) => {
      const start = i === 0 ? 0 : 1.5 + 2 * (i - 1);
      return pitchClassesOf(read(symbol)).map((each) => ({
        startSeconds: start,
        endSeconds: i === 0 ? 1.5 : start + 2,
        midi: 60 + each,
      }));
    });
    const seconds = Array.from({ length: 16 }, (_, i) => i / 2);
    const { chords, tempo } = readChordsOfNotes(notes, { seconds, downbeats: [0, 3, 7, 11], beatsPerBar: 4 });
    expect(chords.map(({ startSeconds }) => startSeconds)).toEqual([0, 1.5, 3.5, 5.5]);
    expect(tempo.downbeats).toEqual([0, 1.5, 3.5, 5.5]);
  });

  it('use beats that are known', () => {
    const beats = Array.from({ length: 32 }, (_, i) => 0.3 + (i * 60) / 108);
    const samples = play(PROGRESSION, 4, 108);
    const reading = readChords(samples, computeActivations(samples), {
      beats: { seconds: beats, ...evenBars(0, 4, beats.length) },
    });
    expect(reading.tempo.downbeats).toHaveLength(8);
    expect(reading.chords.filter(({ chord }) => chord)).toHaveLength(8);
  });
});

describe('chords of notes', () => {
  it('are read over the beats of the song, without any sound', () => {
    const notes = PROGRESSION.flatMap((symbol, bar) => {
      const classes = pitchClassesOf(read(symbol));
      return [36 + classes[0], ...classes.map((each) => 60 + each)].map((midi, i) => ({
        // Broken: one after the other, held to the end of the bar.
        startSeconds: bar * 2 + 0.1 * i,
        endSeconds: bar * 2 + 2,
        midi,
      }));
    });
    const beats = Array.from({ length: 33 }, (_, i) => i / 2);
    const reading = readChordsOfNotes(notes, { seconds: beats, ...evenBars(0, 4, beats.length) });
    expect(reading.chords.map(({ chord, startSeconds }) => [startSeconds, chordSymbol(chord)])).toEqual(
      PROGRESSION.map((symbol, i) => [2 * i, symbol]),
    );
    expect(reading.keys[0].key).toEqual({ fifths: 1, mode: 'major' });
    expect(readChordsOfNotes([], { seconds: beats, ...evenBars(0, 4, beats.length) }).keys).toEqual([]);
  });
});

describe('a chord is named after its bass', () => {
  /** A chord a bar, each held; as [notes, lowest first]. */
  const named = (chords: number[][]) => {
    const notes = chords.flatMap((keys, bar) =>
      keys.map((midi) => ({ startSeconds: bar * 2, endSeconds: bar * 2 + 2, midi })),
    );
    const beats = Array.from({ length: 4 * chords.length + 1 }, (_, i) => i / 2);
    return readChordsOfNotes(notes, { seconds: beats, ...evenBars(0, 4, beats.length) }).chords;
  };
  // Open shapes in standard tuning (common practice), as MIDI notes.
  const [g, c] = [
    [43, 47, 50, 55, 59, 67],
    [48, 52, 55, 60, 64],
  ];
  const symbols = (chords: number[][]) => named(chords).map(({ chord }) => chordSymbol(chord));

  it('not where a strum begins on a lower string', () => {
    const dOnItsFifth = [45, 50, 57, 62, 66];
    const cOnItsFifth = [43, 48, 52, 55, 60, 64];
    expect(symbols([g, dOnItsFifth, cOnItsFifth, g])).toEqual(['G', 'D', 'C', 'G']);
    // The other spelling is the first of the other readings.
    expect(chordSymbol(named([g, dOnItsFifth, c, g])[1].alternatives[0].chord)).toBe('D/A');
  });

  it('where it is a step of a line', () => {
    const gOnItsThird = [47, 50, 55, 59, 67];
    const am = [45, 52, 57, 60, 64];
    const chords = [c, gOnItsThird, am, c];
    expect(symbols(chords)).toEqual(['C', 'G/B', 'Am', 'C']);
    expect(chordSymbol(named(chords)[1].alternatives[0].chord)).toBe('G');
    // Up again from where it came is no line.
    expect(symbols([c, gOnItsThird, c, am])[1]).toBe('G');
  });

  it('where an instrument or a hand of its own plays it', () => {
    const [bassE, bassG] = [28, 31];
    expect(symbols([[bassG, ...g], [bassE, ...c], [bassG, ...g], c])).toEqual(['G', 'C/E', 'G', 'C']);
    expect(symbols([g, [40, 55, 60, 64], g, c])[1]).toBe('C/E');
  });
});

describe('tempo and beats', () => {
  function nothingSounds(samples: Float32Array): Activations {
    const frames = Math.floor(samples.length / HOP_SAMPLES) + 1;
    const none = new Uint8Array(frames * KEYS);
    return { frames, tuningCents: 0, onset: none, active: none, level: none, attack: none };
  }

  it('follow clicks', () => {
    const clicks = new Float32Array(12 * READING_HZ);
    const random = createRandom(2);
    for (let at = 0.5; at < 11.5; at += 60 / 96)
      for (let n = 0; n < 400; n++)
        clicks[Math.round(at * READING_HZ) + n] += 0.5 * gaussian(random) * Math.exp(-n / 80);
    const { bpm, seconds } = trackBeats(beatEvidence(clicks, nothingSounds(clicks)));
    expect(Math.abs(bpm - 96)).toBeLessThan(1.5);
    for (const each of seconds) {
      const off = ((each - 0.5) / (60 / 96)) % 1;
      expect(Math.min(off, 1 - off) * (60 / 96)).toBeLessThan(0.03);
    }
  });

  it('are none where nothing starts', () => {
    expect(tempoCandidates(new Float32Array(500))).toEqual([]);
    const silence = new Float32Array(5 * READING_HZ);
    expect(trackBeats(beatEvidence(silence, nothingSounds(silence))).seconds).toEqual([]);
  });
});

describe('the key', () => {
  it('is that of its own profile (Krumhansl & Kessler 1982)', () => {
    expect(guessKeys(KEY_PROFILES.major, [])[0].key).toEqual({ fifths: 0, mode: 'major' });
    const rotated = KEY_PROFILES.minor.map((_, i, all) => all[(i - 9 + 12) % 12]);
    expect(guessKeys(rotated, [])[0].key).toEqual({ fifths: 0, mode: 'minor' });
  });

  it('is minor where the dominant is major and the chord of rest minor', () => {
    const chords = ['Am', 'Dm', 'E7', 'Am'].map((symbol) => ({
      root: pitchClassesOf(read(symbol))[0],
      classes: pitchClassesOf(read(symbol)),
      minor: read(symbol).degrees.includes('b3'),
      weight: 4,
    }));
    const use = new Float64Array(12);
    for (const { classes } of chords) for (const each of classes) use[each]++;
    expect(guessKeys(use, chords)[0].key).toEqual({ fifths: 0, mode: 'minor' });
  });
});

describe('the chord model', () => {
  it('gives probabilities, the same for every root', () => {
    const inputs = (root: number) => {
      const made = new Float32Array(INPUTS);
      for (const step of [0, 4, 7]) made[(root + step) % 12] = 0.95;
      made[12 + root] = 0.95;
      return made;
    };
    const c = chordLogProbabilities(inputs(0), chordWeights());
    expect(c.reduce((sum, value) => sum + Math.exp(value), 0)).toBeCloseTo(1, 9);
    expect(c).toHaveLength(STATES);
    expect(c.indexOf(Math.max(...c))).toBe(0);
    const e = chordLogProbabilities(inputs(4), chordWeights());
    expect(e.indexOf(Math.max(...e))).toBe(4);
    expect(e[4]).toBeCloseTo(c[0], 6);
  });
});
