/** The side sheet of Changes: the chord that is chosen, what else it could be, and putting chords to use. */
import { useState, type RefObject } from 'react';
import { Button, Input, type InputRef } from 'antd';
import { suggestChords } from '@plundra/core/arranging';
import {
  changeAt,
  isDoubtfulChord,
  putChord,
  splitChord,
  type Change,
  type ChangesChange,
  type ChordSpanOfSong,
} from '@plundra/core/song';
import {
  chordInKey,
  chordSymbol,
  noteNamesOf,
  parseChord,
  prettyName,
  type ChordFunction,
  type ChordOrNone,
} from '@plundra/core/theory';
import { useSong } from '../../song/SongContext.tsx';
import { ChordName, chordText } from '../../song/ChordName.tsx';
import { FollowSheet } from './FollowSheet.tsx';
import { UseChords } from './UseChords.tsx';

interface Props {
  changes: readonly Change[];
  spans: readonly ChordSpanOfSong[];
  selected: ReadonlySet<string>;
  place: number | null;
  fieldRef: RefObject<HTMLInputElement | null>;
  change(label: string, change: ChangesChange): void;
  goTo(ticks: number): void;
  hear(chord: ChordOrNone): void;
  copy(): void;
  paste(): void;
  drop(): void;
  nextDoubtful(direction: 1 | -1): void;
}

const createId = () => crypto.randomUUID();

export function ChordSide(props: Props) {
  const { changes, spans, selected, place, change, drop, copy, paste, nextDoubtful } = props;
  const { song, time } = useSong();
  const chosen = spans.filter(({ change: each }) => selected.has(each.id));
  const single = chosen.length === 1 ? chosen[0] : undefined;
  const doubtful = changes.filter(isDoubtfulChord).length;
  const merge = () => {
    const next = single && spans[spans.indexOf(single) + 1];
    if (next) change('Merge with the next chord', { remove: [next.change.id], put: [] });
  };
  const split = () => {
    const halves = single && splitChord(spans, single.change.id, time, createId);
    if (halves) change('Split chord', halves);
  };
  return (
    <aside className="side-sheet" aria-label="Chord">
      <h2>
        {chosen.length > 1 ? `${chosen.length} chords` : single ? chordText(single.change.chord) : 'Changes'}
      </h2>
      {place === null ? (
        <p className="quiet">
          Choose a chord or a bar. Typing a letter from A to G starts a chord there; arrows go from beat to
          beat, with Shift from bar to bar.
        </p>
      ) : (
        <TypedChord key={place} {...props} place={place} />
      )}
      {doubtful > 0 && (
        <div className="row">
          <span>{doubtful} doubtful</span>
          <Button size="small" title="Key N" onClick={() => nextDoubtful(1)}>
            Next doubtful
          </Button>
        </div>
      )}
      {single && <ChordFacts span={single} />}
      {single && <OtherReadings {...props} span={single} />}
      {place !== null && song.key && <WhatElse {...props} place={place} />}
      {chosen.length > 0 && (
        <>
          <h3>Actions</h3>
          <div className="actions" style={{ marginTop: 0 }}>
            {single && (
              <>
                <Button onClick={split}>Split</Button>
                <Button disabled={spans.at(-1) === single} onClick={merge}>
                  Merge with next
                </Button>
              </>
            )}
            <Button title="Ctrl + C" onClick={copy}>
              Copy
            </Button>
            <Button title="Ctrl + V" onClick={paste}>
              Paste
            </Button>
            <Button title="Key Delete" onClick={drop}>
              Remove
            </Button>
          </div>
        </>
      )}
      {changes.length > 0 && chosen.length === 0 && <FollowSheet />}
      {changes.length > 0 && (
        <UseChords spans={chosen.length > 0 ? chosen : spans} all={chosen.length === 0} />
      )}
    </aside>
  );
}

function TypedChord({ changes, place, fieldRef, change, goTo, hear, spans }: Props & { place: number }) {
  const { time } = useSong();
  const there = changes.find(({ startTicks }) => startTicks === place);
  const held = changeAt(changes, place);
  const [text, setText] = useState(there ? chordSymbol(there.chord) : '');
  const parsed = text.trim() === '' ? null : parseChord(text);
  const error = parsed && 'error' in parsed ? parsed.error : null;
  const { bar, beat } = time.barAt(place);
  const set = () => {
    if (!parsed || 'error' in parsed) return;
    hear(parsed.chord);
    change(`Chord ${chordText(parsed.chord)}`, putChord(changes, place, parsed.chord, createId));
    const next = spans.find(({ startTicks }) => startTicks > place);
    if (next) goTo(next.startTicks);
    fieldRef.current?.blur();
  };
  return (
    <>
      <div className="row">
        <span className="label numbers">
          Bar {bar}, beat {beat}
        </span>
        <Input
          ref={(input: InputRef | null) => {
            fieldRef.current = input?.input ?? null;
          }}
          aria-label="Chord"
          style={{ width: 140 }}
          placeholder={held && !there ? `${chordText(held.chord)} holds on` : 'Dm, F#m7b5, N.C.'}
          value={text}
          status={error ? 'error' : undefined}
          onChange={(event) => setText(event.target.value)}
          onPressEnter={set}
          onKeyDown={(event) => {
            if (event.key !== 'Escape') return;
            setText(there ? chordSymbol(there.chord) : '');
            event.currentTarget.blur();
          }}
        />
      </div>
      {error && (
        <p className="chord-error" role="alert">
          {error}
        </p>
      )}
    </>
  );
}

function ChordFacts({ span: { change } }: { span: ChordSpanOfSong }) {
  const { song } = useSong();
  const { chord, confidence } = change;
  if (!chord) return null;
  const facts = song.key && chordInKey(chord, song.key);
  return (
    <>
      {facts && (
        <div className="row">
          <span className="label">In the key</span>
          <span>
            {facts.numeral.replace(/b(?=[IViv])/g, '♭').replace(/#(?=[IViv])/g, '♯')} · {facts.belongs}
          </span>
        </div>
      )}
      <div className="row">
        <span className="label">Notes</span>
        <span>{noteNamesOf(chord, song.key).map(prettyName).join(' ')}</span>
      </div>
      {confidence !== undefined && (
        <div className="row">
          <span className="label">Sure</span>
          <span className="numbers">{Math.round(100 * confidence)} %</span>
        </div>
      )}
    </>
  );
}

/** The ranked alternatives of the reading; one click takes one. */
function OtherReadings({ span, change, hear, changes }: Props & { span: ChordSpanOfSong }) {
  const others = span.change.alternatives ?? [];
  if (others.length === 0) return null;
  return (
    <>
      <h3>Other readings</h3>
      <div className="chord-choices">
        {others.slice(0, 6).map(({ chord, score }, i) => (
          <Button
            key={i}
            size="small"
            title={`${Math.round(100 * score)} % · ${chordText(chord)}`}
            onClick={() => {
              hear(chord);
              change(`Read as ${chordText(chord)}`, putChord(changes, span.startTicks, chord, createId));
            }}
          >
            <ChordName chord={chord} />
          </Button>
        ))}
      </div>
    </>
  );
}

const FUNCTIONS: ChordFunction[] = ['home', 'away', 'leading'];

/**
 * The chord map: rows by what a chord does, from left to right how far the voices move. A click hears a chord in its
 * place, a second click takes it.
 */
function WhatElse({ changes, spans, place, change, hear }: Props & { place: number }) {
  const { song } = useSong();
  const [tried, setTried] = useState<string | null>(null);
  const here = changes.find(({ startTicks }) => startTicks === place);
  const index = spans.findIndex(({ startTicks }) => startTicks >= place);
  const before = index < 0 ? spans.at(-1) : index > 0 ? spans[index - 1] : undefined;
  const after = spans.find(({ startTicks }) => startTicks > place);
  const found = suggestChords({
    key: song.key!,
    before: before?.change.chord ?? null,
    here: here?.chord ?? null,
    after: after?.change.chord ?? null,
  });
  const reason = found.find(({ chord }) => chordSymbol(chord) === tried);
  return (
    <>
      <h3>What else could work</h3>
      {FUNCTIONS.map((does) => (
        <div className="chord-map-row" key={does}>
          <span className="label">{does}</span>
          <span className="chord-choices">
            {found
              .filter((each) => each.does === does)
              .slice(0, 6)
              .sort((a, b) => a.movement - b.movement)
              .map(({ chord, reasons }) => {
                const symbol = chordSymbol(chord);
                return (
                  <Button
                    key={symbol}
                    size="small"
                    type={tried === symbol ? 'primary' : 'default'}
                    title={reasons.join(', ')}
                    onClick={() => {
                      hear(chord);
                      if (tried !== symbol) return setTried(symbol);
                      setTried(null);
                      change(`Chord ${chordText(chord)}`, putChord(changes, place, chord, createId));
                    }}
                  >
                    <ChordName chord={chord} />
                  </Button>
                );
              })}
          </span>
        </div>
      ))}
      <p className="quiet" aria-live="polite">
        {reason
          ? `${chordText(reason.chord)}: ${reason.reasons.join(', ')}. Click again to take it.`
          : 'A click lets you hear one, a second click takes it. Left: voices move little.'}
      </p>
    </>
  );
}
