import '@fontsource-variable/atkinson-hyperlegible-mono/index.css';
import '@fontsource-variable/atkinson-hyperlegible-next/index.css';
import { createTheme, type Theme } from '@mui/material/styles';
import { basalt, daylight, type Tokens } from './tokens.ts';

declare module '@mui/material/styles' {
  interface Theme {
    tokens: Tokens;
  }
  interface ThemeOptions {
    tokens?: Tokens;
  }
}

/** Names, numbers and times. */
export const mono = "'Atkinson Hyperlegible Mono Variable', ui-monospace, monospace";
const sans = "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif";

/** The theme of a scheme: `daylight` or `basalt`. */
export function makeTheme(scheme: 'daylight' | 'basalt'): Theme {
  const tokens = scheme === 'daylight' ? daylight : basalt;
  return createTheme({
    tokens,
    palette: {
      mode: scheme === 'daylight' ? 'light' : 'dark',
      primary: { main: tokens.act, contrastText: tokens.onAct },
      warning: { main: tokens.doubt },
      error: { main: tokens.fault },
      background: { default: tokens.ground, paper: tokens.sheet },
      text: { primary: tokens.ink, secondary: tokens.soft },
      divider: tokens.rule,
      action: { active: tokens.soft },
    },
    shape: { borderRadius: 5 },
    typography: {
      fontFamily: sans,
      fontSize: 14,
      h1: { fontSize: 24, fontWeight: 650, lineHeight: 1.2, letterSpacing: '-0.01em' },
      h2: { fontSize: 12.5, fontWeight: 600, color: tokens.soft },
      body1: { fontSize: 14, lineHeight: 1.4 },
      body2: { fontSize: 13, lineHeight: 1.4 },
      button: { textTransform: 'none', fontWeight: 600, fontSize: 14 },
    },
    components: {
      MuiCssBaseline: {
        styleOverrides: {
          'html, body, #root': { height: '100%' },
          body: { fontVariantNumeric: 'tabular-nums' },
          ':focus-visible': { outline: `2px solid ${tokens.act}`, outlineOffset: 2 },
          '.mono': { fontFamily: mono, fontFeatureSettings: '"zero"' },
          // Grounds are the system's own then: what is chosen gets an edge, and pictures keep their colours.
          '@media (forced-colors: active)': {
            '[aria-selected=true], [aria-pressed=true], nav .active': {
              outline: '2px solid Highlight',
              outlineOffset: -2,
            },
            'canvas, img, video': { forcedColorAdjust: 'none' },
          },
          '@media (prefers-reduced-motion: reduce)': {
            '*': { animation: 'none !important', transition: 'none !important' },
          },
        },
      },
      MuiButton: {
        defaultProps: { disableElevation: true, disableRipple: true },
        styleOverrides: { root: { paddingInline: 18, whiteSpace: 'nowrap' } },
      },
      MuiIconButton: { defaultProps: { disableRipple: true } },
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiPaper: { styleOverrides: { root: { backgroundImage: 'none' } } },
      MuiPopover: {
        styleOverrides: {
          paper: { border: `1px solid ${tokens.ruleStrong}`, boxShadow: '0 8px 28px rgba(20,24,26,.18)' },
        },
      },
      MuiTooltip: { styleOverrides: { tooltip: { fontSize: 12.5 } } },
      MuiTextField: { defaultProps: { size: 'small' } },
      // Moved as a picture, not laid out anew for each step of the way.
      MuiLinearProgress: {
        styleOverrides: {
          indeterminate: {
            '@keyframes shale-way': { from: { transform: 'translateX(-100%)' }, to: { transform: 'translateX(250%)' } },
            '& .MuiLinearProgress-bar1': {
              width: '40%',
              left: 0,
              right: 'auto',
              animation: 'shale-way 1.6s linear infinite',
            },
            '& .MuiLinearProgress-bar2': { display: 'none' },
          },
        },
      },
    },
  });
}
