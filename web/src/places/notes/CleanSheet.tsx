/** The step Clean up: tools, doubtful notes, proposals. */
import { useMemo } from 'react';
import { EditOutlined, ScissorOutlined, SelectOutlined } from '@ant-design/icons';
import { Button, Segmented, Slider } from '../../controls/index.tsx';
import { proposalFor, proposalKindsOf, type OpenProposal } from './proposing.ts';
import type { LineSheetProps } from './LineSheet.tsx';
import { FollowRecording } from './FollowRecording.tsx';
import { SoundOfPart } from './SoundOfPart.tsx';

type Kind = OpenProposal['kind'];

interface Texts {
  title: string;
  one: string;
  many: string;
  verb: string;
  none: string;
}

const TEXTS: Record<Kind, Texts> = {
  join: {
    title: 'Broken notes',
    one: 'note broken into pieces',
    many: 'notes broken into pieces',
    verb: 'Join',
    none: 'no broken notes found',
  },
  ghosts: {
    title: 'Notes nobody played',
    one: 'note that nobody played',
    many: 'notes that nobody played',
    verb: 'Drop',
    none: 'none found',
  },
  octave: {
    title: 'Wrong octave',
    one: 'note an octave off',
    many: 'notes an octave off',
    verb: 'Fix',
    none: 'no octave faults found',
  },
  doubles: {
    title: 'Octave doubles',
    one: 'note that is a harmonic of another',
    many: 'notes that are harmonics of others',
    verb: 'Drop',
    none: 'no octave doubles found',
  },
  faint: {
    title: 'Fainter notes',
    one: 'fainter note could be added',
    many: 'fainter notes could be added',
    verb: 'Add',
    none: 'none to add',
  },
  duplicates: {
    title: 'Duplicates',
    one: 'note found twice',
    many: 'notes found twice',
    verb: 'Drop',
    none: 'nothing found twice',
  },
};
/** What is offered is shown whole, what is suspected in half. */
const firstAmountOf = (kind: Kind) => (kind === 'faint' ? 100 : 50);

/** The same of drums, which have hits. */
function ofHits({ one, many, none, title, verb }: Texts): Texts {
  const said = (text: string) => text.replace('note', 'hit').replace('Note', 'Hit');
  return { title: said(title), one: said(one), many: said(many), verb, none: said(none) };
}

const idsOf = (notes: readonly { id: string }[]) => new Set(notes.map(({ id }) => id));

/** Tools, doubtful notes and the automatic proposals. */
export function CleanSheet({
  part,
  passage,
  editing,
  contour,
  contours,
  tool,
  setTool,
  proposals,
  change,
  setSelected,
  doubtful,
}: LineSheetProps) {
  const { open: proposal, preview, faint, show: setProposal, take: applyProposal } = proposals;
  const line = passage.type === 'recording' ? passage.line : null;
  const kinds = useMemo(() => (line ? proposalKindsOf(line) : []), [line]);
  const counts = useMemo(() => {
    if (!line) return null;
    return Object.fromEntries(
      kinds.map((kind) => [
        kind,
        proposalFor(line, contour, faint, {
          kind,
          amount: proposal?.kind === kind ? proposal.amount : firstAmountOf(kind),
        })?.count ?? 0,
      ]),
    ) as Record<Kind, number>;
  }, [line, kinds, contour, faint, proposal]);
  const hits = line?.reads === 'hits';
  const textOf = (kind: Kind) => (hits ? ofHits(TEXTS[kind]) : TEXTS[kind]);
  const proposed = proposal && textOf(proposal.kind);
  const inDoubt = editing?.notes.filter((note) => note.doubtful) ?? [];
  return (
    <>
      <h2>{line ? 'Clean up' : 'Notes'}</h2>
      <Segmented
        block
        aria-label="Tool"
        style={{ marginTop: 8 }}
        value={tool}
        onChange={setTool}
        options={[
          { value: 'select', label: 'Select', icon: <SelectOutlined />, disabled: !editing },
          { value: 'draw', label: 'Draw', icon: <EditOutlined />, disabled: !editing },
          { value: 'cut', label: 'Cut', icon: <ScissorOutlined />, disabled: !editing },
        ]}
      />
      {line && (
        <>
          <h3>Doubtful {hits ? 'hits' : 'notes'}</h3>
          <div className="row">
            <span>{inDoubt.length === 0 ? 'None left' : `${inDoubt.length}, hatched`}</span>
            <Button
              type={inDoubt.length > 0 ? 'primary' : 'default'}
              disabled={inDoubt.length === 0}
              onClick={() => doubtful.goTo(1)}
              title="Key N"
            >
              Next doubtful
            </Button>
          </div>
          {editing?.keep && inDoubt.length > 0 && (
            <>
              <p className="quiet" style={{ margin: '4px 0' }}>
                Right: Keep (key K). Wrong: Drop (Delete).
              </p>
              <div className="actions" style={{ marginTop: 0 }}>
                <Button size="small" onClick={() => setSelected(idsOf(inDoubt))}>
                  Select all
                </Button>
                <Button size="small" onClick={() => change(editing.keep?.(idsOf(inDoubt)))}>
                  Keep all {inDoubt.length}
                </Button>
              </div>
            </>
          )}
          <h3>Proposals</h3>
          {kinds.map((kind) => {
            const text = textOf(kind);
            const count = counts?.[kind] ?? 0;
            const open = proposal?.kind === kind;
            return (
              <div key={kind} style={{ marginBottom: 6 }} data-testid={`proposal-${kind}`}>
                <div className="row">
                  <span style={{ minWidth: 0 }}>
                    <div style={{ fontWeight: 600 }}>{text.title}</div>
                    <div className="quiet numbers" style={{ fontSize: 13 }}>
                      {count === 0 ? text.none : `${count} ${count === 1 ? text.one : text.many}`}
                    </div>
                  </span>
                  <Button
                    size="small"
                    aria-expanded={open}
                    onClick={() => setProposal(open ? null : { kind, amount: firstAmountOf(kind) })}
                  >
                    {open ? 'Close' : 'Show'}
                  </Button>
                </div>
              </div>
            );
          })}
          {/* Below all of them, so that none moves away under the pointer. */}
          {proposal && proposed && (
            <div data-testid="proposal">
              <div className="row">
                <span className="label" style={{ fontSize: 13 }}>
                  Few
                </span>
                <Slider
                  ariaLabelForHandle={`How much counts as ${proposed.title.toLowerCase()}`}
                  style={{ flex: 1 }}
                  min={0}
                  max={100}
                  value={proposal.amount}
                  onChange={(amount) => setProposal({ ...proposal, amount })}
                  tooltip={{ open: false }}
                />
                <span className="label" style={{ fontSize: 13 }}>
                  Many
                </span>
              </div>
              <Button block type="primary" disabled={!preview || preview.count === 0} onClick={applyProposal}>
                {proposed.verb} {preview?.count ?? 0}
              </Button>
            </div>
          )}
        </>
      )}
      {part.kind !== 'recording' && <FollowRecording part={part} contours={contours} />}
      {part.kind === 'notes' && <SoundOfPart part={part} />}
      <p className="quiet" style={{ marginTop: 14 }}>
        {line
          ? 'Drag a note to move it, its edges to trim it; drag over empty space to select. Draw works over the waveform too.'
          : 'Drag a bar to move it, its edges to trim it, the stem at its start for velocity.'}
      </p>
    </>
  );
}
