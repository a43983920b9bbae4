/** What a phrase plays over the chords of its place: its notes in small, those outside of the chord hatched. */
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { overChords, type ItemFit, type ShelfItem } from '@plundra/core/shelf';
import { chordText } from '../../song/ChordName.tsx';
import { useSong } from '../../song/SongContext.tsx';
import { colours, partColours } from '../../theme/tokens.ts';
import { MATERIAL_COLOURS } from './partOfItem.ts';
import { notesOfItem } from './useShelf.ts';

interface Props {
  item: ShelfItem;
  fit: ItemFit;
  atTicks: number;
}

const MOST_BARS = 4;
const WIDTH = 268;
const HEIGHT = 46;
const LEAST_RANGE = 12;

export function OverChordsPicture({ item, fit, atTicks }: Props) {
  const { song, time } = useSong();
  const queries = useQueryClient();
  const { data: notes } = useQuery({
    queryKey: ['shelf-notes-of', item.id],
    queryFn: () => notesOfItem(queries, item),
    enabled: item.sound.type === 'notes',
    staleTime: Infinity,
  });
  if (item.sound.type !== 'notes' || !notes) return null;
  const { bar } = time.barAt(atTicks);
  const most = time.barStartTicks(bar + MOST_BARS) - atTicks;
  const lengthTicks = Math.min(item.sound.lengthTicks, most);
  const found = overChords(song, notes, { atTicks, lengthTicks, semitones: fit.semitones });
  if (!found || found.notes.length === 0) return null;
  const pitches = found.notes.map(({ midi }) => midi);
  const middle = (Math.min(...pitches) + Math.max(...pitches)) / 2;
  const range = Math.max(LEAST_RANGE, Math.max(...pitches) - Math.min(...pitches));
  const x = (ticks: number) => (ticks / lengthTicks) * WIDTH;
  const y = (midi: number) => HEIGHT / 2 - ((midi - middle) / range) * (HEIGHT - 10);
  const colour = partColours[MATERIAL_COLOURS[item.material]];
  const lastBar = time.barAt(atTicks + lengthTicks - 1).bar;
  return (
    <div className="over-chords">
      <div className="names">
        {found.chords.map(({ startTicks, endTicks, chord }) => (
          <span key={startTicks} style={{ width: x(endTicks - startTicks) }}>
            {chordText(chord)}
          </span>
        ))}
      </div>
      <svg width={WIDTH} height={HEIGHT} aria-hidden>
        <defs>
          <pattern
            id="outside-chord"
            width="4"
            height="4"
            patternTransform="rotate(45)"
            patternUnits="userSpaceOnUse"
          >
            <rect width="4" height="4" fill={colours.panel} />
            <rect width="1.6" height="4" fill={colour} />
          </pattern>
        </defs>
        {found.chords.slice(1).map(({ startTicks }) => (
          <line
            key={startTicks}
            x1={x(startTicks)}
            x2={x(startTicks)}
            y1={0}
            y2={HEIGHT}
            stroke={colours.rules}
          />
        ))}
        {found.notes.map(({ startTicks, endTicks, midi, inChord }, i) => (
          <rect
            key={i}
            x={x(startTicks)}
            y={y(midi) - 2}
            width={Math.max(2, x(endTicks - startTicks) - 1)}
            height={4}
            fill={inChord ? colour : 'url(#outside-chord)'}
            stroke={colour}
            strokeWidth={inChord ? 0 : 0.8}
          />
        ))}
      </svg>
      <p className="quiet small">
        What it plays over the chords of {lastBar > bar ? `bars ${bar}–${lastBar}` : `bar ${bar}`}. Hatched:
        not in the chord.
      </p>
    </div>
  );
}
