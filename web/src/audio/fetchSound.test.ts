import { afterEach, describe, expect, it, vi } from 'vitest';
import { fetchSound } from './fetchSound.ts';

describe('fetching a sound', () => {
  afterEach(() => vi.unstubAllGlobals());

  it('gives its bytes', async () => {
    vi.stubGlobal('fetch', () => Promise.resolve(new Response(Uint8Array.of(1, 2, 3))));
    expect(new Uint8Array(await fetchSound('/sound', 'not there'))).toEqual(Uint8Array.of(1, 2, 3));
  });

  it('says in our words that it is not there, whatever the reason', async () => {
    vi.stubGlobal('fetch', () => Promise.resolve(new Response('no', { status: 404 })));
    await expect(fetchSound('/sound', 'The sound is not there.')).rejects.toThrow('The sound is not there.');
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('Failed to fetch')));
    await expect(fetchSound('/sound', 'The sound is not there.')).rejects.toThrow('The sound is not there.');
  });
});
