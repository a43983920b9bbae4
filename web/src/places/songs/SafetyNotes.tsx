/** Warnings: songs that are still being saved, and a disk that is nearly full. */
import { useSyncExternalStore } from 'react';
import { Alert } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { api } from '../../api/client.ts';
import { outboxWorks } from '../../song/outbox.ts';
import { waitingToBeSaved, type WaitingSong } from '../../song/sessions.ts';

export function SafetyNotes() {
  const waiting = useSyncExternalStore(waitingToBeSaved.subscribe, waitingToBeSaved.get);
  const keeps = useSyncExternalStore(outboxWorks.subscribe, outboxWorks.get);
  const health = useQuery({ queryKey: ['health'], queryFn: api.health, refetchInterval: 60_000 });
  return (
    <div className="safety-notes">
      {waiting.length > 0 && (
        <Alert type="warning" showIcon title={waitingText(waiting, keeps)} data-testid="waiting-songs" />
      )}
      {health.data?.warning && <Alert type="warning" showIcon title={health.data.warning} />}
      {!keeps && (
        <Alert
          type="warning"
          showIcon
          title="This browser keeps no data for Plundra. Changes are saved by the server all the same, but what is not saved yet is lost when a window closes. Allow site data for this address to be safe."
        />
      )}
    </div>
  );
}

/** "3 changes to “Ferry at Six” are being saved." */
export function waitingText(songs: readonly WaitingSong[], keeps: boolean): string {
  return [
    sentence(songs, null, (one) => `${one ? 'is' : 'are'} being saved.`),
    sentence(songs, 'offline', (one) => {
      const until = keeps
        ? `Until then ${one ? 'it is' : 'they are'} kept in this browser, also when you close it.`
        : 'Leave this window open until then.';
      return `${one ? 'waits' : 'wait'} for the server, which cannot be reached. ${until}`;
    }),
    sentence(
      songs,
      'gone',
      (one) =>
        `${one ? 'waits' : 'wait'} because the song is in the bin. Bring it back, and ${one ? 'it is' : 'they are'} saved.`,
    ),
  ]
    .filter(Boolean)
    .join(' ');
}

function sentence(
  songs: readonly WaitingSong[],
  held: WaitingSong['held'],
  end: (one: boolean) => string,
): string {
  const these = songs.filter((song) => song.held === held);
  if (these.length === 0) return '';
  const what = these
    .map(({ waiting, title }) => `${waiting} ${waiting === 1 ? 'change' : 'changes'} to “${title}”`)
    .join(', ');
  return `${what} ${end(these.length === 1 && these[0].waiting === 1)}`;
}
