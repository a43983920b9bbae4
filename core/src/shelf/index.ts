export {
  isPitched,
  LONGEST_TAG,
  MAX_TAGS,
  phraseNotesSchema,
  PICTURE_COLUMNS,
  pictureOfNotes,
  SHELF_KINDS,
  shelfFactsSchema,
  shelfItemSchema,
  shelfMetreSchema,
  type ShelfFacts,
  type ShelfItem,
  type ShelfKind,
  type ShelfMetre,
  type ShelfSound,
} from './item.ts';
export {
  fitDistance,
  fitItem,
  itemBars,
  itemLengthTicks,
  songPlace,
  type FitWish,
  type ItemFit,
  type SongPlace,
} from './fit.ts';
export { itemSong } from './itemSong.ts';
export { overChords } from './overChords.ts';
export { planPutIn, takesItem, type PutIn, type PutInPlan } from './putIn.ts';
export { keptItemOf, type KeptItem } from './keep.ts';
export { EVERYTHING, filterItems, type ShelfFilter } from './search.ts';
export { bpmInName, keySaid, tempoSaid, type TempoSaid } from './saidByName.ts';
