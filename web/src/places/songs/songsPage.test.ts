import { describe, expect, it } from 'vitest';
import { daysLeft } from './BinDialog.tsx';
import { waitingText } from './SafetyNotes.tsx';

const song = (waiting: number, held: 'offline' | 'gone' | null = null, title = 'Ferry at Six') => ({
  songId: title,
  title,
  waiting,
  held,
});

describe('what waits to be saved', () => {
  it('is said in a sentence for each reason', () => {
    expect(waitingText([song(1)], true)).toBe('1 change to “Ferry at Six” is being saved.');
    expect(waitingText([song(3, 'offline')], true)).toBe(
      '3 changes to “Ferry at Six” wait for the server, which cannot be reached. Until then they are kept in this browser, also when you close it.',
    );
    expect(waitingText([song(1, 'offline')], false)).toMatch(/Leave this window open until then\.$/);
    expect(waitingText([song(2), song(1, 'gone', 'Kettle Waltz')], true)).toBe(
      '2 changes to “Ferry at Six” are being saved. 1 change to “Kettle Waltz” waits because the song is in the bin. Bring it back, and it is saved.',
    );
  });
});

describe('the bin', () => {
  it('says how long a song can be brought back', () => {
    const now = Date.UTC(2026, 0, 1);
    const inDays = (days: number) => new Date(now + days * 24 * 3600 * 1000).toISOString();
    expect(daysLeft(inDays(29.5), now)).toBe('in 29 days');
    expect(daysLeft(inDays(1.5), now)).toBe('tomorrow');
    expect(daysLeft(inDays(0.5), now)).toBe('today');
  });
});
