/** Choosing a key from all of the circle of fifths, by its name with either sign. */
import { useCallback } from 'react';
import { keyName, keysOf, matchesKey, type Key } from '@plundra/core/theory';
import { Select } from '../controls/index.tsx';

const keyCode = ({ fifths, mode }: Key) => `${fifths}:${mode}`;

/** Round the circle of fifths, from no accidentals on: sharps and flats in turn. */
const inTurn = (a: Key, b: Key) => Math.abs(a.fifths) - Math.abs(b.fifths) || b.fifths - a.fifths;
const KEYS = new Map((['major', 'minor'] as const).flatMap(keysOf).map((key) => [keyCode(key), key]));
const KEY_OPTIONS = (['major', 'minor'] as const).map((mode) => ({
  label: mode === 'major' ? 'Major' : 'Minor',
  options: keysOf(mode)
    .sort(inTurn)
    .map((key) => ({ value: keyCode(key), label: keyName(key) })),
}));

function filterOption(typed: string, option?: { value?: string } | object): boolean {
  const key = option && 'value' in option ? KEYS.get(String(option.value)) : undefined;
  return key !== undefined && matchesKey(key, typed);
}

interface Props {
  value: Key | null;
  /** What no key is called. */
  none: string;
  /** The same where it stands alone, without a list around it. */
  noneShort: string;
  label: string;
  title?: string | undefined;
  className?: string;
  width: number;
  onChoose(key: Key | null): void;
}

export function KeySelect({ value, none, noneShort, label, title, className = '', width, onChoose }: Props) {
  // The same function as long as it draws the same: else the control would be painted with every edit.
  const labelRender = useCallback(
    ({ value: code }: { value?: string | number | undefined }) => {
      const key = KEYS.get(String(code));
      return key ? keyName(key) : noneShort;
    },
    [noneShort],
  );
  return (
    <Select
      className={className}
      aria-label={label}
      title={title}
      showSearch={{
        filterOption,
      }}
      value={value ? keyCode(value) : 'none'}
      options={[{ value: 'none', label: none }, ...KEY_OPTIONS]}
      popupMatchSelectWidth={150}
      style={{ width }}
      labelRender={labelRender}
      onChange={(chosen) => onChoose(KEYS.get(chosen) ?? null)}
    />
  );
}
