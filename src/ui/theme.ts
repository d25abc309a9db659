'use client';

import { createTheme, type CSSVariablesResolver, type MantineColorsTuple } from '@mantine/core';

const ink: MantineColorsTuple = [
  '#eef4f8',
  '#dcebf3',
  '#b7d2e2',
  '#8fb8d1',
  '#6ea3c3',
  '#4d89b0',
  '#2f6f9a',
  '#1e5b86',
  '#12344d',
  '#0d2739',
];

/** Surfaces of the dark scheme, blue as the night sea. */
const dark: MantineColorsTuple = [
  '#e3ecf3',
  '#c3d2de',
  '#a5b8c7',
  '#8496a5',
  '#2f4658',
  '#26394a',
  '#182c3b',
  '#0e1c28',
  '#0b1620',
  '#081018',
];

export const theme = createTheme({
  primaryColor: 'ink',
  colors: { ink, dark },
  primaryShade: { light: 8, dark: 6 },
  fontFamily: "'Public Sans Variable', system-ui, sans-serif",
  headings: { fontFamily: "'Public Sans Variable', system-ui, sans-serif" },
  fontSizes: { xs: '12px', sm: '13px', md: '14px', lg: '15px', xl: '17px' },
  defaultRadius: 'sm',
  components: {
    Button: { defaultProps: { size: 'xs' } },
    // Nothing is smaller than 12 px.
    InputWrapper: {
      vars: () => ({
        label: {},
        error: { '--input-error-size': '12px' },
        description: { '--input-description-size': '12px' },
      }),
    },
    Drawer: { defaultProps: { closeButtonProps: { 'aria-label': 'Close' } } },
    // Dialogs come and go at once: a key that is pressed meanwhile would go to what is fading.
    Modal: { defaultProps: { closeButtonProps: { 'aria-label': 'Close' }, transitionProps: { duration: 0 } } },
    Notification: {
      defaultProps: { closeButtonProps: { 'aria-label': 'Close' } },
      styles: { description: { color: 'var(--muted)' } },
    },
    // Tables of the screens: close rows, so that a screenful says much.
    Table: { defaultProps: { fz: 13, verticalSpacing: 4, horizontalSpacing: 8 } },
    TextInput: { defaultProps: { size: 'sm' } },
    Tooltip: { defaultProps: { openDelay: 300 } },
  },
});

/** Where Mantine's own colours have too little contrast on our grounds. */
export const cssVariables: CSSVariablesResolver = () => ({
  variables: {},
  light: {
    '--mantine-color-error': '#b3261e',
    '--mantine-color-dimmed': '#50657a',
    '--mantine-color-anchor': '#2f6f9a',
  },
  dark: {
    '--mantine-color-error': '#ff8a80',
    '--mantine-color-dimmed': '#a5b8c7',
    '--mantine-color-anchor': '#6eaed8',
  },
});
