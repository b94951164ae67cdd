import { defineVuetifyConfiguration } from 'vuetify-nuxt-module/custom-configuration'
import { palettes } from './app/stage/palette'

/** What a field looks like: small, with a line around it, and no room kept for messages below. */
const FIELD = { variant: 'outlined', density: 'compact', hideDetails: true, color: 'primary' } as const
const QUICK = { transition: false } as const

/** One hand for all controls. What differs from these is said where it does. */
export default defineVuetifyConfiguration({
  icons: { defaultSet: 'mdi-svg' },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'outlined', size: 'small', rounded: 'md' },
    VBtnToggle: { density: 'compact', rounded: 'md', color: 'primary', VBtn: { variant: 'text', size: 'small' } },
    VTextField: FIELD,
    VCombobox: { ...FIELD, menuProps: { ...QUICK, maxHeight: 340 } },
    VSelect: { ...FIELD, menuProps: { ...QUICK, maxHeight: 340 } },
    VAutocomplete: { ...FIELD, menuProps: { ...QUICK, maxHeight: 340 } },
    VTextarea: FIELD,
    VNumberInput: { ...FIELD, controlVariant: 'stacked' },
    VRadioGroup: { density: 'compact', hideDetails: true, color: 'primary' },
    VCheckbox: { density: 'compact', hideDetails: true, color: 'primary' },
    VSlider: { density: 'compact', hideDetails: true, color: 'primary', thumbSize: 12, trackSize: 3 },
    VList: { density: 'compact', slim: true },
    VMenu: QUICK,
    VTooltip: { ...QUICK, eager: false, openDelay: 450, location: 'bottom', offset: 6 },
    VDialog: { ...QUICK, scrim: '#22303A' },
    VAlert: { density: 'compact', variant: 'flat' },
    VCard: { elevation: 0, rounded: 'lg' },
  },
  theme: { defaultTheme: 'day', themes: palettes },
})
