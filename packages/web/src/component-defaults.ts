import type { VuetifyOptions } from 'vuetify';

/** How Vuetify's components are set where nothing else is said; `styles.css` dresses them. */
export const COMPONENT_DEFAULTS: NonNullable<VuetifyOptions['defaults']> = {
  VAlert: { rounded: 0, variant: 'outlined', density: 'compact' },
  VBtn: { variant: 'outlined', density: 'comfortable', rounded: 0, ripple: false, class: 'plain-button' },
  VBtnToggle: { rounded: 0, density: 'compact', mandatory: true, class: 'modes', VBtn: { variant: 'text' } },
  VCard: { rounded: 0, elevation: 0, border: true },
  VCheckboxBtn: { density: 'compact', ripple: false, color: 'primary' },
  VDialog: { transition: false },
  VExpansionPanels: { variant: 'accordion', flat: true, rounded: 0, multiple: true },
  VExpansionPanel: { elevation: 0, rounded: 0, hideActions: false, ripple: false },
  VList: { density: 'compact', rounded: 0, slim: true },
  VListItem: { ripple: false, rounded: 0 },
  VMenu: { transition: false, offset: 2 },
  VNavigationDrawer: { elevation: 0, color: 'background' },
  VProgressLinear: { color: 'primary', height: 3 },
  VSelect: { variant: 'underlined', density: 'compact', hideDetails: true, menuProps: { transition: false } },
  VTextField: { variant: 'underlined', density: 'compact', hideDetails: true },
  VTooltip: { openDelay: 300, transition: false },
};
