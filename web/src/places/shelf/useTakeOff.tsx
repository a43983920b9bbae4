/** Taking an item off the shelf, with a way back. */
import { useCallback } from 'react';
import { App, Button } from 'antd';
import type { ShelfItem } from '@plundra/core/shelf';

export function useTakeOff(takeOff: (item: ShelfItem) => void, putBack: (id: string) => void) {
  const { notification } = App.useApp();
  return useCallback(
    (item: ShelfItem) => {
      takeOff(item);
      const key = `off-${item.id}`;
      notification.info({
        key,
        title: `“${item.name}” is off the shelf`,
        description: 'Songs that took it keep it.',
        duration: 12,
        actions: (
          <Button
            size="small"
            type="primary"
            onClick={() => {
              notification.destroy(key);
              putBack(item.id);
            }}
          >
            Undo
          </Button>
        ),
      });
    },
    [takeOff, putBack, notification],
  );
}
