/** A chord symbol set as in print: real ♯ and ♭, what follows the root raised, the bass after a slash. */
import { bassNameOf, NO_CHORD, prettyName, suffixOf, type ChordOrNone } from '@plundra/core/theory';

export function ChordName({ chord }: { chord: ChordOrNone }) {
  if (!chord) return <span className="chord-name">{NO_CHORD}</span>;
  const suffix = suffixOf(chord.degrees);
  // The m of minor chords stands on the line, the rest is raised.
  const minor = /^m(?!aj)/.test(suffix) ? 'm' : '';
  const raised = prettySuffix(suffix.slice(minor.length));
  return (
    <span className="chord-name">
      {prettyName(chord.root)}
      {minor}
      {raised && <sup>{raised}</sup>}
      {chord.bass && <span className="chord-bass">/{prettyName(bassNameOf(chord))}</span>}
    </span>
  );
}

/** "F♯m7♭5/C" in one line, for labels and lists. */
export function chordText(chord: ChordOrNone): string {
  if (!chord) return NO_CHORD;
  const bass = chord.bass ? `/${prettyName(bassNameOf(chord))}` : '';
  return `${prettyName(chord.root)}${prettySuffix(suffixOf(chord.degrees))}${bass}`;
}

/** "♭VII7♭5": a Roman numeral with the signs of print. */
export function numeralText(numeral: string): string {
  return numeral.replace(/b(?=[IViv\d])/g, '♭').replace(/#(?=[IViv\d])/g, '♯');
}

/** Accidentals stand before figures; the b of "sub" or "omit" is none. */
function prettySuffix(suffix: string): string {
  return suffix.replace(/b(?=\d)/g, '♭').replace(/#(?=\d)/g, '♯');
}
