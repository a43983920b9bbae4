/** What lies on the shelf, for every page that shows it. */
import { useEffect } from 'react';
import { useMutation, useQuery, useQueryClient, type QueryClient } from '@tanstack/react-query';
import { App } from 'antd';
import type { ChangeShelfItem } from '@plundra/contract';
import type { ShelfItem } from '@plundra/core/shelf';
import type { Note } from '@plundra/core/song';
import { api } from '../../api/client.ts';
import { listenToServer } from '../../api/events.ts';

const SHELF = ['shelf'];
const NO_ITEMS: readonly ShelfItem[] = [];

type Listed = Awaited<ReturnType<typeof api.shelf>>;

export function useShelf() {
  const queries = useQueryClient();
  const { message } = App.useApp();
  const shelf = useQuery({ queryKey: SHELF, queryFn: api.shelf });
  useEffect(() => {
    const reload = () => void queries.invalidateQueries({ queryKey: SHELF });
    return listenToServer((event) => event.type === 'shelf' && reload(), reload);
  }, [queries]);
  const failed = (error: Error) => {
    void message.error(error.message, 7);
    void queries.invalidateQueries({ queryKey: SHELF });
  };
  const { mutate: change } = useMutation({
    mutationFn: ({ id, change }: { id: string; change: ChangeShelfItem }) => api.changeShelfItem(id, change),
    onSuccess: (item) => putItem(queries, item),
    onError: failed,
  });
  const { mutate: takeOff } = useMutation({
    mutationFn: (item: ShelfItem) => api.takeOffShelf(item.id),
    onError: failed,
  });
  const { mutate: putBack } = useMutation({
    mutationFn: (id: string) => api.putBackOnShelf(id),
    onError: failed,
  });
  const { mutate: listen } = useMutation({
    mutationFn: (id: string) => api.listenToItem(id),
    onSuccess: (item) => putItem(queries, item),
    onError: failed,
  });
  return {
    items: shelf.data?.items ?? NO_ITEMS,
    arriving: shelf.data?.arriving ?? 0,
    loading: shelf.isPending,
    error: shelf.error,
    retry: () => void shelf.refetch(),
    change,
    takeOff,
    putBack,
    listen,
  };
}

/** Seen at once; the list itself follows with the server's word. */
function putItem(queries: QueryClient, item: ShelfItem): void {
  queries.setQueryData<Listed>(
    SHELF,
    (old) => old && { ...old, items: old.items.map((each) => (each.id === item.id ? item : each)) },
  );
}

/** The notes of a phrase; undefined for a recording. */
export async function notesOfItem(queries: QueryClient, item: ShelfItem): Promise<Note[] | undefined> {
  if (item.sound.type !== 'notes') return undefined;
  return queries.fetchQuery({
    queryKey: ['shelf-notes', item.id],
    queryFn: () => api.shelfNotes(item.id),
    staleTime: Infinity,
  });
}
