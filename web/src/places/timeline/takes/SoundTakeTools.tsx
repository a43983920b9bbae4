/** What is done with takes that were recorded: read them, find their phrases, set the seams, print what was chosen, record more. */
import { useRef, useState } from 'react';
import { App, Button, Progress, Select } from 'antd';
import { useQueryClient } from '@tanstack/react-query';
import type { RecordingPart, Take } from '@plundra/core/song';
import { planFoundPhrases } from '../../../song/recording/findPhrases.ts';
import { useRecord } from '../../../song/recording/RecordingContext.ts';
import { readTakes } from '../../../song/readTakes.ts';
import { useSong } from '../../../song/SongContext.tsx';
import { usePrintPart } from './usePrintPart.ts';

const SEAMS_MS = [2, 10, 20, 40, 80, 150];
const FIRST_SEAM_MS = 10;

/** @param unread at least one */
export function ReadTakes({ part, unread, all }: { part: RecordingPart; unread: Take[]; all: boolean }) {
  const { apply } = useSong();
  const { message } = App.useApp();
  const [share, setShare] = useState<number | null>(null);
  const running = useRef<AbortController | null>(null);
  const read = async () => {
    const controller = new AbortController();
    running.current = controller;
    setShare(0);
    try {
      const edits = await readTakes(part, unread, setShare, controller.signal);
      apply(`Read the takes of ${part.name}`.slice(0, 200), { type: 'batch', edits });
    } catch (error) {
      if (!controller.signal.aborted)
        void message.error(
          error instanceof Error ? error.message : 'The takes could not be read. Try again.',
          7,
        );
    } finally {
      setShare(null);
    }
  };
  if (share === null)
    return (
      <Button size="small" type="primary" onClick={() => void read()}>
        Read {all ? 'the takes' : `${unread.length} more`}
      </Button>
    );
  return (
    <>
      <span className="quiet">Reading {unread.length} takes</span>
      <Progress percent={Math.round(share * 100)} size="small" style={{ width: 160 }} />
      <Button size="small" onClick={() => running.current?.abort()}>
        Stop
      </Button>
    </>
  );
}

export function SoundTakeTools({ part }: { part: RecordingPart }) {
  const { song, apply } = useSong();
  const { setInto, setOpen } = useRecord();
  const queries = useQueryClient();
  const { message } = App.useApp();
  const { printing, print, stop: stopPrinting } = usePrintPart(part);
  const findPhrases = async () => {
    const edit = await planFoundPhrases(song, part.id, queries, () => crypto.randomUUID()).catch(
      () => undefined,
    );
    if (edit) apply(`Find the phrases of ${part.name}`.slice(0, 200), edit);
    else void message.info(NO_PHRASE, 6);
  };
  return (
    <>
      <Button size="small" onClick={() => void findPhrases()}>
        Find phrases
      </Button>
      <Select
        aria-label="Length of the seams"
        size="small"
        value={Math.round((part.seamSeconds ?? FIRST_SEAM_MS / 1000) * 1000)}
        style={{ width: 124 }}
        options={SEAMS_MS.map((ms) => ({ value: ms, label: `Seams: ${ms} ms` }))}
        onChange={(ms) =>
          apply(`Set the seams of ${part.name}`.slice(0, 200), {
            type: 'part.set',
            partId: part.id,
            patch: { seamSeconds: ms === FIRST_SEAM_MS ? null : ms / 1000 },
          })
        }
      />
      {printing === null ? (
        <Button size="small" title={PRINT_TITLE} onClick={() => void print()}>
          Print as one
        </Button>
      ) : (
        <Button size="small" onClick={stopPrinting}>
          Stop printing, {Math.round(printing * 100)} %
        </Button>
      )}
      <Button
        size="small"
        onClick={() => {
          setInto(part.id);
          setOpen(true);
        }}
      >
        Record a take
      </Button>
    </>
  );
}

const PRINT_TITLE = 'A new part with what is heard of this one, as one recording';
const NO_PHRASE =
  'There is no further place where all takes are quiet. Cut the part with X where a phrase should end.';
