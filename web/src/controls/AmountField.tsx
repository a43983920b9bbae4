/** A number that is typed with a point or a comma and set when the field is left; what lies outside its range is held within it. */
import { InputNumber } from 'antd';

interface AmountProps {
  label: string;
  value: number;
  min: number;
  max: number;
  decimals: number;
  suffix?: string;
  /** In pixels. */
  width?: number;
  disabled?: boolean;
  autoFocus?: boolean;
  /** Without: it has no arrows. */
  steps?: boolean;
  onSet(value: number): void;
}

export function AmountField(props: AmountProps) {
  const { label, value, min, max, decimals, suffix, width = 110, steps = true, onSet } = props;
  const shown = Number(value.toFixed(decimals));
  return (
    <InputNumber
      key={shown}
      aria-label={label}
      size="small"
      className="numbers"
      style={{ width }}
      defaultValue={shown}
      min={min}
      max={max}
      suffix={suffix}
      controls={steps}
      keyboard={steps}
      disabled={props.disabled}
      autoFocus={props.autoFocus}
      onBlur={(event) => {
        const typed = Number(event.target.value.replace(',', '.'));
        const held = Math.max(min, Math.min(max, typed));
        if (event.target.value.trim() !== '' && Number.isFinite(typed) && held !== shown) onSet(held);
      }}
      onPressEnter={(event) => (event.target as HTMLElement).blur()}
      onStep={(next) => onSet(Number(next))}
    />
  );
}
