/** The menu of a right click on the Timeline: what can be done with the passages there. */
import { useState, type ReactElement } from 'react';
import { Dropdown, type MenuProps } from 'antd';
import type { PassageActions } from './usePassageActions.ts';

interface Props {
  actions: PassageActions;
  /** Selects what was clicked on; the time of the song there. */
  onOpenAt(clientX: number, clientY: number): number;
  children: ReactElement;
}

export function PassageMenu({ actions, onOpenAt, children }: Props) {
  const [atSeconds, setAtSeconds] = useState(0);
  const none = actions.found.length === 0;
  const muted = actions.found.length > 0 && actions.found.every(({ passage }) => passage.muted);
  const items: MenuProps['items'] = [
    { key: 'cut', label: 'Cut here', extra: 'X', onClick: () => actions.cut(atSeconds, null) },
    { key: 'join', label: 'Join', extra: 'J', disabled: actions.found.length < 2, onClick: actions.join },
    { key: 'duplicate', label: 'Duplicate', extra: 'Ctrl D', onClick: actions.duplicate },
    { key: 'mute', label: muted ? 'Unmute' : 'Mute', onClick: actions.mute },
    {
      key: 'from',
      label: 'Select everything from here on',
      extra: 'Shift End',
      onClick: actions.selectFromHere,
    },
    { key: 'keep', label: 'Keep on the shelf', onClick: actions.keep },
    { type: 'divider' },
    { key: 'open', label: 'Open in Notes', extra: 'Enter', onClick: actions.open },
    { key: 'remove', label: 'Remove', extra: 'Delete', danger: true, onClick: actions.remove },
  ];
  const empty: MenuProps['items'] = [
    { key: 'none', label: 'Right-click a passage to arrange it', disabled: true },
  ];
  return (
    <Dropdown trigger={['contextMenu']} menu={{ items: none ? empty : items }}>
      <div
        style={{ display: 'contents' }}
        onContextMenu={(event) => setAtSeconds(onOpenAt(event.clientX, event.clientY))}
      >
        {children}
      </div>
    </Dropdown>
  );
}
