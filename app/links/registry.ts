import type { Component } from 'vue'
import type { LinkKind } from '#core/links/registry'
import type { LinkSettings } from '#shared/links/link'
import ModbusTcpForm from '~/components/links/ModbusTcpForm.vue'

interface LinkForm {
  component: Component
  /** A suggestion for the name of a new link, from what is typed so far. */
  suggestName(settings: LinkSettings): string
}

/** The form of every link kind. A new protocol adds its line here. */
export const linkForms: Record<LinkKind, LinkForm> = {
  'modbus-tcp': { component: ModbusTcpForm, suggestName: (settings) => (settings.host ? `Device at ${settings.host}` : '') },
}
