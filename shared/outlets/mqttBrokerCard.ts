import { topicRightText, type TopicRule } from '#core/outlets/topicRules'
import type { CardSection, Known } from './card'
import { doorIdentityText, trustSection } from './cardParts'
import { isOpenToOthers } from './doors'
import { schemeOf, type BrokerDoor, type MqttBrokerSettings, type Publication } from './mqttBroker'

export const mqttBrokerCard = ({ settings, addresses, own }: Known<MqttBrokerSettings>): CardSection[] => [
  ...settings.doors.map((door, i) => doorSection(door, addresses[i] ?? `${schemeOf(door)}://${door.interface}:${door.port}`, i)),
  ...trustSection(settings.doors, own),
  {
    title: 'Who may do what',
    rows: [
      ...(settings.doors.some(({ anonymous }) => anonymous) ? [{ label: 'Without a name', text: topicRulesText(settings.anonymous) }] : []),
      ...settings.users.map(({ name, rules }) => ({ label: name, text: topicRulesText(rules) })),
    ],
    steps: settings.users.length > 0 ? ['Passwords are not on this card. Ask whoever set up the outlet.'] : [],
  },
  { title: 'What is there', rows: settings.publishes.flatMap(publicationRows), steps: [] },
]

const doorSection = (door: BrokerDoor, address: string, i: number): CardSection => ({
  title: `Address ${i + 1}${door.on ? '' : ', closed now'}`,
  rows: [
    { label: 'Address', text: address },
    { label: 'Protocol', text: `MQTT 3.1.1 over ${door.over === 'websocket' ? 'websocket, subprotocol mqtt' : 'TCP'}` },
    { label: 'Reached from', text: isOpenToOthers(door) ? `the network of ${door.interface}` : 'the same machine only' },
    { label: 'Security', text: door.tls ? 'TLS 1.2 or 1.3' : 'not encrypted' },
    { label: 'Identity', text: doorIdentityText(door) },
    ...(isOpenToOthers(door) ? [{ label: 'Firewall', text: `TCP ${door.port}, in, at the Keen Conduit machine` }] : []),
  ],
  steps: [],
})

export const topicRulesText = (rules: readonly TopicRule[]): string =>
  rules.length === 0 ? 'nothing' : rules.map(({ filter, may }) => `${filter}: ${topicRightText[may]}`).join('; ')

/** When and how tags of a folder are published, in words. */
export const publicationText = ({ topic, form, every, qos, retain }: Publication): string =>
  [
    topic,
    form === 'json' ? 'JSON with value, time, quality and unit' : 'the value alone, while it is good',
    every === null ? 'on each change' : `at most every ${every} ms`,
    `QoS ${qos}${retain ? ', retained' : ''}`,
  ].join(', ')

const publicationRows = (one: Publication) => [
  { label: one.folder || 'The whole site', text: publicationText(one) },
  ...(one.set ? [{ label: 'To set a tag', text: `${one.set}: the value alone, or {"value":…}` }] : []),
]
