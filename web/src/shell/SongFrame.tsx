/** The frame around an open song: top line, places, transport; it loads the song and holds playing and saving. */
import { useCallback, useEffect, useMemo, useState, useSyncExternalStore } from 'react';
import { App, Spin } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Outlet, useMatch, useParams } from 'react-router';
import { songEndTicks, createTimeMap, type Edit } from '@plundra/core/song';
import { ApiError } from '../api/apiError.ts';
import { api } from '../api/client.ts';
import { listenToServer } from '../api/events.ts';
import { Engine } from '../audio/engine.ts';
import { asFollowed } from '../song/asFollowed.ts';
import { beatClicks, countInBeats } from '../audio/metronome.ts';
import { tracksWhenAsked, type ListenChoice } from '../audio/playlist.ts';
import { useFileDrop } from '../controls/useFileDrop.ts';
import { useAddToShelf } from '../places/shelf/useAddToShelf.tsx';
import { FIRST_CHORD_LISTENING } from '../places/chords/useChordHearing.ts';
import { ActionsContext, type ActionSources } from '../song/actions.ts';
import { deferred } from '../song/deferred.tsx';
import { SongContext, type SongValue } from '../song/SongContext.tsx';
import { openSession, showing } from '../song/sessions.ts';
import type { SongSession } from '../song/songSession.ts';
import { fetchPartAhead } from '../song/queries.ts';
import { withTried } from '../song/triedSong.ts';
import { requestsOf, useCorrections } from '../song/useCorrections.ts';
import { useImport } from '../song/useImport.tsx';
import { RecordingContext } from '../song/recording/RecordingContext.ts';
import { useRecorder } from '../song/recording/useRecorder.tsx';
import { useUnfinishedTakes } from '../song/recording/useUnfinishedTakes.tsx';
import { FindAction } from './FindAction.tsx';
import { RecordSheet } from './record/RecordSheet.tsx';
import { Places } from './Places.tsx';
import { loadAllPlaces } from './placeCode.ts';
import { ShortcutSheet } from './ShortcutSheet.tsx';
import { SongActions } from './SongActions.tsx';
import { SongUnopened } from './SongUnopened.tsx';
import { TopLine } from './TopLine.tsx';
import { Transport } from './Transport.tsx';
import { useGlobalKeys } from './useGlobalKeys.ts';

const TopLineLater = deferred(TopLine);
const TransportLater = deferred(Transport);
const RecordSheetLater = deferred(RecordSheet);

export function SongFrame() {
  const { songId, partId } = useParams();
  const opened = useQuery({
    queryKey: ['song', songId],
    queryFn: async ({ client }) => {
      const session = await openSession(songId!);
      fetchPartAhead(client, session.getState().song, partId);
      return session;
    },
    // Not data that could be shared, but the one session of this window.
    structuralSharing: false,
    gcTime: 0,
    staleTime: Infinity,
    retry: (count, error) => count < 1 && !(error instanceof ApiError && error.status >= 400),
  });
  if (opened.isPending) return <Spin fullscreen />;
  if (opened.isError)
    return <SongUnopened songId={songId!} error={opened.error} onRetry={() => void opened.refetch()} />;
  return <OpenSong key={songId} session={opened.data} />;
}

/** When the song is shown and nothing waits for it any more. */
const PLACES_AHEAD_MS = 4000;

const FIRST_LISTEN: ListenChoice = {
  mode: 'both',
  blend: 0.5,
  focusPartId: null,
  withOthers: false,
  lineProgram: 0,
  before: false,
  againstPartId: null,
  chords: FIRST_CHORD_LISTENING,
};

function OpenSong({ session }: { session: SongSession }) {
  const { message } = App.useApp();
  const explain = useCallback((text: string) => void message.warning(text, 7), [message]);
  useEffect(() => showing(session), [session]);
  useEffect(() => {
    const timer = setTimeout(loadAllPlaces, PLACES_AHEAD_MS);
    return () => clearTimeout(timer);
  }, []);
  const state = useSyncExternalStore(session.subscribe, session.getState);
  const [listen, setListenState] = useState<ListenChoice>(FIRST_LISTEN);
  const [sheetOpen, setSheetOpen] = useState(false);
  const setListen = useCallback(
    (change: Partial<ListenChoice>) => setListenState((old) => ({ ...old, ...change })),
    [],
  );
  const inNotes = useMatch('/songs/:songId/notes/:partId');
  const focusPartId = inNotes?.params.partId ?? null;

  useEffect(
    () =>
      listenToServer(
        (event) => {
          if (event.type === 'song') session.hear(event);
          // A deleted song may have come back.
          else if (event.type === 'songs' && session.getSaving().saveState === 'gone') void session.look();
        },
        () => void session.look(),
      ),
    [session],
  );
  // A disk that is nearly full is said before anything is recorded on it.
  const { data: health } = useQuery({ queryKey: ['health'], queryFn: api.health, staleTime: 60_000 });
  const warning = health?.warning;
  useEffect(() => {
    if (warning) explain(warning);
  }, [warning, explain]);

  const { song } = state;
  // Only a change of tempo or metre makes a new time map; everything drawn on the time axis depends on it.
  const { tempoMap, metreMap } = song;
  const time = useMemo(() => createTimeMap({ tempoMap, metreMap }), [tempoMap, metreMap]);
  const endSeconds = useMemo(() => time.secondsAt(songEndTicks(song, time)), [song, time]);
  // The chords sound only in the place where they can be seen and silenced.
  const inChords = useMatch('/songs/:songId/chords') !== null;
  const choice = useMemo(
    () => ({
      ...listen,
      focusPartId,
      chords: inChords ? listen.chords : { ...listen.chords, how: 'off' as const },
    }),
    [listen, focusPartId, inChords],
  );
  const [engine] = useState(() => new Engine());
  const [tried, setTried] = useState<Edit | null>(null);
  const sounding = useMemo(() => asFollowed(tried ? withTried(song, tried) : song), [song, tried]);
  const [prepared, prepare] = useState<Edit | null>(null);
  const madeAhead = useMemo(
    () => (prepared ? withTried(sounding, prepared) : sounding),
    [sounding, prepared],
  );
  const corrections = useCorrections(madeAhead, engine, explain, focusPartId);
  // What is only tried may go on after the end of the song.
  const soundingEndSeconds = useMemo(
    () => (tried ? time.secondsAt(songEndTicks(sounding, time)) : endSeconds),
    [tried, sounding, time, endSeconds],
  );
  useEffect(() => {
    engine.setSources({
      tracks: tracksWhenAsked(sounding, choice, corrections.get),
      endSeconds: () => soundingEndSeconds,
      beats: (from, to) => beatClicks(time, from, to),
      countIn: (at, bars) => countInBeats(time, at, bars),
      problem: explain,
    });
    engine.refresh();
  }, [engine, sounding, choice, corrections, time, soundingEndSeconds, explain]);
  useEffect(() => {
    let heard = corrections.get();
    return corrections.subscribe(() => {
      if (corrections.get() !== heard) engine.refresh();
      heard = corrections.get();
    });
  }, [engine, corrections]);
  // While it plays, an edit is heard before it is painted.
  useEffect(() => {
    let heard = session.getState().song;
    return session.subscribe(() => {
      const { song: now } = session.getState();
      if (now === heard || tried || !engine.getState().playing) return;
      heard = now;
      const followed = asFollowed(now);
      engine.setTracks(tracksWhenAsked(followed, choice, corrections.get), () =>
        corrections.want(requestsOf(followed, focusPartId)),
      );
    });
  }, [session, engine, tried, choice, corrections, focusPartId]);
  useEffect(() => () => engine.stop(), [engine]);

  const undo = useCallback(
    () => void session.undo().then((item) => item && message.info(`Undone: ${item.label}`, 2)),
    [session, message],
  );
  const redo = useCallback(
    () => void session.redo().then((item) => item && message.info(`Done again: ${item.label}`, 2)),
    [session, message],
  );
  const apply = useCallback<SongValue['apply']>((label, edit) => session.apply(label, edit), [session]);
  const openShortcuts = useCallback(() => setSheetOpen(true), []);
  const closeShortcuts = useCallback(() => setSheetOpen(false), []);
  const importFiles = useImport(song, apply);
  const recording = useRecorder({ session, song, time, engine, setTried });
  useUnfinishedTakes(session);
  const addToShelf = useAddToShelf();
  const inShelf = useMatch('/songs/:songId/shelf') !== null;
  const { dropping, dropProps } = useFileDrop(inShelf ? addToShelf : importFiles);
  const [actions] = useState<ActionSources>(() => new Map());
  const [finding, setFinding] = useState(false);
  const findAction = useCallback(() => {
    setSheetOpen(false);
    setFinding(true);
  }, []);
  useGlobalKeys({ engine, undo, redo, setListen, openShortcuts, findAction });

  const value = useMemo<SongValue>(
    () => ({
      ...state,
      session,
      time,
      endSeconds,
      apply,
      tried,
      setTried,
      prepare,
      undo,
      redo,
      engine,
      corrections,
      listen: choice,
      setListen,
      importFiles,
    }),
    [
      state,
      session,
      time,
      endSeconds,
      apply,
      tried,
      undo,
      redo,
      engine,
      corrections,
      choice,
      setListen,
      importFiles,
    ],
  );
  return (
    <ActionsContext.Provider value={actions}>
      <SongContext.Provider value={value}>
        <RecordingContext.Provider value={recording}>
          <SongActions openShortcuts={openShortcuts} />
          <div className="frame" {...dropProps}>
            <TopLineLater onShortcuts={openShortcuts} />
            <Places />
            <main className={recording.open ? 'place with-record-sheet' : 'place'}>
              <Outlet />
              {recording.open && <RecordSheetLater />}
            </main>
            <TransportLater />
          </div>
          {dropping && (
            <div className="drop-hint">
              {inShelf
                ? 'Drop recordings (WAV, FLAC, MP3, OGG) or MIDI files on the shelf'
                : 'Drop recordings (WAV, FLAC, MP3, OGG), MIDI files or scores into this song'}
            </div>
          )}
          <ShortcutSheet open={sheetOpen} onClose={closeShortcuts} onFind={findAction} />
          {finding && <FindAction sources={actions} onClose={() => setFinding(false)} />}
        </RecordingContext.Provider>
      </SongContext.Provider>
    </ActionsContext.Provider>
  );
}
