/**
 * The beats that were heard over the recording's waveform, to be seen and heard with clicks, and put right: dragged, added,
 * removed, tapped, and where bars begin.
 */
import {
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
  useSyncExternalStore,
  type KeyboardEvent,
} from 'react';
import { App, Modal } from 'antd';
import {
  CaretRightFilled,
  PauseOutlined,
  RedoOutlined,
  UndoOutlined,
  ZoomInOutlined,
  ZoomOutOutlined,
} from '@ant-design/icons';
import { keptOnsets } from '@plundra/core/reading';
import {
  barsFrom,
  createPassageTime,
  firstDownbeat,
  movedBeat,
  placedRecordings,
  tapsOnOnsets,
  withoutBeat,
  withTaps,
  type HeardBeats,
  type RecordingPart,
} from '@plundra/core/song';
import { zoomTime, type TimeView } from '../../../canvas/view.ts';
import { Button, Checkbox, TipButton } from '../../../controls/index.tsx';
import { useSong } from '../../../song/SongContext.tsx';
import { useOnsets } from '../../../song/useOnsets.ts';
import { useRecordings } from '../../../song/useRecording.ts';
import type { FoundChords } from '../chordSources.ts';
import { BeatsCanvas } from './BeatsCanvas.tsx';
import { clicksOf, placeOfBeat } from './beatPlaces.ts';
import { useBeatDraft } from './useBeatDraft.ts';
import { useTapping } from './useTapping.ts';

const SENSITIVITY = 0.5;
const FINE_SECONDS = 0.005;
/** So many seconds are seen at first, a beat in each 60 pixels or so. */
const FIRST_PIXELS_PER_SECOND = 90;
const AIR_SECONDS = 0.3;

/** What was read, as far as its beats go. */
export type BeatsFound = Pick<FoundChords, 'name' | 'windows' | 'partIds' | 'recordingHash' | 'asPlayed'>;

interface Props {
  found: BeatsFound;
  /** In seconds of the recording. */
  heard: HeardBeats;
  perBar: number;
  onUse(heard: HeardBeats): void;
  onClose(): void;
}

export function BeatsWindow({ found, heard: first, perBar, onUse, onClose }: Props) {
  const { song, time, engine, endSeconds, setTried } = useSong();
  const { modal } = App.useApp();
  const { playing, loading } = useSyncExternalStore(engine.subscribe, engine.getState);
  const parts = useMemo(
    () =>
      song.parts.filter(
        (part): part is RecordingPart =>
          part.kind === 'recording' && found.partIds?.includes(part.id) === true,
      ),
    [song.parts, found.partIds],
  );
  const hashes = useMemo(
    () => [...new Set(parts.flatMap((part) => placedRecordings(part).map((each) => each.recordingHash)))],
    [parts],
  );
  const { known } = useRecordings(hashes);
  const { toSong, toRecorded } = useMemo(
    () => createPassageTime(found.windows[0], time),
    [found.windows, time],
  );
  const { found: foundOnsets, error: noOnsets } = useOnsets(found.recordingHash, true);
  const onsets = useMemo(
    () => (foundOnsets ? keptOnsets(foundOnsets, SENSITIVITY).map(({ seconds }) => seconds) : []),
    [foundOnsets],
  );
  // Bars as they are counted now: the metre, or how fast beats are, was chosen otherwise since.
  const draft = useBeatDraft(barsFrom(first, firstDownbeat(first), perBar));
  const { heard, chosen, choose, change } = draft;
  const startSeconds = Math.max(0, toSong(found.windows[0].offsetSeconds));
  const [view, setViewState] = useState<TimeView>({
    startSeconds: Math.max(0, startSeconds - AIR_SECONDS),
    pixelsPerSecond: FIRST_PIXELS_PER_SECOND,
  });
  // No further out than all of it.
  const leastPixelsPerSecond = Math.min(FIRST_PIXELS_PER_SECOND, SHOWN_PIXELS / endSeconds);
  const setView = useCallback(
    (next: (old: TimeView) => TimeView) =>
      setViewState((old) => {
        const wanted = next(old);
        return wanted.pixelsPerSecond > leastPixelsPerSecond
          ? wanted
          : { startSeconds: 0, pixelsPerSecond: leastPixelsPerSecond };
      }),
    [leastPixelsPerSecond],
  );
  const [clicking, setClicking] = useState(true);
  const picture = useRef<HTMLDivElement>(null);

  // What is read is heard alone, whatever is muted.
  useEffect(() => {
    const alone = parts.map(({ id }) => ({
      type: 'part.set' as const,
      partId: id,
      patch: { solo: true, mute: false },
    }));
    setTried({ type: 'batch', edits: alone });
    engine.stop();
    engine.seek(startSeconds);
    return () => {
      engine.stop();
      setTried(null);
    };
  }, [parts, engine, setTried, startSeconds]);

  const sounding = useRef({ heard, clicking, tapping: false });
  const play = useCallback(
    () =>
      void engine.play({
        countInBars: 0,
        beats: (from, to) => {
          const now = sounding.current;
          return now.clicking && !now.tapping ? clicksOf(now.heard, toSong, from, to) : [];
        },
      }),
    [engine, toSong],
  );
  const { taps, tap } = useTapping(engine, play, (tapped) => {
    const placed = tapsOnOnsets(tapped.map(toRecorded), onsets);
    change(withTaps(heard, placed, perBar));
  });
  useEffect(() => {
    sounding.current = { heard, clicking, tapping: taps.length > 0 };
  }, [heard, clicking, taps]);

  const close = () => {
    if (!draft.canUndo) return onClose();
    void modal.confirm({
      title: 'Leave without your changes?',
      content: 'The beats stay as they were before, and what you changed here is lost.',
      okText: 'Leave without them',
      cancelText: 'Go on',
      autoFocusButton: 'cancel',
      onOk: onClose,
    });
  };
  const remove = () => {
    if (chosen === null) return;
    const next = withoutBeat(heard, chosen, perBar);
    change(next, next.beats.length > 0 ? Math.min(chosen, next.beats.length - 1) : null);
  };
  const beginBar = () => chosen !== null && change(barsFrom(heard, chosen, perBar), chosen);
  const step = (by: number, fine: boolean) => {
    if (chosen !== null && fine)
      return change(movedBeat(heard, chosen, heard.beats[chosen] + by * FINE_SECONDS, perBar), chosen);
    const here = toRecorded(engine.positionSeconds());
    const next =
      chosen !== null
        ? chosen + by
        : by > 0
          ? heard.beats.findIndex((at) => at > here)
          : heard.beats.findLastIndex((at) => at < here);
    const held = Math.max(0, Math.min(heard.beats.length - 1, next));
    if (heard.beats.length === 0) return;
    choose(held);
    const at = toSong(heard.beats[held]);
    engine.seek(at);
    setView((old) => {
      const x = (at - old.startSeconds) * old.pixelsPerSecond;
      return x >= 0 && x < SHOWN_PIXELS ? old : { ...old, startSeconds: Math.max(0, at - AIR_SECONDS) };
    });
  };
  const zoom = (factor: number) => setView((old) => zoomTime(old, factor, SHOWN_PIXELS / 2));
  const toggle = () => (playing ? engine.stop() : play());
  const onKey = (event: KeyboardEvent) => {
    const key = event.key.toLowerCase();
    if (
      (event.target as HTMLElement).closest('.ant-modal-footer, .beats-tools') &&
      [' ', 'enter'].includes(key)
    )
      return;
    if (key === 'escape') return;
    if ((event.ctrlKey || event.metaKey) && key === 'z') {
      if (event.shiftKey) draft.redo();
      else draft.undo();
    } else if (event.ctrlKey || event.metaKey) return;
    else if (key === ' ') toggle();
    else if (key === 't') {
      if (!event.repeat) tap();
    } else if (key === 'arrowleft' || key === 'arrowright') step(key === 'arrowleft' ? -1 : 1, event.altKey);
    else if (key === 'delete' || key === 'backspace') remove();
    else if (key === 'enter') beginBar();
    else if (key === 'home') engine.seek(startSeconds);
    else if (key === '+' || key === '=') zoom(1.5);
    else if (key === '-') zoom(1 / 1.5);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const place = chosen === null ? null : placeOfBeat(heard, chosen, perBar);
  return (
    <Modal
      open
      centered
      width="min(1120px, calc(100vw - 32px))"
      title={`Beats of ${found.name}`}
      okText="Use these beats"
      okButtonProps={{ disabled: heard.beats.length < 2 }}
      cancelText="Leave them"
      onOk={() => onUse(heard)}
      onCancel={close}
      afterOpenChange={(open) => open && picture.current?.focus()}
      mask={{ closable: false }}
    >
      <div className="beats-window" onKeyDown={onKey}>
        <div
          className="beats-tools"
          // A button that was clicked gives the keys back.
          onClick={(event) => event.detail > 0 && picture.current?.focus()}
        >
          <Button
            type="primary"
            loading={loading}
            icon={playing ? <PauseOutlined /> : <CaretRightFilled />}
            onClick={toggle}
          >
            {playing ? 'Stop' : 'Hear it'}
          </Button>
          <Checkbox checked={clicking} onChange={(event) => setClicking(event.target.checked)}>
            with clicks
          </Checkbox>
          <Button
            onClick={tap}
            title="Key T. Each press is a beat; they take the place of those that were heard there"
          >
            {playing ? 'Tap a beat' : 'Tap along'}
          </Button>
          <span className="beats-tools-end">
            <Button disabled={chosen === null} onClick={beginBar} title="Key Enter">
              A bar begins here
            </Button>
            <Button disabled={chosen === null} onClick={remove} title="Key Delete">
              Remove
            </Button>
            <TipButton
              tip="Undo"
              aria-label="Undo a beat"
              icon={<UndoOutlined />}
              disabled={!draft.canUndo}
              onClick={draft.undo}
            />
            <TipButton
              tip="Redo"
              aria-label="Redo a beat"
              icon={<RedoOutlined />}
              disabled={!draft.canRedo}
              onClick={draft.redo}
            />
            <TipButton
              tip="Show more"
              aria-label="Zoom out"
              icon={<ZoomOutOutlined />}
              onClick={() => zoom(1 / 1.5)}
            />
            <TipButton
              tip="Show less, larger"
              aria-label="Zoom in"
              icon={<ZoomInOutlined />}
              onClick={() => zoom(1.5)}
            />
          </span>
        </div>
        <div
          tabIndex={0}
          role="group"
          aria-label={`Beats over the sound of ${found.name}`}
          className="beats-focus"
          aria-busy={!foundOnsets && !noOnsets}
          ref={picture}
        >
          <BeatsCanvas
            look={{ perBar, taps, onsets, parts, recordings: known, time, toSong }}
            draft={draft}
            view={view}
            setView={setView}
            endSeconds={endSeconds}
            toRecorded={toRecorded}
          />
        </div>
        <p className="numbers" role="status">
          {taps.length > 0
            ? `${taps.length} tapped. They are taken when it stops.`
            : place
              ? `${place.bar < 1 ? `Before bar 1` : `Bar ${place.bar}, beat ${place.beat}`}, at ${heard.beats[chosen!].toFixed(2)} s`
              : `${heard.beats.length} beats, ${heard.downbeats.length} bars of ${perBar}`}
        </p>
        <p className="quiet">
          Drag a beat to where you hear it; it goes to an onset beside it, with Alt it does not. A double
          click adds a beat. ← and → choose one, with Alt they move it by 5 ms. Space plays, T taps.
        </p>
      </div>
    </Modal>
  );
}

/** About as much as is seen of it. */
const SHOWN_PIXELS = 900;
