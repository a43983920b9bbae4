/** The application: theme, queries, routes. */
import { useEffect } from 'react';
import { App as AntApp, ConfigProvider, Spin } from 'antd';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { createBrowserRouter, Navigate, RouterProvider, useParams, type RouteObject } from 'react-router';
import { theme as fullTheme } from '../theme/tokens.ts';
import { onNotice } from '../song/notices.ts';
import { fetchAhead } from '../song/openSong.ts';
import { SongsPage } from '../places/songs/SongsPage.tsx';
import { Failure } from './Failure.tsx';
import { styleNonce } from './styleNonce.ts';
import { loadChords, loadNotes, loadShelf, loadTimeline } from './placeCode.ts';

/** Who asks the system for less motion gets none: what opens and closes must not wait for its end either. */
const motion = !window.matchMedia('(prefers-reduced-motion: reduce)').matches;
const theme = { ...fullTheme, token: { ...fullTheme.token, motion } };

const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, staleTime: 30_000 } },
});

const notes: RouteObject = { lazy: async () => ({ Component: await loadNotes() }) };

// The code of a song, that of its place and the song itself are fetched beside each other.
const router = createBrowserRouter([
  { path: '/', element: <SongsPage />, errorElement: <Failure /> },
  {
    path: '/shelf',
    lazy: async () => ({ Component: (await import('../places/shelf/ShelfPage.tsx')).ShelfPage }),
    errorElement: <Failure />,
    hydrateFallbackElement: <Spin fullscreen />,
  },
  {
    path: '/songs/:songId',
    lazy: async () => ({ Component: (await import('./SongFrame.tsx')).SongFrame }),
    loader: ({ params }) => {
      fetchAhead(params.songId!);
      return null;
    },
    shouldRevalidate: () => false,
    errorElement: <Failure />,
    hydrateFallbackElement: <Spin fullscreen />,
    children: [
      { index: true, element: <Navigate to="timeline" replace /> },
      {
        path: 'timeline',
        lazy: async () => ({ Component: await loadTimeline() }),
      },
      { path: 'notes', ...notes },
      { path: 'notes/:partId', ...notes },
      // Bookmarks of older releases.
      { path: 'line/:partId?', Component: OldNotes },
      { path: 'changes', element: <Navigate to="../chords" replace /> },
      {
        path: 'chords',
        lazy: async () => ({ Component: await loadChords() }),
      },
      {
        path: 'shelf',
        lazy: async () => ({ Component: await loadShelf() }),
      },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
]);

function OldNotes() {
  const { partId } = useParams();
  return <Navigate to={partId ? `../notes/${partId}` : '../notes'} replace />;
}

/** Messages from code that is no screen. */
function Notices() {
  const { message } = AntApp.useApp();
  useEffect(() => onNotice((text) => void message.warning(text, 7)), [message]);
  return null;
}

export function App() {
  return (
    <ConfigProvider theme={theme} csp={styleNonce ? { nonce: styleNonce } : {}}>
      <AntApp component={false} message={{ maxCount: 3 }}>
        <QueryClientProvider client={queries}>
          <Notices />
          <RouterProvider router={router} />
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  );
}
