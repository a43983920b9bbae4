/** What can be done to the selected passages, by key, button or menu; a refusal is said. */
import { useMemo } from 'react';
import { App } from 'antd';
import { useNavigate } from 'react-router';
import {
  EditError,
  findPassages,
  planCopies,
  planJoin,
  planMove,
  planPassageRemoval,
  planRepeat,
  planSplit,
  planTransposePassages,
  withSpares,
  type Edit,
  type Found,
  type PassagePlace,
} from '@plundra/core/song';
import { keptItemOf } from '@plundra/core/shelf';
import { api } from '../../api/client.ts';
import { useSong } from '../../song/SongContext.tsx';
import { asAdded } from '../shelf/useAddToShelf.tsx';
import { keyOf, passagesFrom } from './passageTools.ts';

export interface PassageActions {
  /** The selected passages that are still there, in order of their start. */
  found: readonly Found[];
  /** Cuts the selected ones at a time, or one that is pointed at and not selected. */
  cut(atSeconds: number, pointed: PassagePlace | null): void;
  join(): void;
  duplicate(): void;
  /** Until a bar begins. */
  repeatUntil(bar: number): void;
  /** By semitones. */
  transpose(semitones: number): void;
  remove(): void;
  mute(): void;
  move(byTicks: number): void;
  moveSeconds(bySeconds: number): void;
  /** Everything that begins where the first of them does, or later. */
  selectFromHere(): void;
  open(): void;
  /** Puts them on the shelf, each as an item. */
  keep(): void;
}

/** "Verse", or "3 passages". */
export function namePassages(found: readonly Found[]): string {
  if (found.length !== 1) return `${found.length} passages`;
  return found[0].passage.name ? `“${found[0].passage.name}”` : `a passage of ${found[0].part.name}`;
}

const createId = () => crypto.randomUUID();

/** The passages that an edit adds. */
const madeBy = (edit: Edit): PassagePlace[] =>
  (edit.type === 'batch' ? edit.edits : [edit]).flatMap((each) =>
    each.type === 'passage.add' ? [{ partId: each.partId, passageId: each.passage.id }] : [],
  );

export function usePassageActions(
  selected: readonly PassagePlace[],
  select: (places: readonly PassagePlace[]) => void,
): PassageActions {
  const { song, time, apply } = useSong();
  const { message } = App.useApp();
  const navigate = useNavigate();
  const found = useMemo(() => findPassages(song, selected), [song, selected]);

  return useMemo(() => {
    const attempt = (label: string, make: () => Edit | undefined): boolean => {
      try {
        const edit = make();
        return edit !== undefined && apply(label.slice(0, 200), edit);
      } catch (error) {
        if (!(error instanceof EditError)) throw error;
        void message.warning(error.message, 6);
        return false;
      }
    };
    const copies = (label: string, make: () => ReturnType<typeof planCopies>) => {
      let places: PassagePlace[] = [];
      const taken = attempt(label, () => {
        const made = make();
        places = made?.places ?? [];
        return made?.edit;
      });
      if (taken) select(places);
      return taken;
    };
    const some = found.length > 0;
    return {
      found,
      cut(atSeconds, pointed) {
        const atTicks = Math.round(time.ticksAt(atSeconds));
        const isSelected = pointed && selected.some((each) => keyOf(each) === keyOf(pointed));
        const meant = pointed && !isSelected ? findPassages(song, [pointed]) : found;
        let edit: Edit | undefined;
        const taken = attempt(
          `Cut ${namePassages(meant)}`,
          () => (edit = planSplit(meant, atTicks, time, createId)),
        );
        // Behind the cut lies what one goes on with.
        if (taken && edit) select(madeBy(edit));
      },
      join() {
        const kept = new Map(found.toReversed().map(({ part, passage }) => [part.id, passage.id]));
        if (attempt(`Join ${namePassages(found)}`, () => planJoin(found, time)))
          select([...kept].map(([partId, passageId]) => ({ partId, passageId })));
      },
      duplicate() {
        if (some) copies(`Duplicate ${namePassages(found)}`, () => planCopies(found, 1, time, createId));
      },
      repeatUntil(bar) {
        const until = time.barStartTicks(bar);
        const before = selected;
        if (
          copies(`Repeat ${namePassages(found)} to bar ${bar}`, () =>
            planRepeat(found, until, time, createId),
          )
        )
          select(before);
        else if (some) void message.info(`They reach bar ${bar} already.`, 4);
      },
      transpose(semitones) {
        const size = Math.abs(semitones);
        const way = `${size} ${size === 1 ? 'semitone' : 'semitones'} ${semitones > 0 ? 'up' : 'down'}`;
        let places: readonly PassagePlace[] = [];
        const taken = attempt(`Transpose ${namePassages(found)} ${way}`, () => {
          const made = planTransposePassages(song, found, semitones, createId);
          places = made?.places ?? [];
          return made?.edit;
        });
        // One that shared its take has a name of its own now.
        if (taken) select(places);
      },
      remove() {
        if (attempt(`Remove ${namePassages(found)}`, () => planPassageRemoval(found))) select([]);
      },
      mute() {
        const muted = found.every(({ passage }) => passage.muted);
        attempt(`${muted ? 'Unmute' : 'Mute'} ${namePassages(found)}`, () => ({
          type: 'batch',
          edits: found.map(({ part, passage }) => ({
            type: 'passage.set',
            partId: part.id,
            passageId: passage.id,
            patch: { muted: muted ? null : true },
          })),
        }));
      },
      move: (byTicks) =>
        void attempt(`Move ${namePassages(found)}`, () => planMove(withSpares(found, time), byTicks)),
      moveSeconds(bySeconds) {
        const [first] = found;
        if (!first) return;
        const start = time.secondsAt(first.passage.startTicks);
        const by = time.ticksAt(Math.max(0, start + bySeconds)) - first.passage.startTicks;
        attempt(`Move ${namePassages(found)}`, () => planMove(withSpares(found, time), Math.round(by)));
      },
      selectFromHere() {
        if (found[0]) select(passagesFrom(song, found[0].passage.startTicks));
      },
      keep() {
        const kept = found.flatMap((each) => keptItemOf(song, each) ?? []);
        if (kept.length === 0)
          return void message.warning('There is nothing in it that could lie on the shelf.', 6);
        const put = async () => {
          for (const item of kept) await api.addToShelf(asAdded(item));
          const what = kept.length === 1 ? `“${kept[0].name}” is` : `${kept.length} passages are`;
          void message.success(`${what} on the shelf, as recorded or written.`, 4);
        };
        put().catch((error: unknown) => {
          void message.error(error instanceof Error ? error.message : 'It could not be kept. Try again.', 7);
        });
      },
      open() {
        const [first] = found;
        if (first) void navigate(`../notes/${first.part.id}?passage=${encodeURIComponent(first.passage.id)}`);
      },
    };
  }, [found, selected, select, song, time, apply, message, navigate]);
}
