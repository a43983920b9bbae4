/** What the time of a passage of a recording goes by: its own, at a speed, or the song's tempo. */
import { App, Button, Progress } from 'antd';
import {
  beatNoteName,
  beatsPerMinute,
  beatTicksOf,
  clockKeeping,
  createPassageTime,
  FASTEST_SPEED,
  followingBeats,
  isWarped,
  quartersPerMinute,
  SLOWEST_SPEED,
  type PassageClock,
  type RecordingPart,
  type RecordingPassage,
} from '@plundra/core/song';
import type { Ticks } from '@plundra/core/signal';
import { AmountField } from '../../controls/AmountField.tsx';
import { Select } from '../../controls/index.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { recordingsToRead } from '../chords/chordSources.ts';
import { firstTempo } from '../chords/readTempo.ts';
import { useChordsReading } from '../chords/useChordsReading.ts';
import { LONGEST_STRETCHED_SECONDS } from './passageTools.ts';

interface Props {
  part: RecordingPart;
  passage: RecordingPassage;
  /** Length of the whole recording. */
  recordedSeconds: number;
  set(label: string, patch: { startTicks?: Ticks; clock: PassageClock | null }): unknown;
}

export function PassageTimeFields({ part, passage, recordedSeconds, set }: Props) {
  const { time, song } = useSong();
  const { message } = App.useApp();
  const { clock } = passage;
  const keeps = clock?.keeps ?? 'own';
  const metre =
    song.metreMap.findLast(({ startTicks }) => startTicks <= passage.startTicks) ?? song.metreMap[0];
  const follow = (quarters: number) =>
    set('Follow the tempo', { clock: { keeps: 'song', bpm: Math.max(10, Math.min(400, quarters)) } });
  const reading = useChordsReading(({ tempo }) => {
    const found = firstTempo(tempo);
    if (found?.asPlayed) set('Follow its beats', followingBeats(passage, found.heard, found.metre, time));
    else if (found) follow(quartersPerMinute(found.bpm, found.metre));
    else void message.info('No steady beat was found in this recording. Type its tempo.', 5);
  });
  const endTicks = createPassageTime(passage, time).toTicks(passage.offsetSeconds + passage.durationSeconds);
  const tooLong = recordedSeconds > LONGEST_STRETCHED_SECONDS;
  const choose = (value: 'own' | 'song') =>
    set(value === 'song' ? 'Follow the tempo' : 'Keep its own time', {
      clock: clockKeeping(passage, value, time),
    });
  return (
    <>
      <div
        className="row"
        title={
          tooLong
            ? 'A recording of more than 20 minutes keeps its own time. Import the stretch you need as a file of its own.'
            : undefined
        }
      >
        <span className="label">Time</span>
        <Select
          aria-label="Time of the passage"
          size="small"
          style={{ width: 172 }}
          value={keeps}
          disabled={tooLong && !isWarped(passage)}
          options={[
            { value: 'own', label: 'keeps its own' },
            { value: 'song', label: 'follows the tempo' },
          ]}
          onChange={(value) => choose(value as 'own' | 'song')}
        />
      </div>
      {clock?.keeps === 'song' ? (
        <>
          <div className="row" title="The tempo of the recording itself">
            <span className="label">Recorded at</span>
            {clock.played && <span className="numbers quiet">about</span>}
            <AmountField
              label="Tempo of the recording"
              value={beatsPerMinute(clock.bpm, metre)}
              min={10}
              max={400}
              decimals={2}
              suffix="bpm"
              onSet={(bpm) => follow(quartersPerMinute(bpm, metre))}
            />
          </div>
          {clock.played && (
            <>
              <p className="quiet">
                It goes along beat by beat, as it was played. A typed tempo is one tempo.
              </p>
              <Button size="small" onClick={() => follow(clock.bpm)}>
                As if played evenly
              </Button>
            </>
          )}
          {reading.status ? (
            <div className="row">
              <Progress
                percent={Math.round(100 * reading.status.progress)}
                size="small"
                style={{ flex: 1 }}
              />
              <Button size="small" onClick={reading.cancel}>
                Stop
              </Button>
            </div>
          ) : (
            <div className="row">
              <span className="quiet numbers">
                {((endTicks - passage.startTicks) / beatTicksOf(metre)).toFixed(2)} {beatNoteName(metre)}{' '}
                notes
              </span>
              <Button
                size="small"
                onClick={() =>
                  reading.read(
                    recordingsToRead(
                      [
                        {
                          ...part,
                          takes: part.takes.filter(({ id }) => id === passage.takeId),
                          passages: [passage],
                        },
                      ],
                      time,
                    ),
                  )
                }
              >
                Find its tempo
              </Button>
            </div>
          )}
        </>
      ) : (
        <div className="row" title="100 % is as it was recorded; the pitch stays">
          <span className="label">Speed</span>
          <AmountField
            label="Speed of the passage"
            value={100 * (clock?.speed ?? 1)}
            min={100 * SLOWEST_SPEED}
            max={100 * FASTEST_SPEED}
            decimals={1}
            suffix="%"
            disabled={tooLong}
            onSet={(percent) =>
              set('Speed', { clock: percent === 100 ? null : { keeps: 'own', speed: percent / 100 } })
            }
          />
        </div>
      )}
    </>
  );
}
