import { theme, type ThemeConfig } from "antd";

/** Colours of workshop paper; amber and red speak for findings only. */
export const paper = {
  ground: "#f6f1e7",
  card: "#fdfbf6",
  line: "#d9d0bf",
  ink: "#1d1b18",
  faint: "#5d564b",
  accent: "#1f4a47",
  amber: "#8a5300",
  red: "#a12318",
};

/** The dark bench and the dark desk: near-black, light ink, the same accent lightened. */
export const bench = {
  ground: "#171614",
  card: "#22201d",
  line: "#4a453d",
  ink: "#f6f1e7",
  faint: "#b9b0a1",
  accent: "#8fd0c4",
  amber: "#f0b95a",
  red: "#ff9a8c",
};

/** Whether the reader wants things to stand still. */
export const standStill = window.matchMedia("(prefers-reduced-motion: reduce)").matches;

const shared = {
  motion: !standStill,
  fontFamily: '"Atkinson Hyperlegible Next Variable", sans-serif',
  borderRadius: 5,
  fontSize: 15,
  controlHeight: 36,
  wireframe: false,
};

function tokensOf(colours: typeof paper) {
  return {
    ...shared,
    colorPrimary: colours.accent,
    colorLink: colours.accent,
    colorInfo: colours.accent,
    colorSuccess: colours.accent,
    colorWarning: colours.amber,
    colorError: colours.red,
    colorTextBase: colours.ink,
    colorText: colours.ink,
    colorTextHeading: colours.ink,
    colorBgBase: colours.card,
    colorBgLayout: colours.ground,
    colorBorder: colours.line,
    colorTextPlaceholder: colours.faint,
    colorTextDescription: colours.faint,
  };
}

/** The desk's theme; as high as a finger needs where one is likely. */
export function deskTheme(isDark: boolean, byFinger: boolean): ThemeConfig {
  const colours = isDark ? bench : paper;
  const heights = byFinger ? { controlHeight: 44, controlHeightSM: 44 } : {};
  return {
    ...(isDark && { algorithm: theme.darkAlgorithm }),
    token: { ...tokensOf(colours), ...heights },
    components: {
      Table: { headerBg: colours.ground, cellPaddingBlock: 9 },
      Button: isDark ? { primaryColor: bench.ground, dangerColor: bench.ground } : {},
    },
  };
}

export const benchTheme: ThemeConfig = {
  algorithm: theme.darkAlgorithm,
  token: { ...tokensOf(bench), fontSize: 22, controlHeight: 72 },
  components: { Button: { primaryColor: bench.ground, dangerColor: bench.ground } },
};
