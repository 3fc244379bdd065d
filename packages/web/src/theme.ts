import { createVuetify } from 'vuetify';
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg';
import { COMPONENT_DEFAULTS } from './component-defaults.ts';

/**
 * Our two themes: ink on warm paper, and the same roles at night. `styles.css` has the tokens Vuetify has no name for.
 */
export const vuetify = createVuetify({
  theme: {
    defaultTheme: 'day',
    themes: {
      day: {
        dark: false,
        colors: {
          background: '#faf7f0',
          surface: '#faf7f0',
          'surface-variant': '#f3eee3',
          primary: '#0f5c63',
          secondary: '#5a6770',
          error: '#b83216',
          'on-background': '#1d2a33',
          'on-surface': '#1d2a33',
          'on-primary': '#faf7f0',
          'on-surface-variant': '#1d2a33',
        },
      },
      night: {
        dark: true,
        colors: {
          background: '#15191c',
          surface: '#15191c',
          'surface-variant': '#1e2428',
          primary: '#6fc3c2',
          secondary: '#a7b1b5',
          error: '#ff8a68',
          'on-background': '#ece6d8',
          'on-surface': '#ece6d8',
          'on-primary': '#15191c',
          'on-surface-variant': '#ece6d8',
        },
      },
    },
  },
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  defaults: COMPONENT_DEFAULTS,
});
