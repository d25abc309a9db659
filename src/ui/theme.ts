'use client';

import { createTheme, type MantineColorsTuple } from '@mantine/core';

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

export const theme = createTheme({
  primaryColor: 'ink',
  colors: { ink },
  primaryShade: { light: 8, dark: 3 },
  autoContrast: true,
  fontFamily: "'Public Sans Variable', system-ui, sans-serif",
  headings: { fontFamily: "'Public Sans Variable', system-ui, sans-serif" },
  fontSizes: { xs: '12px', sm: '13px', md: '14px', lg: '15px', xl: '17px' },
  defaultRadius: 'sm',
  components: {
    Button: { defaultProps: { size: 'xs' } },
    TextInput: { defaultProps: { size: 'sm' } },
    Tooltip: { defaultProps: { openDelay: 300 } },
  },
});
