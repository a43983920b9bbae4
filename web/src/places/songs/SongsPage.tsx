/** The page of all songs. */
import { useEffect, useRef, useState } from 'react';
import {
  AlertOutlined,
  CopyOutlined,
  DeleteOutlined,
  EditOutlined,
  FileAddOutlined,
  HistoryOutlined,
  InboxOutlined,
  PlayCircleOutlined,
  PlusOutlined,
} from '@ant-design/icons';
import { App, Button, Empty, Input, Modal, Result, Skeleton, Table, Tooltip, type InputRef } from 'antd';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import type { SongSummary } from '@plundra/contract';
import { beatsPerMinute, type MetreEntry } from '@plundra/core/song';
import { keyName } from '@plundra/core/theory';
import { api } from '../../api/client.ts';
import { listenToServer } from '../../api/events.ts';
import { Mark } from '../../theme/Mark.tsx';
import { BackupsDialog } from './BackupsDialog.tsx';
import { BinDialog } from './BinDialog.tsx';
import { FaultsDialog } from './FaultsDialog.tsx';
import { SafetyNotes } from './SafetyNotes.tsx';

const SONGS = ['songs'];

export function SongsPage() {
  const { message, notification } = App.useApp();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const songs = useQuery({ queryKey: SONGS, queryFn: api.songs });
  const [naming, setNaming] = useState<{ song: SongSummary | null; title: string } | null>(null);
  const [open, setOpen] = useState<'bin' | 'backups' | 'faults' | null>(null);
  const midiInput = useRef<HTMLInputElement>(null);
  const title = useRef<InputRef>(null);
  const reload = () => void queries.invalidateQueries({ queryKey: SONGS });

  useEffect(
    () =>
      listenToServer(
        (event) => event.type === 'songs' && void queries.invalidateQueries({ queryKey: SONGS }),
        () => void queries.invalidateQueries({ queryKey: SONGS }),
      ),
    [queries],
  );

  const failed = (error: Error) => void message.error(error.message, 7);
  const create = useMutation({
    mutationFn: api.createSong,
    onSuccess: ({ song }) => void navigate(`/songs/${song.id}`),
    onError: failed,
  });
  const demo = useMutation({
    mutationFn: api.openDemo,
    onSuccess: ([first]) => void navigate(`/songs/${first}`),
    onError: failed,
  });
  const copy = useMutation({
    mutationFn: (song: SongSummary) => api.copySong(song.id),
    onSuccess: reload,
    onError: failed,
  });
  const midi = useMutation({
    mutationFn: api.importMidi,
    onSuccess: ({ songId, changed }, file) => {
      void navigate(`/songs/${songId}`);
      if (changed.length > 0)
        notification.warning({ title: file.name, description: changed.join(' '), duration: 0 });
    },
    onError: failed,
  });
  const rename = useMutation({
    mutationFn: async ({ song, title }: { song: SongSummary; title: string }) => {
      const step = {
        kind: 'do' as const,
        id: crypto.randomUUID(),
        label: `Rename to ${title}`.slice(0, 200),
        edit: { type: 'song.set' as const, patch: { title } },
      };
      const [outcome] = (
        await api.sendSteps(song.id, {
          clientId: 'songs-page',
          baseRevision: song.revision,
          onTop: true,
          steps: [{ requestId: crypto.randomUUID(), step }],
        })
      ).outcomes;
      if ('refused' in outcome) throw new Error(outcome.refused);
    },
    onSettled: reload,
    onError: failed,
  });
  const restore = async (song: SongSummary) => {
    try {
      await api.restoreSong(song.id);
      reload();
    } catch (error) {
      failed(error as Error);
    }
  };
  const remove = useMutation({
    mutationFn: (song: SongSummary) => api.removeSong(song.id),
    onSuccess: (_, song) => {
      reload();
      const key = `removed-${song.id}`;
      notification.info({
        key,
        title: `“${song.title}” is in the bin`,
        description: 'It can be brought back from there for 30 days.',
        duration: 12,
        actions: (
          <Button
            size="small"
            type="primary"
            onClick={() => {
              notification.destroy(key);
              void restore(song);
            }}
          >
            Undo
          </Button>
        ),
      });
    },
    onError: failed,
  });

  const finishNaming = () => {
    const title = naming?.title.trim();
    if (!naming || !title) return;
    if (naming.song) rename.mutate({ song: naming.song, title });
    else create.mutate(title);
    setNaming(null);
  };

  return (
    <div className="songs-page">
      <div className="inner">
        <div className="brand">
          <Mark />
          <div>
            <h1>Plundra</h1>
            <span className="quiet">From what you sang and played to parts you can edit</span>
          </div>
          <span style={{ flex: 1 }} />
          <Button icon={<InboxOutlined />} onClick={() => void navigate('/shelf')}>
            Shelf
          </Button>
          <input
            ref={midiInput}
            type="file"
            accept=".mid,.midi,.kar,.rmi"
            hidden
            aria-label="MIDI file"
            onChange={(event) => {
              const [file] = event.target.files ?? [];
              event.target.value = '';
              if (file) midi.mutate(file);
            }}
          />
          <Button
            icon={<FileAddOutlined />}
            loading={midi.isPending}
            onClick={() => midiInput.current?.click()}
          >
            From a MIDI file
          </Button>
          <Button icon={<PlayCircleOutlined />} loading={demo.isPending} onClick={() => demo.mutate()}>
            Open the demo
          </Button>
          <Button type="primary" icon={<PlusOutlined />} onClick={() => setNaming({ song: null, title: '' })}>
            New song
          </Button>
        </div>
        <SafetyNotes />
        <div style={{ marginTop: 28 }}>
          {songs.isPending && <Skeleton active paragraph={{ rows: 4 }} />}
          {songs.isError && (
            <Result
              status="warning"
              title="The songs could not be listed"
              subTitle={songs.error.message}
              extra={
                <Button type="primary" onClick={() => void songs.refetch()}>
                  Try again
                </Button>
              }
            />
          )}
          {songs.data?.length === 0 && (
            <Empty
              image={Empty.PRESENTED_IMAGE_SIMPLE}
              description="No songs yet. Make a new one and drop a recording into it, or open the demo to look around."
              style={{ padding: 50 }}
            />
          )}
          {songs.data && songs.data.length > 0 && (
            <Table
              size="middle"
              rowKey="id"
              dataSource={songs.data}
              pagination={songs.data.length > 20 ? { pageSize: 20, showSizeChanger: false } : false}
              columns={[
                {
                  title: 'Song',
                  dataIndex: 'title',
                  sorter: (a, b) => a.title.localeCompare(b.title),
                  render: (title: string, song) => (
                    <Link to={`/songs/${song.id}`} style={{ fontWeight: 600, fontSize: 15 }}>
                      {title}
                    </Link>
                  ),
                },
                {
                  title: 'Key',
                  render: (_, song) =>
                    song.key ? keyName(song.key) : <span className="quiet">not set yet</span>,
                },
                { title: 'Tempo', render: (_, song) => <span className="numbers">{tempoText(song)}</span> },
                { title: 'Metre', dataIndex: 'metre' },
                { title: 'Parts', dataIndex: 'partCount', align: 'right' },
                {
                  title: 'Last edited',
                  dataIndex: 'updatedAt',
                  sorter: (a, b) => a.updatedAt.localeCompare(b.updatedAt),
                  render: (at: string) => (
                    <span className="numbers">
                      {new Date(at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })}
                    </span>
                  ),
                },
                {
                  title: '',
                  align: 'right',
                  render: (_, song) => (
                    <span style={{ whiteSpace: 'nowrap' }}>
                      <Tooltip title="Rename">
                        <Button
                          type="text"
                          aria-label={`Rename ${song.title}`}
                          icon={<EditOutlined />}
                          onClick={() => setNaming({ song, title: song.title })}
                        />
                      </Tooltip>
                      <Tooltip title="Duplicate">
                        <Button
                          type="text"
                          aria-label={`Duplicate ${song.title}`}
                          icon={<CopyOutlined />}
                          onClick={() => copy.mutate(song)}
                        />
                      </Tooltip>
                      <Tooltip title="Delete">
                        <Button
                          type="text"
                          aria-label={`Delete ${song.title}`}
                          icon={<DeleteOutlined />}
                          onClick={() => remove.mutate(song)}
                        />
                      </Tooltip>
                    </span>
                  ),
                },
              ]}
            />
          )}
        </div>
        <div className="songs-foot">
          <Button type="text" icon={<DeleteOutlined />} onClick={() => setOpen('bin')}>
            Bin
          </Button>
          <Button type="text" icon={<HistoryOutlined />} onClick={() => setOpen('backups')}>
            Backups
          </Button>
          <Button type="text" icon={<AlertOutlined />} onClick={() => setOpen('faults')}>
            Error log
          </Button>
        </div>
      </div>
      <BinDialog open={open === 'bin'} onClose={() => setOpen(null)} />
      <BackupsDialog open={open === 'backups'} onClose={() => setOpen(null)} />
      <FaultsDialog open={open === 'faults'} onClose={() => setOpen(null)} />
      <Modal
        open={naming !== null}
        title={naming?.song ? 'Rename the song' : 'New song'}
        okText={naming?.song ? 'Rename' : 'Create'}
        okButtonProps={{ disabled: !naming?.title.trim() }}
        onOk={finishNaming}
        onCancel={() => setNaming(null)}
        // The dialog takes the focus itself as it opens.
        afterOpenChange={(isOpen) => isOpen && title.current?.focus({ cursor: 'all' })}
        width={420}
        destroyOnHidden
      >
        <Input
          ref={title}
          aria-label="Title of the song"
          placeholder="What is it called?"
          maxLength={200}
          value={naming?.title ?? ''}
          onChange={(event) => setNaming((old) => old && { ...old, title: event.target.value })}
          onPressEnter={finishNaming}
        />
      </Modal>
    </div>
  );
}

/** Beats a minute: in 6/8 those of dotted quarters. */
function tempoText({ bpm, metre }: SongSummary): string {
  const [beats, unit] = metre.split('/').map(Number);
  return `${Math.round(10 * beatsPerMinute(bpm, { beats, unit: unit as MetreEntry['unit'] })) / 10} bpm`;
}
