/** The side sheet of Chords: the chosen chord, what else it could be, and making parts of chords. */
import { useMemo, useState, type RefObject } from 'react';
import { AutoComplete, Button, Input, type InputRef } from 'antd';
import {
  changeAt,
  isDoubtfulChord,
  keyAt,
  putChord,
  sectionFrom,
  splitChord,
  type ChordSpanOfSong,
} from '@plundra/core/song';
import {
  keyName,
  chordInKey,
  chordSymbol,
  noteNamesOf,
  parseChord,
  prettyName,
  type ChordOrNone,
} from '@plundra/core/theory';
import { BarsEditor } from '../../song/BarsEditor.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { ChordName, chordText, numeralText } from '../../song/ChordName.tsx';
import { ChordMap } from './ChordMap.tsx';
import { FollowSheet } from './FollowSheet.tsx';
import { UseChords } from './UseChords.tsx';
import { guessKeyOfChords } from '@plundra/core/reading';
import { enterFrom } from './sheetLayout.ts';
import type { ChordEditing } from './useChordEditing.ts';

interface Props extends ChordEditing {
  fieldRef: RefObject<HTMLInputElement | null>;
  hear(chord: ChordOrNone): void;
}

const createId = () => crypto.randomUUID();
const SECTION_NAMES = ['Intro', 'Verse', 'Chorus', 'Bridge', 'Solo', 'Outro'];

export function ChordSide(props: Props) {
  const { changes, spans, sections, selected, place, change, drop, copy, paste, nextDoubtful } = props;
  const { song, time } = useSong();
  const chosen = useMemo(() => spans.filter(({ change: each }) => selected.has(each.id)), [spans, selected]);
  const single = chosen.length === 1 ? chosen[0] : undefined;
  const doubtful = changes.filter(isDoubtfulChord).length;
  const placeKey = keyAt(song, place ?? 0);
  const { bar } = time.barAt(place ?? 0);
  const barStart = time.barStartTicks(bar);
  const sectionName = sectionFrom(sections, barStart)?.name ?? '';
  const nameWhenChanged = (name: string) => {
    if (name.trim() !== sectionName) props.nameSection(name);
  };
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
        {chosen.length > 1 ? `${chosen.length} chords` : single ? chordText(single.change.chord) : 'Chords'}
      </h2>
      {place === null ? (
        <p className="quiet">
          Click a bar or a beat and type a chord: a letter from A to G starts it, Enter goes on to the next
          bar. Arrows go from beat to beat, with Shift from bar to bar. Drag a chord to move it, or use Alt
          and the arrows.
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
      {place !== null && placeKey && (
        <ChordMap key={`map ${place}`} {...props} place={place} songKey={placeKey} />
      )}
      {!placeKey && changes.length > 0 && <FindKey spans={spans} />}
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
      {place !== null && (
        <>
          <h3>Bar {bar}</h3>
          <div className="row">
            <span className="label">Section from here</span>
            <AutoComplete
              // When bars move or a step is undone it says what is there now.
              key={`${barStart} ${sectionName}`}
              aria-label="Section"
              size="small"
              style={{ width: 140 }}
              placeholder="None"
              defaultValue={sectionName}
              options={SECTION_NAMES.map((value) => ({ value }))}
              onSelect={(value: string) => props.nameSection(value)}
              onBlur={(event) => nameWhenChanged((event.target as HTMLInputElement).value)}
              onKeyDown={(event) =>
                event.key === 'Enter' && nameWhenChanged((event.target as HTMLInputElement).value)
              }
            />
          </div>
          <BarsEditor bar={bar} chordsAlone />
        </>
      )}
      {changes.length > 0 && chosen.length === 0 && <FollowSheet />}
      {changes.length > 0 && (
        <UseChords spans={chosen.length > 0 ? chosen : spans} all={chosen.length === 0} />
      )}
    </aside>
  );
}

function TypedChord({ changes, place, fieldRef, change, goTo, hear }: Props & { place: number }) {
  const { time } = useSong();
  const there = changes.find(({ startTicks }) => startTicks === place);
  const held = changeAt(changes, place);
  const symbol = there ? chordSymbol(there.chord) : '';
  // The text being typed, as long as the chord it was begun on is there.
  const [draft, setDraft] = useState({ text: symbol, of: symbol });
  const text = draft.of === symbol ? draft.text : symbol;
  const parsed = text.trim() === '' ? null : parseChord(text);
  const error = parsed && 'error' in parsed ? parsed.error : null;
  const { bar, beat } = time.barAt(place);
  const set = () => {
    if (parsed && 'error' in parsed) return;
    if (parsed && text !== symbol) {
      hear(parsed.chord);
      change(`Chord ${chordText(parsed.chord)}`, putChord(changes, place, parsed.chord, createId));
    }
    fieldRef.current?.blur();
    goTo(enterFrom(time, place));
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
          onChange={(event) => setDraft({ text: event.target.value, of: symbol })}
          onPressEnter={set}
          onKeyDown={(event) => {
            if (event.key !== 'Escape') return;
            setDraft({ text: symbol, of: symbol });
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

/** Where degrees and the map would be. */
function FindKey({ spans }: Pick<Props, 'spans'>) {
  const { apply } = useSong();
  const [best] = guessKeyOfChords(
    spans.flatMap(({ change, startTicks, endTicks }) =>
      change.chord ? [{ chord: change.chord, weight: endTicks - startTicks }] : [],
    ),
  );
  return (
    <>
      <p className="quiet">
        No key is set, so there are no degrees and no map of other chords yet. Choose one at the top, or let
        it be found.
      </p>
      {best && (
        <Button
          block
          onClick={() =>
            apply(`Set key to ${keyName(best.key)}`, { type: 'song.set', patch: { key: best.key } })
          }
        >
          Find the key: {keyName(best.key)}
        </Button>
      )}
    </>
  );
}

function ChordFacts({ span: { change, startTicks } }: { span: ChordSpanOfSong }) {
  const { song } = useSong();
  const { chord, confidence } = change;
  if (!chord) return null;
  const key = keyAt(song, startTicks);
  const facts = key && chordInKey(chord, key);
  return (
    <>
      {facts && (
        <div className="row">
          <span className="label">In {keyName(key!)}</span>
          <span>
            {numeralText(facts.numeral)} · {facts.belongs}
          </span>
        </div>
      )}
      <div className="row">
        <span className="label">Notes</span>
        <span>{noteNamesOf(chord).map(prettyName).join(' ')}</span>
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
