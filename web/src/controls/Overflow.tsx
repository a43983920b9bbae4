/** Controls that stand in a row, and go into a menu where the window is too narrow for them: nothing vanishes. */
import { useSyncExternalStore, type ReactNode } from 'react';
import { EllipsisOutlined } from '@ant-design/icons';
import { Button, Popover } from 'antd';

const query = window.matchMedia('(max-width: 1000px)');
const subscribe = (listener: () => void) => {
  query.addEventListener('change', listener);
  return () => query.removeEventListener('change', listener);
};

/** @param label of the button that opens the menu */
export function Overflow({ label, children }: { label: string; children: ReactNode }) {
  const narrow = useSyncExternalStore(subscribe, () => query.matches);
  if (!narrow) return children;
  return (
    <Popover trigger="click" content={<div className="overflow-menu">{children}</div>}>
      <Button type="text" aria-label={label} title={label} icon={<EllipsisOutlined />} />
    </Popover>
  );
}
