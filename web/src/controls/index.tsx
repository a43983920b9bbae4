/** The component library's controls as everything inside a song uses them: painted again only when they look different. */
import * as antd from 'antd';
import { memoControl } from './memoControl.tsx';

export { memoControl } from './memoControl.tsx';

export const Button = memoControl(antd.Button);
export const Checkbox = memoControl(antd.Checkbox);
export const Input = memoControl(antd.Input);
export const InputNumber = memoControl(antd.InputNumber);
export const Segmented = memoControl(antd.Segmented);
export const Select = memoControl(antd.Select);
export const Slider = memoControl(antd.Slider);
export const Switch = memoControl(antd.Switch);

/** A button that says in a bubble what it does. */
export const TipButton = memoControl(function TipButton({
  tip,
  ...button
}: antd.ButtonProps & { tip: string }) {
  return (
    <antd.Tooltip title={tip}>
      <antd.Button {...button} />
    </antd.Tooltip>
  );
});
