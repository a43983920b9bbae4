/** Side sheet of an item: what it is, and below how it goes into the song. */
import type { ReactNode } from 'react';
import { CloseOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import type { ShelfItem } from '@plundra/core/shelf';
import { partColours } from '../../theme/tokens.ts';
import { ItemFacts } from './ItemFacts.tsx';
import { MATERIAL_COLOURS } from './partOfItem.ts';
import type { useShelf } from './useShelf.ts';

interface Props {
  item: ShelfItem;
  shelf: ReturnType<typeof useShelf>;
  onTakeOff(item: ShelfItem): void;
  onClose(): void;
  children?: ReactNode;
}

export function ItemSheet({ item, shelf, onTakeOff, onClose, children }: Props) {
  const what = item.kind[0].toUpperCase() + item.kind.slice(1);
  return (
    <aside className="side-sheet item-sheet" aria-label="Side sheet">
      <div className="item-head">
        <span className="item-colour" style={{ background: partColours[MATERIAL_COLOURS[item.material]] }} />
        <span className="quiet">{item.material === 'other' ? what : `${what} · ${item.material}`}</span>
        <span style={{ flex: 1 }} />
        <Button type="text" size="small" aria-label="Close" icon={<CloseOutlined />} onClick={onClose} />
      </div>
      <ItemFacts
        item={item}
        onChange={(change) => shelf.change({ id: item.id, change })}
        onTakeOff={() => onTakeOff(item)}
        onListen={() => shelf.listen(item.id)}
      />
      {children}
    </aside>
  );
}
