/** What the shelf says of an item, in words. */
import type { ItemFit, ShelfItem, ShelfMetre, SongPlace } from '@plundra/core/shelf';
import { isPitched, itemBars } from '@plundra/core/shelf';
import { beatsPerMinute } from '@plundra/core/song';
import { keyName } from '@plundra/core/theory';
import { instrumentName } from '../../audio/instruments.ts';

const one = (value: number) => String(Math.round(10 * value) / 10);

/** "100", of the beat of its metre. */
export const bpmText = (bpm: number, metre: ShelfMetre): string => one(beatsPerMinute(bpm, metre));

/** "4 bars", "0:24". */
export function lengthText(item: ShelfItem): string {
  const bars = itemBars(item);
  if (bars !== undefined) {
    const whole = Math.round(bars);
    const shown = Math.abs(bars - whole) < 0.02 ? String(whole) : one(bars);
    return `${shown} ${shown === '1' ? 'bar' : 'bars'}`;
  }
  if (item.sound.type !== 'recording') return '';
  const seconds = Math.max(1, Math.round(item.sound.durationSeconds));
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`;
}

/** "bass · round, finger-played". */
export function aboutText({ material, sound, tags, fromSong }: ShelfItem): string {
  const what = sound.type === 'notes' ? instrumentName(sound.program).toLowerCase() : material;
  return [what === 'other' ? '' : what, tags.join(', '), fromSong ? `from ${fromSong}` : '']
    .filter(Boolean)
    .join(' · ');
}

export const semitonesText = (semitones: number): string =>
  `${semitones > 0 ? '+' : '−'}${Math.abs(semitones)} ${Math.abs(semitones) === 1 ? 'semitone' : 'semitones'}`;

/** "9 % longer". */
export function longerText(longer: number): string {
  const percent = Math.round(Math.abs(longer > 1 ? longer - 1 : 1 / longer - 1) * 100);
  return `${percent} % ${longer > 1 ? 'longer' : 'shorter'}`;
}

export const metreText = ({ beats, unit }: ShelfMetre): string => `${beats}/${unit}`;

export interface FitText {
  /** "as it is" where it fits. */
  text: string;
  /** Something speaks against it. */
  warning: boolean;
  /** What is done so that it fits. */
  changes: boolean;
}

export function fitText(item: ShelfItem, fit: ItemFit, place: SongPlace): FitText {
  if (fit.otherMetre)
    return {
      text: `in ${metreText(item.metre)}, the song is in ${metreText(place.metre)}`,
      warning: true,
      changes: true,
    };
  const changes: string[] = [];
  if (fit.semitones !== 0) changes.push(semitonesText(fit.semitones));
  const tempo = tempoChange(item, fit, place);
  if (tempo) changes.push(tempo);
  if (fit.heard && fit.longer !== 1 && Math.abs(Math.log(fit.longer)) > 0.2)
    return { text: `${longerText(fit.longer)}: will be heard`, warning: true, changes: true };
  if (changes.length > 0) {
    const heard = fit.heard ? ': will be heard' : '';
    return { text: changes.join(', ') + heard, warning: fit.heard, changes: true };
  }
  if (fit.relative) return { text: 'relative key', warning: false, changes: false };
  if (isPitched(item) && place.key && fit.key && keyName(fit.key) !== keyName(place.key))
    return { text: `stays in ${keyName(fit.key)}`, warning: true, changes: false };
  if (isPitched(item) && !item.key) return { text: 'key not known', warning: false, changes: false };
  return { text: 'as it is', warning: false, changes: false };
}

/** "100 → 92 bpm". */
export function tempoChange(item: ShelfItem, fit: ItemFit, place: SongPlace): string | undefined {
  if (item.bpm === null || fit.countedBpm === null) return undefined;
  const [from, to] = [bpmText(item.bpm, item.metre), bpmText(place.bpm, place.metre)];
  const counted = bpmText(fit.countedBpm, place.metre);
  if (counted === to) return from === to ? undefined : `${from} counted as ${to} bpm`;
  return from === counted ? `${from} → ${to} bpm` : `${from}, counted as ${counted} → ${to} bpm`;
}
