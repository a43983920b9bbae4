/** Deleted songs: brought back, or gone for good. */
import { App, Button, Empty, Modal, Popconfirm, Result, Skeleton, Table } from 'antd';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { BinnedSong } from '@plundra/contract';
import { api } from '../../api/client.ts';

const DAY_MS = 24 * 3600 * 1000;

/** "in 12 days", "today" */
export function daysLeft(goneAt: string, now: number): string {
  const days = Math.floor((Date.parse(goneAt) - now) / DAY_MS);
  return days < 1 ? 'today' : days === 1 ? 'tomorrow' : `in ${days} days`;
}

export function BinDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { message } = App.useApp();
  const queries = useQueryClient();
  const bin = useQuery({ queryKey: ['bin'], queryFn: api.bin, enabled: open, staleTime: 0 });
  const changed = () => {
    void queries.invalidateQueries({ queryKey: ['bin'] });
    void queries.invalidateQueries({ queryKey: ['songs'] });
  };
  const failed = (error: Error) => void message.error(error.message, 7);
  const restore = useMutation({
    mutationFn: (song: BinnedSong) => api.restoreSong(song.id),
    onSuccess: changed,
    onError: failed,
  });
  const remove = useMutation({
    mutationFn: (song: BinnedSong) => api.removeForGood(song.id),
    onSuccess: changed,
    onError: failed,
  });
  return (
    <Modal open={open} title="Bin" footer={null} onCancel={onClose} width={640}>
      {bin.isPending && <Skeleton active paragraph={{ rows: 2 }} />}
      {bin.isError && (
        <Result
          status="warning"
          title="The bin could not be looked into"
          subTitle={bin.error.message}
          extra={<Button onClick={() => void bin.refetch()}>Try again</Button>}
        />
      )}
      {bin.data?.length === 0 && (
        <Empty
          image={Empty.PRESENTED_IMAGE_SIMPLE}
          description="The bin is empty. A song that you delete stays here for 30 days."
        />
      )}
      {bin.data && bin.data.length > 0 && (
        <Table
          size="small"
          rowKey="id"
          dataSource={bin.data}
          pagination={bin.data.length > 10 ? { pageSize: 10, showSizeChanger: false } : false}
          columns={[
            { title: 'Song', dataIndex: 'title', ellipsis: true },
            { title: 'Parts', dataIndex: 'partCount', align: 'right', width: 64 },
            {
              title: 'Gone for good',
              width: 120,
              render: (_, song) => <span className="numbers">{daysLeft(song.goneAt, Date.now())}</span>,
            },
            {
              title: '',
              align: 'right',
              width: 210,
              render: (_, song) => (
                <span style={{ whiteSpace: 'nowrap' }}>
                  <Button size="small" onClick={() => restore.mutate(song)}>
                    Bring back
                  </Button>{' '}
                  <Popconfirm
                    title={`Delete “${song.title}” for good?`}
                    description="Its recordings go with it, unless another song uses them. Backups made before still hold it."
                    okText="Delete for good"
                    onConfirm={() => remove.mutate(song)}
                  >
                    <Button size="small" type="text" danger>
                      Delete for good
                    </Button>
                  </Popconfirm>
                </span>
              ),
            },
          ]}
        />
      )}
    </Modal>
  );
}
