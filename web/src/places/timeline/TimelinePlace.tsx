/** The parts of the song as rows on a common time axis. */
import { useEffect, useRef, useState, useSyncExternalStore } from 'react';
import { UploadOutlined, ZoomInOutlined, ZoomOutOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { useNavigate } from 'react-router';
import { planShift } from '@plundra/core/song';
import { scrollTime, zoomTime, type TimeView } from '../../canvas/view.ts';
import { useSong } from '../../song/SongContext.tsx';
import { isTyping } from '../../controls/keyFocus.ts';
import { PartRow } from './PartRow.tsx';
import { TakeRow } from './TakeRow.tsx';
import { TimelineRuler } from './TimelineRuler.tsx';
import { useChosenWhenAdded } from './useChosenWhenAdded.ts';
import { useRemovePart } from './useRemovePart.tsx';
import { TimelineSheet } from './TimelineSheet.tsx';

/** Alt and an arrow move a recording by so much. */
const ALT_SECONDS = 0.005;

const rememberedViews = new Map<string, TimeView>();

export function TimelinePlace() {
  const { song, time, endSeconds, importFiles, engine, apply } = useSong();
  const navigate = useNavigate();
  const rows = useRef<HTMLDivElement>(null);
  const fileInput = useRef<HTMLInputElement>(null);
  const [chosenId, setChosenId] = useState<string | null>(song.parts[0]?.id ?? null);
  const [view, setViewState] = useState<TimeView>(
    rememberedViews.get(song.id) ?? { startSeconds: 0, pixelsPerSecond: 12 },
  );
  const recording = useSyncExternalStore(engine.subscribe, engine.getState).recordingFromSeconds !== null;
  useChosenWhenAdded(song, setChosenId);
  const chosen = song.parts.find((part) => part.id === chosenId) ?? null;

  const remove = useRemovePart(setChosenId);

  const setView = (make: (old: TimeView) => TimeView) =>
    setViewState((old) => {
      const next = make(old);
      rememberedViews.set(song.id, next);
      return next;
    });

  // The first look shows the whole song.
  useEffect(() => {
    const width = (rows.current?.clientWidth ?? 0) - 268;
    if (rememberedViews.has(song.id) || endSeconds === 0 || width <= 0) return;
    setViewState({ startSeconds: 0, pixelsPerSecond: width / (endSeconds + 1) });
  }, [song.id, endSeconds]);

  useEffect(() => {
    const element = rows.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      const zooming = event.ctrlKey || event.metaKey;
      const sideways = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
      if (!zooming && !sideways) return;
      event.preventDefault();
      const x = event.clientX - element.getBoundingClientRect().left - 268;
      setViewState((old) =>
        zooming
          ? zoomTime(old, Math.exp(-event.deltaY * 0.004), Math.max(0, x))
          : scrollTime(old, event.deltaX || event.deltaY, endSeconds),
      );
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [endSeconds]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey) return;
      const sideways = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
      if (sideways !== 0 && chosen?.kind === 'recording') {
        const beat = time.beatTicksAt(chosen.passages.at(0)?.startTicks ?? 0);
        const by = event.altKey ? ALT_SECONDS : time.secondsAt(beat) - time.secondsAt(0);
        const edit = planShift(song, chosen.id, sideways * by);
        if (edit) apply(`Move ${chosen.name}`, edit);
        return event.preventDefault();
      }
      if (event.altKey) return;
      const index = song.parts.findIndex((part) => part.id === chosenId);
      const key = event.key.toLowerCase();
      const move = key === 'arrowdown' ? 1 : key === 'arrowup' ? -1 : 0;
      if (move !== 0 && song.parts.length > 0)
        setChosenId(song.parts[Math.min(song.parts.length - 1, Math.max(0, index + move))].id);
      else if (key === 'enter' && chosen && event.target === document.body)
        void navigate(`../notes/${chosen.id}`);
      else if (key === 'm' && chosen)
        apply(chosen.mute ? `Unmute ${chosen.name}` : `Mute ${chosen.name}`, {
          type: 'part.set',
          partId: chosen.id,
          patch: { mute: !chosen.mute },
        });
      else if (key === 's' && chosen)
        apply(chosen.solo ? `Unsolo ${chosen.name}` : `Solo ${chosen.name}`, {
          type: 'part.set',
          partId: chosen.id,
          patch: { solo: !chosen.solo },
        });
      else if (key === 'delete' && chosen) remove(chosen);
      else if (key === '+' || key === '=') setViewState((old) => zoomTime(old, 1.3, 300));
      else if (key === '-') setViewState((old) => zoomTime(old, 1 / 1.3, 300));
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [song, time, chosenId, chosen, apply, navigate, remove]);

  useEffect(() => {
    engine.prepare(
      song.parts.flatMap((part) =>
        part.kind === 'recording' ? part.passages.map((passage) => passage.recordingHash) : [],
      ),
    );
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each song that is opened
  }, [engine, song.id]);

  return (
    <>
      <div className="main">
        <div className="steps">
          <input
            ref={fileInput}
            type="file"
            multiple
            hidden
            aria-label="Recordings or MIDI files"
            accept=".wav,.flac,.mp3,.ogg,.mid,.midi,.kar,.rmi,audio/*"
            onChange={(event) => {
              importFiles([...(event.target.files ?? [])]);
              event.target.value = '';
            }}
          />
          <Button
            icon={<UploadOutlined />}
            type={song.parts.length === 0 ? 'primary' : 'default'}
            onClick={() => fileInput.current?.click()}
          >
            Import a recording or MIDI
          </Button>
          <span className="quiet numbers">
            {song.parts.length} {song.parts.length === 1 ? 'part' : 'parts'}
          </span>
          <span className="gap" />
          <Button
            type="text"
            aria-label="Zoom out"
            icon={<ZoomOutOutlined />}
            onClick={() => setView((old) => zoomTime(old, 1 / 1.4, 200))}
          />
          <Button
            type="text"
            aria-label="Zoom in"
            icon={<ZoomInOutlined />}
            onClick={() => setView((old) => zoomTime(old, 1.4, 200))}
          />
        </div>
        <div className="parts" ref={rows}>
          {song.parts.length === 0 && !recording ? (
            <div className="canvas-note">
              <div className="card">
                <h2 style={{ fontSize: 18 }}>An empty song</h2>
                <p className="quiet">
                  Drop a recording of a sung or played line anywhere in this window: WAV, FLAC, MP3 or OGG.
                  Plundra reads its melody, and you make a part of it. A MIDI file can be dropped too.
                </p>
                <Button type="primary" icon={<UploadOutlined />} onClick={() => fileInput.current?.click()}>
                  Choose a file
                </Button>
              </div>
            </div>
          ) : (
            <>
              <TimelineRuler view={view} rows={song.parts.length} />
              {song.parts.map((part) => (
                <PartRow
                  key={part.id}
                  part={part}
                  view={view}
                  chosen={part.id === chosenId}
                  onChoose={() => setChosenId(part.id)}
                  onOpen={() => void navigate(`../notes/${part.id}`)}
                />
              ))}
              <TakeRow view={view} />
            </>
          )}
        </div>
      </div>
      {chosen && (
        <TimelineSheet
          part={chosen}
          onRemove={() => remove(chosen)}
          onOpen={() => void navigate(`../notes/${chosen.id}`)}
        />
      )}
    </>
  );
}
