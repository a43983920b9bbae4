/** A note part that was made from a recording, brought up to date with what was corrected there since. */
import { useMemo } from 'react';
import { Button } from '../../controls/index.tsx';
import { isTiedToRecording, planFollowing } from '@plundra/core/arranging';
import type { NotePart } from '@plundra/core/song';
import { useSong } from '../../song/SongContext.tsx';
import type { Contours } from './usePassageSources.ts';
import { countNotes } from './noteEditing.ts';

export function FollowRecording({ part, contours }: { part: NotePart; contours: Contours }) {
  const { song, time, apply } = useSong();
  const source = song.parts.find(({ id }) => id === part.madeFromPartId);
  const tied = source !== undefined && isTiedToRecording(part);
  const plan = useMemo(
    () => (tied ? planFollowing(song, part, time, contours) : undefined),
    [tied, song, part, time, contours],
  );
  if (!tied) return null;
  const says = plan && [
    ...(plan.changed > 0 ? [`${countNotes(plan.changed)} would change`] : []),
    ...(plan.added > 0 ? [`${plan.added} would be added`] : []),
    ...(plan.removed > 0 ? [`${plan.removed} would go`] : []),
  ];
  return (
    <>
      <h3>Made from {source.name}</h3>
      <p className="quiet" data-testid="following">
        {says ? `${says.join(', ')}. Notes that you drew and velocities stay.` : 'Up to date with it.'}
      </p>
      {plan && (
        <Button block onClick={() => apply(`Follow ${source.name} again`, plan.edit)}>
          Follow the recording again
        </Button>
      )}
    </>
  );
}
