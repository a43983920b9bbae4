/** The record of faults, to look at and to send along. */
import { Button, Empty, Modal, Result, Skeleton, Table } from 'antd';
import { useQuery } from '@tanstack/react-query';
import type { Fault } from '@plundra/contract';
import { api } from '../../api/client.ts';
import { saveFile } from '../../api/saveFile.ts';

export function FaultsDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const faults = useQuery({ queryKey: ['faults'], queryFn: api.faults, enabled: open, staleTime: 0 });
  const save = (list: readonly Fault[]) =>
    saveFile(
      'plundra-errors.json',
      'application/json',
      new TextEncoder().encode(JSON.stringify(list, null, 1)),
    );
  return (
    <Modal
      open={open}
      title="Error log"
      onCancel={onClose}
      width={720}
      footer={
        faults.data && faults.data.length > 0 ? (
          <Button onClick={() => save(faults.data)}>Save as a file</Button>
        ) : null
      }
    >
      <p className="quiet">
        What went wrong that nobody foresaw: when, where, and the place in the program. Nothing of your songs
        is in it, so it can be sent along when you ask for help.
      </p>
      {faults.isPending && <Skeleton active paragraph={{ rows: 2 }} />}
      {faults.isError && (
        <Result status="warning" title="The log could not be read" subTitle={faults.error.message} />
      )}
      {faults.data?.length === 0 && (
        <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description="Nothing has gone wrong so far." />
      )}
      {faults.data && faults.data.length > 0 && (
        <Table
          size="small"
          rowKey={({ at, where }) => `${at} ${where}`}
          dataSource={faults.data}
          pagination={faults.data.length > 8 ? { pageSize: 8, showSizeChanger: false } : false}
          expandable={{
            expandedRowRender: ({ stack }) => <pre className="fault-stack">{stack}</pre>,
            rowExpandable: ({ stack }) => Boolean(stack),
          }}
          columns={[
            {
              title: 'When',
              width: 170,
              render: (_, { at }) => (
                <span className="numbers">
                  {new Date(at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })}
                </span>
              ),
            },
            { title: 'Where', dataIndex: 'where', width: 160, ellipsis: true },
            { title: 'What', dataIndex: 'message', ellipsis: true },
          ]}
        />
      )}
    </Modal>
  );
}
