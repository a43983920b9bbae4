/** Saving the song, a stretch of it or some of its parts as a sound file. */
import { useEffect, useRef, useState, useSyncExternalStore } from 'react';
import { useQueryClient } from '@tanstack/react-query';
import { Alert, App, Modal, Progress } from 'antd';
import type { WavSamples } from '@plundra/core/formats';
import { saveFile } from '../api/saveFile.ts';
import { LONGEST_RENDER_SECONDS } from '../audio/renderSound.ts';
import { Button, Segmented, Select } from '../controls/index.tsx';
import { makeSoundFile } from '../song/saveSound.ts';
import { useSong } from '../song/SongContext.tsx';

const SAMPLES: { value: WavSamples; label: string; bytes: number }[] = [
  { value: 16, label: 'WAV, 16 bits', bytes: 2 },
  { value: 24, label: 'WAV, 24 bits', bytes: 3 },
  { value: 'float', label: 'WAV, 32-bit float', bytes: 4 },
];
const RATES = [44_100, 48_000, 96_000].map((value) => ({ value, label: `${value / 1000} kHz` }));

export function SoundSheet({ onClose }: { onClose(): void }) {
  const { song, engine, endSeconds, listen } = useSong();
  const queries = useQueryClient();
  const { message } = App.useApp();
  const { loop } = useSyncExternalStore(engine.subscribe, engine.getState);
  const [range, setRange] = useState<'song' | 'loop'>('song');
  const [partIds, setPartIds] = useState<string[]>([]);
  const [samples, setSamples] = useState<WavSamples>(24);
  const [sampleRateHz, setSampleRateHz] = useState(44_100);
  const [share, setShare] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const running = useRef<AbortController | null>(null);
  useEffect(() => () => running.current?.abort(), []);

  const ofLoop = range === 'loop' && loop !== null;
  const fromSeconds = ofLoop ? loop.startSeconds : 0;
  const toSeconds = ofLoop ? loop.endSeconds : endSeconds;
  const lengthSeconds = toSeconds - fromSeconds;
  const bytes = lengthSeconds * sampleRateHz * 2 * SAMPLES.find(({ value }) => value === samples)!.bytes;
  const tooLong = lengthSeconds > LONGEST_RENDER_SECONDS;

  const save = async () => {
    const controller = new AbortController();
    running.current = controller;
    setProblem(null);
    setShare(0);
    try {
      const chosen = partIds.length > 0 ? partIds : null;
      const choice = { fromSeconds, toSeconds, partIds: chosen, sampleRateHz, samples };
      const file = await makeSoundFile(song, listen, queries, choice, setShare, controller.signal);
      if (controller.signal.aborted) return;
      saveFile(
        `${nameOf(
          song.title,
          song.parts.filter(({ id }) => partIds.includes(id)),
        )}.wav`,
        'audio/wav',
        file.bytes,
      );
      const over = file.peakDb > 0 && samples !== 'float';
      if (over)
        setProblem(
          `Saved, but the loudest moment is ${file.peakDb.toFixed(1)} dB over full scale and was cut off. Turn parts down and save again, or save as 32-bit float, which keeps it.`,
        );
      else {
        void message.success(`Saved. The loudest moment is at ${shownDb(file.peakDb)}.`, 5);
        onClose();
      }
    } catch (error) {
      if (!controller.signal.aborted)
        setProblem(
          error instanceof Error
            ? error.message
            : 'The sound could not be made. Reload the page and try again.',
        );
    } finally {
      if (running.current === controller) {
        running.current = null;
        setShare(null);
      }
    }
  };
  const stop = () => {
    running.current?.abort();
    running.current = null;
    setShare(null);
  };

  return (
    <Modal
      open
      title="Save as sound"
      width={420}
      onCancel={onClose}
      footer={
        share === null
          ? [
              <Button key="close" onClick={onClose}>
                Close
              </Button>,
              <Button
                key="save"
                type="primary"
                disabled={lengthSeconds <= 0 || tooLong}
                onClick={() => void save()}
              >
                Save sound file
              </Button>,
            ]
          : [
              <Button key="stop" onClick={stop}>
                Stop
              </Button>,
            ]
      }
    >
      <div className="dialog-fields">
        <Segmented
          block
          aria-label="How much of the song"
          value={ofLoop ? 'loop' : 'song'}
          options={[
            { value: 'song', label: 'The song' },
            { value: 'loop', label: 'The loop range', disabled: loop === null },
          ]}
          onChange={(value) => setRange(value as 'song' | 'loop')}
        />
        <label>
          Parts
          <Select
            mode="multiple"
            aria-label="Parts in the sound file"
            placeholder="All that sound now"
            optionFilterProp="label"
            value={partIds}
            options={song.parts.map(({ id, name }) => ({ value: id, label: name }))}
            onChange={(ids) => setPartIds(ids as string[])}
          />
        </label>
        <div className="row">
          <Select
            aria-label="Kind of sound file"
            style={{ flex: 1 }}
            value={samples}
            options={SAMPLES}
            onChange={(value) => setSamples(value as WavSamples)}
          />
          <Select
            aria-label="Sample rate"
            value={sampleRateHz}
            options={RATES}
            onChange={(value) => setSampleRateHz(value as number)}
          />
        </div>
        {tooLong ? (
          <Alert
            type="warning"
            title="That is longer than the 30 minutes that can be made in one go. Set a loop range and save it in pieces."
          />
        ) : (
          <span className="quiet numbers">
            {lengthSeconds <= 0
              ? 'There is nothing in this song yet.'
              : `${shownLength(lengthSeconds)} and what rings on after it, stereo, ${shownSize(bytes)}`}
          </span>
        )}
        {share !== null && <Progress percent={Math.round(100 * share)} status="active" />}
        {problem && <Alert type="warning" showIcon title={problem} />}
      </div>
    </Modal>
  );
}

const shownDb = (db: number) =>
  db === -Infinity ? '−∞ dB: it is silent' : `${db.toFixed(1).replace('-', '−')} dB`;
const shownSize = (bytes: number) => `${bytes < 1e6 ? '1' : Math.round(bytes / 1e6)} MB`;

function shownLength(seconds: number): string {
  const whole = Math.round(seconds);
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`;
}

function nameOf(title: string, parts: readonly { name: string }[]): string {
  return parts.length === 1 ? `${title} - ${parts[0].name}` : title;
}
