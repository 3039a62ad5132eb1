import type { CertificateFacts } from '#core/certificates/judge'
import type { OutletKind } from '#core/outlets/registry'
import { cloudPlatformCard } from './cloudPlatformCard'
import { httpServerCard } from './httpServerCard'
import { modbusServerCard } from './modbusServerCard'
import { mqttBrokerCard } from './mqttBrokerCard'
import { opcuaServerCard } from './opcuaServerCard'
import type { OutletSettingsOf, OutletDraft } from './outlet'

/** What whoever sets up the consumer's side needs, on one sheet. */
export interface CardSection {
  title: string
  rows: { label: string; text: string }[]
  /** To be done there, in this order. */
  steps: string[]
}

/** What a card is made from. */
export interface Known<S> {
  settings: S
  /** As they are given out now. */
  addresses: readonly string[]
  /** Our certificate. */
  own: CertificateFacts | null
}

/** The card of every kind of outlet. A new one adds its line here. */
const cards: { [K in OutletKind]: (known: Known<OutletSettingsOf<K>>) => CardSection[] } = {
  'opcua-server': opcuaServerCard,
  'mqtt-broker': mqttBrokerCard,
  'http-server': httpServerCard,
  'modbus-server': modbusServerCard,
  'cloud-platform': cloudPlatformCard,
}

export const cardOf = ({ kind, settings }: OutletDraft, known: Omit<Known<never>, 'settings'>): CardSection[] =>
  // kind and settings go together; TypeScript cannot follow that through a variable
  (cards[kind] as (known: Known<unknown>) => CardSection[])({ ...known, settings })

/** The card as text, for a message. */
export const cardText = (title: string, sections: readonly CardSection[]): string => [title, ...sections.map(sectionText)].join('\n\n')

const sectionText = ({ title, rows, steps }: CardSection): string =>
  [
    title.toUpperCase(),
    ...rows.map(({ label, text }) => `  ${label.padEnd(16)} ${text}`),
    ...steps.map((step, i) => `  ${i + 1}. ${step}`),
  ].join('\n')
