import { QueryClient } from '@tanstack/react-query';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { createSong, type RecordingPart, type Song } from '@plundra/core/song';
import { api } from '../api/client.ts';
import { fetchPartAhead } from './queries.ts';

const part: RecordingPart = {
  kind: 'recording',
  id: 'voice',
  name: 'Voice',
  mark: 'VO',
  colour: 0,
  levelDb: 0,
  pan: 0,
  mute: false,
  solo: false,
  material: 'voice',
  takes: [{ id: 'take', recordingHash: 'hash', line: { readingId: 'reading', tuningCents: 0, notes: [] } }],
  passages: [
    { type: 'recording', id: 'take', takeId: 'take', startTicks: 0, offsetSeconds: 0, durationSeconds: 4 },
  ],
};
const song: Song = { ...createSong('s', 'Song'), parts: [part] };

describe('fetching ahead what a part will show', () => {
  afterEach(() => vi.restoreAllMocks());
  const watch = () => ({
    reading: vi.spyOn(api, 'readingResult').mockRejectedValue(new Error('gone')),
    recording: vi.spyOn(api, 'recording').mockRejectedValue(new Error('gone')),
    peaks: vi.spyOn(api, 'peaks').mockRejectedValue(new Error('gone')),
  });

  it('asks for its reading, its recording and its waveform, and bears that they are gone', () => {
    const asked = watch();
    fetchPartAhead(new QueryClient({ defaultOptions: { queries: { retry: false } } }), song, 'voice');
    expect(asked.reading).toHaveBeenCalledWith('reading');
    expect(asked.recording).toHaveBeenCalledWith('hash');
    expect(asked.peaks).toHaveBeenCalledWith('hash');
  });

  it('asks for nothing where no part is opened', () => {
    const asked = watch();
    fetchPartAhead(new QueryClient(), song, undefined);
    fetchPartAhead(new QueryClient(), song, 'another');
    expect(asked.recording).not.toHaveBeenCalled();
    expect(asked.reading).not.toHaveBeenCalled();
  });
});
