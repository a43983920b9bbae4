/** What stands where the table has no rows: why, and what to do. */
import { Button, Flex, Spin } from 'antd';
import { EVERYTHING, type ShelfFilter } from '@plundra/core/shelf';

interface Props {
  itemCount: number;
  arriving: number;
  setFilter(change: Partial<ShelfFilter>): void;
}

export function EmptyShelf({ itemCount, arriving, setFilter }: Props) {
  if (itemCount > 0)
    return (
      <Flex vertical align="center" gap={8} className="empty-shelf">
        <span>Nothing on the shelf is like this.</span>
        <Button size="small" onClick={() => setFilter(EVERYTHING)}>
          Show all {itemCount}
        </Button>
      </Flex>
    );
  if (arriving > 0)
    return (
      <Flex vertical align="center" gap={8} className="empty-shelf">
        <Spin size="small" />
        <span>
          {arriving === 1 ? 'One item is' : `${arriving} items are`} being put here. You can work on
          meanwhile.
        </span>
      </Flex>
    );
  return (
    <div className="empty-shelf">
      The shelf is empty. Drop recordings or MIDI files here, or choose “Keep on the shelf” for a passage on
      the Timeline.
    </div>
  );
}
