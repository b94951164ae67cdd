import { defineVuetifyConfiguration } from 'vuetify-nuxt-module/custom-configuration'

/** The two boards. The same colours reach the plain styles as `--v-theme-…` and the stage through `useBoard`. */
export default defineVuetifyConfiguration({
  icons: { defaultSet: 'mdi-svg' },
  theme: {
    defaultTheme: 'day',
    themes: {
      day: {
        dark: false,
        colors: {
          'background': '#F4EFE4', 'surface': '#FBF8F1', 'line': '#D9D0BE', 'rail': '#E8E0CD',
          'on-background': '#22303A', 'on-surface': '#22303A', 'quiet': '#5C6A70', 'field': '#FFFFFF',
          'primary': '#0E6E6E', 'on-primary': '#FFFFFF', 'header': '#0E4A4D', 'on-header': '#F4EFE4',
          'picked': '#D6336C', 'on-picked': '#FFFFFF', 'picture': '#F4EFE4', 'action': '#F2B441', 'on-action': '#22303A', 'error': '#B3261E',
          'axis-x': '#D55E00', 'axis-y': '#009E73', 'axis-z': '#0072B2',
        },
      },
      night: {
        dark: true,
        colors: {
          'background': '#171D21', 'surface': '#20282D', 'line': '#38444B', 'rail': '#2A343A',
          'on-background': '#EDE6D8', 'on-surface': '#EDE6D8', 'quiet': '#A3AEB2', 'field': '#171D21',
          'primary': '#4FB3AC', 'on-primary': '#10201F', 'header': '#0B2F32', 'on-header': '#EDE6D8',
          'picked': '#F0719B', 'on-picked': '#171D21', 'picture': '#5A6870', 'action': '#F2B441', 'on-action': '#22303A', 'error': '#FF8A80',
          'axis-x': '#F08A3C', 'axis-y': '#3CC79A', 'axis-z': '#56A8E0',
        },
      },
    },
  },
})
