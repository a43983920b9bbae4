export { chordNotes, RHYTHMS, type ChordNotesSettings, type Rhythm, type Strike } from './chordNotes.ts';
export { suggestChords, type Place, type Suggestion } from './suggestions.ts';
