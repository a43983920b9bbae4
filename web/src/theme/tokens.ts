/** Colours and sizes of the whole interface, in one place: ink on score paper. */
import type { ThemeConfig } from 'antd';

export const colours = {
  paper: '#FBF8F1',
  panel: '#FFFFFF',
  rules: '#DED7C8',
  ink: '#24303A',
  quietInk: '#5F6972',
  plum: '#6D2E5B',
  plumWash: '#F3E8EF',
  sharp: '#D9792B',
  flat: '#3B6BA8',
  inTune: '#2C8576',
  laneIn: '#FFFEFA',
  laneOut: '#EFECE2',
  doubt: '#9A4F77',
  error: '#A63A2B',
};

/** Ten muted pigments of similar lightness that stay apart for colour-blind readers. */
export const partColours = [
  '#A0644E',
  '#4F7CAC',
  '#5E8C4A',
  '#8A5FA0',
  '#B58A1F',
  '#3E8E93',
  '#B0567A',
  '#7A7F3A',
  '#6B6FB3',
  '#8C6E52',
];

export const fontFamily = "'Source Sans 3', 'DejaVu Sans', 'Noto Sans', sans-serif";

export const theme: ThemeConfig = {
  // The styles are made when the interface is built (componentStyles.ts), for this name.
  zeroRuntime: true,
  hashed: false,
  cssVar: { key: 'plundra' },
  token: {
    colorPrimary: colours.plum,
    colorInfo: colours.plum,
    colorLink: colours.plum,
    colorSuccess: colours.inTune,
    colorWarning: '#A9621B',
    colorError: colours.error,
    colorText: colours.ink,
    colorTextSecondary: colours.quietInk,
    colorBorder: '#CFC6B4',
    colorBorderSecondary: colours.rules,
    colorBgLayout: colours.paper,
    colorBgContainer: colours.panel,
    borderRadius: 6,
    fontFamily,
    fontSize: 14,
    controlHeight: 32,
    motionDurationMid: '0.12s',
    motionDurationSlow: '0.16s',
  },
  components: {
    Slider: {
      trackBg: colours.plum,
      trackHoverBg: colours.plum,
      railBg: '#EDE6D8',
      handleColor: colours.plum,
    },
    Segmented: { itemSelectedBg: colours.plumWash, itemSelectedColor: colours.plum, trackBg: colours.paper },
    Button: { primaryShadow: 'none', defaultShadow: 'none' },
    Table: { headerBg: '#F4EFE3', headerSplitColor: 'transparent', rowHoverBg: '#FDFBF6' },
    Tooltip: { colorBgSpotlight: colours.ink },
  },
};
