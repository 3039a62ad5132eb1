/** Colours by what they mean; both themes carry the same names. */
const light = {
  background: '#F4F3EE',
  surface: '#FFFFFF',
  'on-surface': '#18262B',
  'on-background': '#18262B',
  primary: '#0E5A63',
  flow: '#12806F',
  copper: '#9A5117',
  break: '#A1203F',
  capped: '#66757A',
  error: '#A1203F',
  warning: '#9A5117',
  success: '#12806F',
}

const dark = {
  background: '#10191C',
  surface: '#182428',
  'on-surface': '#E4EAEA',
  'on-background': '#E4EAEA',
  primary: '#5CB8C2',
  flow: '#3CBFA8',
  copper: '#E09A57',
  break: '#F0829B',
  capped: '#8FA0A5',
  error: '#F0829B',
  warning: '#E09A57',
  success: '#3CBFA8',
}

/** Density, radius and colours of every control, set once. */
export const vuetifyTheme = {
  icons: { defaultSet: 'mdi-svg' as const },
  theme: {
    defaultTheme: 'light',
    themes: { light: { dark: false, colors: light }, dark: { dark: true, colors: dark } },
  },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'outlined', color: 'primary', height: 30, rounded: 'md', class: 'text-none' },
    VTextField: { variant: 'outlined', density: 'compact', color: 'primary', hideDetails: 'auto' },
    VTextarea: { variant: 'outlined', density: 'compact', color: 'primary', hideDetails: 'auto' },
    VSelect: { variant: 'outlined', density: 'compact', color: 'primary', hideDetails: 'auto' },
    VCombobox: { variant: 'outlined', density: 'compact', color: 'primary', hideDetails: 'auto' },
    VAutocomplete: { variant: 'outlined', density: 'compact', color: 'primary', hideDetails: 'auto' },
    VCheckbox: { density: 'compact', color: 'primary', hideDetails: 'auto' },
    VSwitch: { density: 'compact', color: 'primary', hideDetails: 'auto', inset: true },
    VDialog: { maxWidth: 520 },
    VTooltip: { openDelay: 300 },
  },
}
