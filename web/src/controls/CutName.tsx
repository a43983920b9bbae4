/** A name in one line; where it is too long the middle gives way, since names of parts often differ at their end. */
const KEPT_AT_END = 9;
/** Shorter names fit wherever they stand. */
const FITS = 16;

export function CutName({ name }: { name: string }) {
  if (name.length <= FITS) return name;
  const cut = name.length - KEPT_AT_END;
  return (
    <span className="cut-name" title={name}>
      <span>{name.slice(0, cut)}</span>
      <span>{name.slice(cut)}</span>
    </span>
  );
}
