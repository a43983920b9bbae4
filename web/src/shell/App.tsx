import { lazy, Suspense } from 'react';
import { App as AntApp, ConfigProvider, Spin } from 'antd';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import { theme } from '../theme/tokens.ts';
import { SongsPage } from '../places/songs/SongsPage.tsx';
import { Failure } from './Failure.tsx';

const SongFrame = lazy(() => import('./SongFrame.tsx').then((module) => ({ default: module.SongFrame })));
const TimelinePlace = lazy(() =>
  import('../places/timeline/TimelinePlace.tsx').then((module) => ({ default: module.TimelinePlace })),
);
const LinePlace = lazy(() =>
  import('../places/line/LinePlace.tsx').then((module) => ({ default: module.LinePlace })),
);
const ChangesPlace = lazy(() =>
  import('../places/changes/ChangesPlace.tsx').then((module) => ({ default: module.ChangesPlace })),
);

const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, staleTime: 30_000 } },
});

const router = createBrowserRouter([
  { path: '/', element: <SongsPage />, errorElement: <Failure /> },
  {
    path: '/songs/:songId',
    element: <SongFrame />,
    errorElement: <Failure />,
    children: [
      { index: true, element: <Navigate to="timeline" replace /> },
      { path: 'timeline', element: <TimelinePlace /> },
      { path: 'line', element: <LinePlace /> },
      { path: 'line/:partId', element: <LinePlace /> },
      { path: 'changes', element: <ChangesPlace /> },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
]);

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content;

export function App() {
  return (
    <ConfigProvider theme={theme} csp={nonce ? { nonce } : {}}>
      <AntApp component={false} message={{ maxCount: 3 }}>
        <QueryClientProvider client={queries}>
          <Suspense fallback={<Spin fullscreen />}>
            <RouterProvider router={router} />
          </Suspense>
        </QueryClientProvider>
      </AntApp>
    </ConfigProvider>
  );
}
