import { memo, useDeferredValue, type ComponentType } from 'react';
import { SongContext, useSong } from './SongContext.tsx';

/**
 * Parts of the screen that hardly depend on an edit need not hold up its picture: they follow a moment later, when there is
 * nothing else to do. Its handlers may therefore see the song of a moment ago.
 */
export function deferred<Props extends object>(Component: ComponentType<Props>): ComponentType<Props> {
  const Shown = memo(Component) as unknown as ComponentType<Props>;
  return function Later(props: Props) {
    const shownProps = useDeferredValue(props);
    const shownSong = useDeferredValue(useSong());
    return (
      <SongContext.Provider value={shownSong}>
        <Shown {...shownProps} />
      </SongContext.Provider>
    );
  };
}
