/** The note that a tempo counts, drawn: a head, a stem, a flag for eighths, a dot. Its name is said beside it. */
export function BeatNote({ counts }: { counts: string }) {
  const value = counts.replace('dotted ', '');
  const open = value === 'half' || value === 'whole';
  const flagged = value === 'eighth' || value === 'sixteenth' || value === 'thirty-second';
  return (
    <svg width={14} height={16} viewBox="0 0 14 16" aria-hidden style={{ verticalAlign: -2 }}>
      <ellipse
        cx={4.5}
        cy={12.5}
        rx={3.4}
        ry={2.5}
        transform="rotate(-20 4.5 12.5)"
        fill={open ? 'none' : 'currentColor'}
        stroke="currentColor"
      />
      {value !== 'whole' && <path d="M7.6 11.5V1.5" stroke="currentColor" strokeWidth={1.2} fill="none" />}
      {flagged && <path d="M7.6 1.5c0 3 4 3 3 7" stroke="currentColor" strokeWidth={1.3} fill="none" />}
      {counts.startsWith('dotted') && <circle cx={11.5} cy={12} r={1.2} fill="currentColor" />}
    </svg>
  );
}
