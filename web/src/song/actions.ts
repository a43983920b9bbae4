/** Everything that can be done here, to be found by name: each place tells what it offers while it is open. */
import { createContext, useContext, useEffect } from 'react';

export interface Action {
  /** In our words. */
  label: string;
  /** How else the trade calls it, apart by blanks. */
  words?: string;
  /** The key that does the same. */
  keys?: string;
  /** Cannot be done now. */
  disabled?: boolean;
  run(): void;
}

export type ActionSources = Map<string, readonly Action[]>;

export const ActionsContext = createContext<ActionSources>(new Map());

/** Offers actions as long as the component is there. `source` names it. */
export function useActions(source: string, actions: readonly Action[]): void {
  const sources = useContext(ActionsContext);
  useEffect(() => {
    sources.set(source, actions);
    return () => {
      if (sources.get(source) === actions) sources.delete(source);
    };
  }, [sources, source, actions]);
}

const wordsOf = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}#♯♭]+/u)
    .filter(Boolean);

/**
 * Whether every typed word begins a word of an action, in any order: "glue pass" finds "Join passages", which is also called
 * "glue".
 */
export function isMeant({ label, words = '' }: Pick<Action, 'label' | 'words'>, typed: string): boolean {
  const own = wordsOf(`${label} ${words}`);
  return wordsOf(typed).every((word) => own.some((each) => each.startsWith(word)));
}

/** Those that are meant, with those first whose own name is meant; the order stays otherwise. */
export function findActions(actions: readonly Action[], typed: string): Action[] {
  const meant = actions.filter((action) => isMeant(action, typed));
  const byName = meant.filter(({ label }) => isMeant({ label }, typed));
  return [...byName, ...meant.filter((action) => !byName.includes(action))];
}
