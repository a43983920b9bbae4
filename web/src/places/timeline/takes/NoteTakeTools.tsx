/** What is done with takes of notes: find their phrases, print what was chosen. */
import { App, Button } from 'antd';
import { planPhraseCut, planPrintNotes, restsOf, type NotePart, type TakeTable } from '@plundra/core/song';
import { freeName } from '../../../song/newParts.ts';
import { useSong } from '../../../song/SongContext.tsx';

const createId = () => crypto.randomUUID();

export function NoteTakeTools({ part, table }: { part: NotePart; table: TakeTable }) {
  const { song, apply } = useSong();
  const { message } = App.useApp();
  const findPhrases = () => {
    const edit = planPhraseCut(song, part.id, table.phrases.flatMap(restsOf), createId);
    if (edit) apply(`Find the phrases of ${part.name}`.slice(0, 200), edit);
    else
      void message.info(
        'There is no further place where all takes rest. Cut the part with X where a phrase should end.',
        6,
      );
  };
  const print = () => {
    const name = freeName(song, `${part.name} printed`);
    const edit = planPrintNotes(song, part.id, name, createId);
    if (!edit) return void message.info('Nothing of this part is heard, so there is nothing to print.', 4);
    apply(`Print ${part.name}`.slice(0, 200), edit);
    void message.success(`${name} holds what was heard; ${part.name} is muted and still there.`, 5);
  };
  return (
    <>
      <Button size="small" onClick={findPhrases}>
        Find phrases
      </Button>
      <Button size="small" title="A new part with the notes that are heard of this one" onClick={print}>
        Print as one
      </Button>
    </>
  );
}
