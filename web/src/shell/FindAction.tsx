/** Find an action: a list of everything that can be done here, searched as one types; Enter does it. */
import { useMemo, useRef, useState } from 'react';
import { Modal, Select, type RefSelectProps } from 'antd';
import { findActions, type Action, type ActionSources } from '../song/actions.ts';

interface Props {
  sources: ActionSources;
  onClose(): void;
}

/** Mounted while it is open: what is offered is asked for once. */
export function FindAction({ sources, onClose }: Props) {
  const [typed, setTyped] = useState('');
  // What the open place offers comes before what can be done everywhere.
  const actions = useMemo(
    () =>
      [...sources].sort(([a], [b]) => Number(a === 'song') - Number(b === 'song')).flatMap(([, own]) => own),
    [sources],
  );
  const found = useMemo(() => findActions(actions, typed), [actions, typed]);
  const search = useRef<RefSelectProps>(null);
  const [list, setList] = useState<HTMLElement | null>(null);
  const take = (action: Action | undefined) => {
    if (!action || action.disabled) return;
    onClose();
    // The dialog has given the focus back by then.
    setTimeout(() => action.run());
  };
  return (
    <Modal
      open
      footer={null}
      title="Find an action"
      onCancel={onClose}
      width={560}
      // The dialog takes the focus first.
      afterOpenChange={(open) => open && search.current?.focus()}
    >
      <Select
        ref={search}
        open
        showSearch
        aria-label="Find an action"
        placeholder="What do you want to do? Join, quantize, copy …"
        style={{ width: '100%' }}
        value={null as string | null}
        searchValue={typed}
        onSearch={setTyped}
        filterOption={false}
        getPopupContainer={() => list ?? document.body}
        listHeight={320}
        notFoundContent={
          <span className="quiet">
            Nothing here is called that. Try another word, or open another place first.
          </span>
        }
        options={found.map((action) => ({
          value: String(actions.indexOf(action)),
          disabled: action.disabled,
          label: (
            <span className="row" style={{ minHeight: 22 }}>
              <span>{action.label}</span>
              {action.keys && (
                <kbd className="quiet" style={{ fontFamily: 'inherit' }}>
                  {action.keys}
                </kbd>
              )}
            </span>
          ),
        }))}
        onSelect={(value) => take(actions[Number(value)])}
        onInputKeyDown={(event) => {
          if (event.key === 'Escape') onClose();
        }}
      />
      <div ref={setList} style={{ position: 'relative', height: 330 }} />
    </Modal>
  );
}
