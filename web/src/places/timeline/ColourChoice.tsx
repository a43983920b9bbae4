/** The ten colours of parts and passages. */
import { partColours } from '../../theme/tokens.ts';

interface Props {
  /** Said before the number of each. */
  label?: string;
  value: number;
  onChoose(colour: number): void;
}

export function ColourChoice({ label = 'Colour', value, onChoose }: Props) {
  return (
    <span style={{ display: 'flex', flexWrap: 'wrap', justifyContent: 'flex-end', gap: 4 }}>
      {partColours.map((colour, i) => (
        <button
          key={colour}
          aria-label={`${label} ${i + 1}`}
          aria-pressed={value === i}
          onClick={() => onChoose(i)}
          style={{
            width: 17,
            height: 17,
            borderRadius: 4,
            border: value === i ? '2px solid #24303A' : '1px solid #0002',
            background: colour,
            cursor: 'pointer',
            padding: 0,
          }}
        />
      ))}
    </span>
  );
}
