import { memo, type ComponentType } from 'react';
import { SongContext, useSong } from './SongContext.tsx';
import { useLater } from './useLater.ts';

/**
 * Parts of the screen that hardly depend on an edit need not hold up its picture: they follow a moment later, when there is
 * nothing else to do, or when someone acts. What happens without a click or a key may find the song of a moment ago in them.
 */
export function deferred<Props extends object>(Component: ComponentType<Props>): ComponentType<Props> {
  const Shown = memo(Component) as unknown as ComponentType<Props>;
  return function Later(props: Props) {
    const shownProps = useLater(props);
    const shownSong = useLater(useSong());
    return (
      <SongContext.Provider value={shownSong}>
        <Shown {...shownProps} />
      </SongContext.Provider>
    );
  };
}
