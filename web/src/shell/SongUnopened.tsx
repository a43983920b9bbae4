/** In place of a song that cannot be opened: why, and what can be done. */
import { useState } from 'react';
import { App, Button, Result } from 'antd';
import { useNavigate } from 'react-router';
import { paths } from '@plundra/contract';
import { api } from '../api/client.ts';
import { ApiError } from '../api/apiError.ts';

interface Props {
  songId: string;
  error: Error;
  onRetry(): void;
}

export function SongUnopened({ songId, error, onRetry }: Props) {
  const { message } = App.useApp();
  const navigate = useNavigate();
  const [recovering, setRecovering] = useState(false);
  const unreadable = error instanceof ApiError && error.code === 'song_unreadable';
  const recover = async () => {
    setRecovering(true);
    try {
      const { song } = await api.recoverSong(songId);
      await navigate(`/songs/${song.id}`);
    } catch (problem) {
      void message.error((problem as Error).message, 9);
    } finally {
      setRecovering(false);
    }
  };
  return (
    <Result
      status="warning"
      title="This song could not be opened"
      subTitle={
        <p className="quiet unopened">
          {error instanceof ApiError
            ? error.message
            : 'Something unexpected is in its data. Reload the page; if that does not help, open a copy of the song.'}
        </p>
      }
      extra={
        <>
          {unreadable ? (
            <>
              <Button type="primary" loading={recovering} onClick={() => void recover()}>
                Open the last state that can be read
              </Button>
              <Button href={paths.songRaw(songId)} download={`song-${songId}.ndjson`}>
                Save its raw data
              </Button>
            </>
          ) : (
            <Button type="primary" onClick={onRetry}>
              Try again
            </Button>
          )}
          <Button href="/">All songs</Button>
        </>
      }
    />
  );
}
