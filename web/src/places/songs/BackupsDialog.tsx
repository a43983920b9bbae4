/** Backups of all songs; a song is brought back from one beside what is there now. */
import { useState } from 'react';
import { App, Button, Empty, Modal, Result, Select, Skeleton, Table } from 'antd';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { Backup, BackupSong } from '@plundra/contract';
import { api } from '../../api/client.ts';

const whenText = (at: string) =>
  new Date(at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });

export function BackupsDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const backups = useQuery({ queryKey: ['backups'], queryFn: api.backups, enabled: open, staleTime: 0 });
  const [chosen, setChosen] = useState<string | null>(null);
  const backup = backups.data?.find(({ name }) => name === chosen) ?? backups.data?.at(0);
  return (
    <Modal open={open} title="Backups" footer={null} onCancel={onClose} width={720}>
      <p className="quiet">
        A copy of all songs is made whenever Plundra starts and once a day; the last seven are kept. A song
        that you bring back comes beside what is there now, nothing is overwritten.
      </p>
      {backups.isPending && <Skeleton active paragraph={{ rows: 2 }} />}
      {backups.isError && (
        <Result
          status="warning"
          title="The backups could not be listed"
          subTitle={backups.error.message}
          extra={<Button onClick={() => void backups.refetch()}>Try again</Button>}
        />
      )}
      {backups.data?.length === 0 && (
        <Empty
          image={Empty.PRESENTED_IMAGE_SIMPLE}
          description="No backup yet. The first is made when Plundra is started again."
        />
      )}
      {backups.data && backup && (
        <>
          <Select
            aria-label="Backup"
            style={{ width: 300, marginBottom: 12 }}
            value={backup.name}
            options={backups.data.map(({ name, madeAt }) => ({ value: name, label: whenText(madeAt) }))}
            onChange={setChosen}
          />
          <SongsOf key={backup.name} backup={backup} onDone={onClose} />
        </>
      )}
    </Modal>
  );
}

const NOW_TEXT: Record<BackupSong['now'], string> = {
  'the same': 'not changed since',
  'changed since': 'changed since',
  'in the bin': 'in the bin now',
  gone: 'not there any more',
};

function SongsOf({ backup, onDone }: { backup: Backup; onDone: () => void }) {
  const { message } = App.useApp();
  const queries = useQueryClient();
  const songs = useQuery({
    queryKey: ['backups', backup.name],
    queryFn: () => api.backupSongs(backup.name),
    staleTime: 0,
  });
  const restore = useMutation({
    mutationFn: (song: BackupSong) => api.restoreFromBackup(backup.name, song.id),
    onSuccess: ({ song }) => {
      void queries.invalidateQueries({ queryKey: ['songs'] });
      void message.success(`“${song.title}” is among the songs.`, 4);
      onDone();
    },
    onError: (error: Error) => void message.error(error.message, 7),
  });
  if (songs.isPending) return <Skeleton active paragraph={{ rows: 3 }} />;
  if (songs.isError)
    return <Result status="warning" title="This backup could not be read" subTitle={songs.error.message} />;
  return (
    <Table
      size="small"
      rowKey="id"
      dataSource={songs.data}
      pagination={songs.data.length > 10 ? { pageSize: 10, showSizeChanger: false } : false}
      columns={[
        { title: 'Song', dataIndex: 'title', ellipsis: true },
        { title: 'Parts', dataIndex: 'partCount', align: 'right', width: 64 },
        {
          title: 'Changed',
          width: 170,
          render: (_, { updatedAt }) => <span className="numbers">{whenText(updatedAt)}</span>,
        },
        { title: 'Now', width: 150, render: (_, { now }) => <span className="quiet">{NOW_TEXT[now]}</span> },
        {
          title: '',
          align: 'right',
          width: 120,
          render: (_, song) => (
            <Button
              size="small"
              disabled={song.now === 'the same'}
              loading={restore.isPending && restore.variables.id === song.id}
              onClick={() => restore.mutate(song)}
            >
              Bring back
            </Button>
          ),
        },
      ]}
    />
  );
}
