/** The tools above the Timeline; painted again only when one of them changes, not while something is dragged. */
import { memo } from 'react';
import { InboxOutlined, UploadOutlined, ZoomInOutlined, ZoomOutOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import { zoomTime, type TimeView } from '../../canvas/view.ts';
import { Select } from '../../controls/index.tsx';
import { Overflow } from '../../controls/Overflow.tsx';
import type { Pictures } from './drawPassages.ts';
import type { Edges, Snap } from './passageTools.ts';
import type { RowHeight } from './useRowHeight.ts';

interface Props {
  partCount: number;
  edges: Edges;
  setEdges(edges: Edges): void;
  pictures: Pictures;
  setPictures(pictures: Pictures): void;
  rowHeight: RowHeight;
  setRowHeight(height: RowHeight): void;
  tempoShown: boolean;
  setTempoShown(shown: boolean): void;
  snap: Snap;
  setSnap(snap: Snap): void;
  setView(make: (old: TimeView) => TimeView): void;
  shelfOpen: boolean;
  setShelfOpen(open: boolean): void;
  onImport(): void;
}

export const TimelineTools = memo(function TimelineTools({
  partCount,
  edges,
  setEdges,
  pictures,
  setPictures,
  rowHeight,
  setRowHeight,
  tempoShown,
  setTempoShown,
  snap,
  setSnap,
  setView,
  shelfOpen,
  setShelfOpen,
  onImport,
}: Props) {
  return (
    <>
      <Button icon={<UploadOutlined />} type={partCount === 0 ? 'primary' : 'default'} onClick={onImport}>
        Import files
      </Button>
      <Button
        icon={<InboxOutlined />}
        aria-pressed={shelfOpen}
        type={shelfOpen ? 'primary' : 'default'}
        ghost={shelfOpen}
        onClick={() => setShelfOpen(!shelfOpen)}
      >
        Shelf
      </Button>
      <span className="gap" />
      <Overflow label="Edges, pictures, rows and snap">
        <Select
          aria-label="What dragging the edge of a passage does"
          size="small"
          value={edges}
          style={{ width: 132 }}
          onChange={setEdges}
          options={[
            { value: 'trim', label: 'Edges: trim' },
            { value: 'stretch', label: 'Edges: stretch' },
            { value: 'repeat', label: 'Edges: repeat' },
          ]}
        />
        <Select
          aria-label="What is drawn of recordings that were read"
          size="small"
          value={pictures}
          style={{ width: 136 }}
          onChange={setPictures}
          options={[
            { value: 'sound', label: 'Pictures: sound' },
            { value: 'notes', label: 'Pictures: notes' },
            { value: 'both', label: 'Pictures: both' },
          ]}
        />
        <Select
          aria-label="Height of the rows"
          size="small"
          value={rowHeight}
          style={{ width: 116 }}
          onChange={setRowHeight}
          options={[
            { value: 'low', label: 'Rows: low' },
            { value: 'middle', label: 'Rows: middle' },
            { value: 'tall', label: 'Rows: tall' },
          ]}
        />
        <Select
          aria-label="Snap"
          size="small"
          value={snap}
          style={{ width: 118 }}
          onChange={setSnap}
          options={[
            { value: 'auto', label: 'Snap: auto' },
            { value: 'bar', label: 'Snap: bar' },
            { value: 'beat', label: 'Snap: beat' },
            { value: 'off', label: 'Snap: off' },
          ]}
        />
      </Overflow>
      <Button
        size="small"
        aria-pressed={tempoShown}
        type={tempoShown ? 'primary' : 'default'}
        ghost={tempoShown}
        onClick={() => setTempoShown(!tempoShown)}
      >
        Tempo
      </Button>
      <Button
        type="text"
        aria-label="Zoom out"
        icon={<ZoomOutOutlined />}
        onClick={() => setView((old) => zoomTime(old, 1 / 1.4, 200))}
      />
      <Button
        type="text"
        aria-label="Zoom in"
        icon={<ZoomInOutlined />}
        onClick={() => setView((old) => zoomTime(old, 1.4, 200))}
      />
    </>
  );
});
