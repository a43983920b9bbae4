/** Above the shelf: searching, filters, and putting files on it. */
import { useRef } from 'react';
import { PlusOutlined, SearchOutlined } from '@ant-design/icons';
import { Button, Dropdown, Input, Popover, Segmented, Select, Slider } from 'antd';
import { SHELF_KINDS, type ShelfFilter } from '@plundra/core/shelf';
import { KeySelect } from '../../song/KeySelect.tsx';

interface Props {
  filter: ShelfFilter;
  setFilter(change: Partial<ShelfFilter>): void;
  onAdd(files: readonly File[]): void;
  /** Beside the Timeline there is room for the search only. */
  narrow?: boolean;
}

const KIND_NAMES = { all: 'all', loop: 'loops', recording: 'recordings', phrase: 'phrases' } as const;
const LENGTHS: { value: string; label: string; bars: readonly [number, number] | null }[] = [
  { value: 'any', label: 'Any length', bars: null },
  { value: 'one', label: 'Up to a bar', bars: [0, 1] },
  { value: 'two', label: '2 bars', bars: [1.5, 2] },
  { value: 'four', label: '3 or 4 bars', bars: [2.5, 4] },
  { value: 'more', label: 'Over 4 bars', bars: [4.5, 10_000] },
];
const SLOWEST = 40;
const FASTEST = 220;

export function ShelfTools({ filter, setFilter, onAdd, narrow = false }: Props) {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const add = (list: FileList | null) => {
    if (list && list.length > 0) onAdd([...list]);
  };
  const length = LENGTHS.find(({ bars }) => bars === filter.bars) ?? LENGTHS[0];
  return (
    <div className={narrow ? 'shelf-tools narrow' : 'shelf-tools'}>
      <Input
        prefix={<SearchOutlined className="quiet" />}
        aria-label="Search the shelf"
        placeholder="Name, tag or sound"
        allowClear
        value={filter.text}
        onChange={(event) => setFilter({ text: event.target.value })}
        className="search"
      />
      {!narrow && (
        <>
          <Segmented
            aria-label="Kind"
            value={filter.kind}
            options={(['all', ...SHELF_KINDS] as const).map((value) => ({ value, label: KIND_NAMES[value] }))}
            onChange={(kind) => setFilter({ kind })}
          />
          <KeySelect
            label="Key of what is shown"
            value={filter.key}
            none="Any key"
            noneShort="Any key"
            width={104}
            onChoose={(key) => setFilter({ key })}
          />
          <Popover
            trigger="click"
            placement="bottom"
            content={
              <div style={{ width: 240 }}>
                <Slider
                  range
                  min={SLOWEST}
                  max={FASTEST}
                  ariaLabelForHandle={['Slowest tempo', 'Fastest tempo']}
                  value={filter.bpm ? [...filter.bpm] : [SLOWEST, FASTEST]}
                  onChange={([from, to]) =>
                    setFilter({ bpm: from <= SLOWEST && to >= FASTEST ? null : [from, to] })
                  }
                />
                <Button
                  size="small"
                  type="link"
                  disabled={!filter.bpm}
                  onClick={() => setFilter({ bpm: null })}
                >
                  Any tempo
                </Button>
              </div>
            }
          >
            <Button className="numbers">
              {filter.bpm ? `${filter.bpm[0]}–${filter.bpm[1]} bpm` : 'Any tempo'}
            </Button>
          </Popover>
          <Select
            aria-label="Length of what is shown"
            value={length.value}
            style={{ width: 122 }}
            options={LENGTHS.map(({ value, label }) => ({ value, label }))}
            onChange={(value) =>
              setFilter({ bars: LENGTHS.find((each) => each.value === value)?.bars ?? null })
            }
          />
        </>
      )}
      <input
        ref={files}
        type="file"
        hidden
        multiple
        aria-label="Files for the shelf"
        accept=".wav,.flac,.mp3,.ogg,.mid,.midi,.kar,.rmi,audio/*"
        onChange={(event) => {
          add(event.target.files);
          event.target.value = '';
        }}
      />
      <input
        ref={(element) => {
          folder.current = element;
          // Not an attribute that React knows.
          element?.setAttribute('webkitdirectory', '');
        }}
        type="file"
        hidden
        multiple
        aria-label="A folder for the shelf"
        onChange={(event) => {
          add(event.target.files);
          event.target.value = '';
        }}
      />
      <Dropdown
        trigger={['click']}
        menu={{
          items: [
            { key: 'files', label: 'Files…', onClick: () => files.current?.click() },
            { key: 'folder', label: 'A folder…', onClick: () => folder.current?.click() },
          ],
        }}
      >
        <Button icon={<PlusOutlined />} aria-label="Add to the shelf" style={{ marginLeft: 'auto' }}>
          {narrow ? '' : 'Add'}
        </Button>
      </Dropdown>
    </div>
  );
}
