/** How early or late the last pass was, and a delay that can be taken off what is played next. */
import { Button } from 'antd';
import type { HowPlayed } from '@plundra/core/arranging';

/** Less than this nobody hears. */
const HEARD_MS = 8;
/** Where half of the notes lie within this, it is the keyboard that is late and not the player. */
const STEADY_MS = 15;

interface Props {
  how: HowPlayed;
  /** Its delay was taken off already. */
  answered: boolean;
  delaySeconds: number;
  setDelaySeconds(seconds: number): void;
}

export function HowYouPlay({ how, answered, delaySeconds, setDelaySeconds }: Props) {
  const lateMs = Math.round(1000 * how.medianSeconds);
  const spreadMs = Math.round(1000 * how.spreadSeconds);
  const off = Math.abs(lateMs) >= HEARD_MS;
  const steady = off && spreadMs <= STEADY_MS;
  return (
    <p className="how-you-play quiet" role="status">
      Last pass: {how.notes} notes,{' '}
      {off ? `median ${Math.abs(lateMs)} ms ${lateMs > 0 ? 'late' : 'early'}` : 'on time'}, half of them
      within {spreadMs} ms of that.
      {steady && ' That is steady: it may be the keyboard, not you.'}
      {steady && !answered && (
        <Button
          size="small"
          type="link"
          onClick={() => setDelaySeconds(delaySeconds + how.medianSeconds)}
        >{`Take ${Math.abs(lateMs)} ms ${lateMs > 0 ? 'off' : 'back'} from now on`}</Button>
      )}
      {delaySeconds !== 0 && (
        <Button size="small" type="link" onClick={() => setDelaySeconds(0)}>
          {`Stop taking ${Math.round(1000 * delaySeconds)} ms off`}
        </Button>
      )}
    </p>
  );
}
