import { memo } from 'react';
import { BarsOutlined, InboxOutlined, LineChartOutlined, ProfileOutlined } from '@ant-design/icons';
import { NavLink } from 'react-router';
import { useSong } from '../song/SongContext.tsx';

/** The places of a song in the order of the work. */
export function Places() {
  const { song, listen } = useSong();
  return <Links openPart={listen.focusPartId ?? song.parts[0]?.id} inNotes={listen.focusPartId !== null} />;
}

/** Painted again only when they lead elsewhere, not with every edit. */
const Links = memo(function Links({ openPart, inNotes }: { openPart: string | undefined; inNotes: boolean }) {
  return (
    <nav className="places" aria-label="Places">
      <NavLink to="timeline">
        <BarsOutlined aria-hidden />
        Timeline
      </NavLink>
      <NavLink
        to={openPart ? `notes/${openPart}` : 'notes'}
        className={({ isActive }) => (isActive || inNotes ? 'active' : '')}
      >
        <LineChartOutlined aria-hidden />
        Notes
      </NavLink>
      <NavLink to="chords">
        <ProfileOutlined aria-hidden />
        Chords
      </NavLink>
      <NavLink to="shelf" className={({ isActive }) => (isActive ? 'apart active' : 'apart')}>
        <InboxOutlined aria-hidden />
        Shelf
      </NavLink>
    </nav>
  );
});
