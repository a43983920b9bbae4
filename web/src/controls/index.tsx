/** The component library's controls as everything inside a song uses them: painted again only when they look different. */
import * as antd from 'antd';
import { still } from './still.tsx';

export { still } from './still.tsx';

export const Button = still(antd.Button);
export const Checkbox = still(antd.Checkbox);
export const Input = still(antd.Input);
export const InputNumber = still(antd.InputNumber);
export const Segmented = still(antd.Segmented);
export const Select = still(antd.Select);
export const Slider = still(antd.Slider);
export const Switch = still(antd.Switch);

/** A button that says in a bubble what it does. */
export const TipButton = still(function TipButton({ tip, ...button }: antd.ButtonProps & { tip: string }) {
  return (
    <antd.Tooltip title={tip}>
      <antd.Button {...button} />
    </antd.Tooltip>
  );
});
