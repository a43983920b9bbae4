import type { Edit } from '@plundra/core/song';

/** Makes a song over the network and does one edit to it, as the application would. Gives its id. */
export async function makeSong(url: string, title: string, edit: Edit): Promise<string> {
  const call = async (route: string, body: unknown) => {
    const response = await fetch(url + route, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Connection: 'close' },
      body: JSON.stringify(body),
    });
    if (!response.ok) throw new Error(await response.text());
    return (await response.json()) as { song: { id: string } };
  };
  const { song } = await call('/api/songs', { title });
  const step = { kind: 'do', id: 'first', label: 'Fill', edit };
  await call(`/api/songs/${song.id}/steps`, {
    clientId: 'bench',
    baseRevision: 0,
    steps: [{ requestId: 'first', step }],
  });
  return song.id;
}
