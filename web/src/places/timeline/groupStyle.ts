import type { CSSProperties } from 'react';
import { partColours } from '../../theme/tokens.ts';

/** The colour of a group for the rows that stand in it; see global.css. */
export const groupStyle = (colour: number): CSSProperties =>
  ({ '--group-colour': partColours[colour] }) as CSSProperties;
