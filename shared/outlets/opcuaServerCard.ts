import { fingerprintText, type CertificateFacts } from '#core/certificates/judge'
import { hostText } from '#core/opcua/endpointAddress'
import { modeText } from '#core/opcua/settings'
import { rightText, type FolderRule } from '#core/outlets/rules'
import type { CardSection, Known } from './card'
import { isOpenToOthers } from './doors'
import type { DialledClient, Door, Entrance, OpcuaServerSettings } from './opcuaServer'

export const opcuaServerCard = ({ settings, addresses, own }: Known<OpcuaServerSettings>): CardSection[] => [
  ...settings.doors.map((door, i) => doorSection(door, addresses[i] ?? `opc.tcp://${door.interface}:${door.port}`, i)),
  ...settings.dialled.map((client, i) => dialledSection(client, own, i)),
  trustSection([...settings.doors, ...settings.dialled], own),
  identitySection(settings),
  valuesSection(settings),
]

const doorSection = (door: Door, address: string, i: number): CardSection => ({
  title: `Address ${i + 1}${door.on ? '' : ', closed now'}`,
  rows: [
    { label: 'Endpoint', text: address },
    { label: 'Reached from', text: isOpenToOthers(door) ? `the network of ${door.interface}` : 'the same machine only' },
    { label: 'Security', text: securityText(door) },
    { label: 'Identity', text: identityText(door) },
    ...(isOpenToOthers(door) ? [{ label: 'Firewall', text: `TCP ${door.port}, in, at the Keen Conduit machine` }] : []),
  ],
  steps: [],
})

/** Whoever awaits us has to be told who we are: its address need not be known there, nor any hole be made to us. */
const dialledSection = (client: DialledClient, own: CertificateFacts | null, i: number): CardSection => ({
  title: `Reverse connection ${i + 1}${client.on ? '' : ', off now'}`,
  rows: [
    { label: 'Dialled by us', text: `opc.tcp://${hostText(client.host)}:${client.port}` },
    { label: 'Server URI', text: own?.applicationUri ?? 'as in our certificate' },
    { label: 'Security', text: securityText(client) },
    { label: 'Identity', text: identityText(client) },
    { label: 'Firewall', text: `TCP ${client.port}, from the Keen Conduit machine to ${client.host}` },
  ],
  steps: [],
})

/** The ways to be secured at a door, in words. */
export const securityText = ({ policies, modes }: Pick<Door, 'policies' | 'modes'>): string => {
  const secured = policies.filter((policy) => policy !== 'None')
  const ways = secured.length > 0 ? [`${modes.map((mode) => modeText[mode]).join(' or ')} (${secured.join(', ')})`] : []
  return [...ways, ...(policies.includes('None') ? ['none'] : [])].join(', or ')
}

export const identityText = ({ anonymous, names, certificates }: Pick<Door, 'anonymous' | 'names' | 'certificates'>): string =>
  [anonymous ? 'anonymous' : '', names ? 'name and password' : '', certificates ? 'user certificate' : ''].filter(Boolean).join(', or ')

const trustSection = (doors: readonly Entrance[], own: CertificateFacts | null): CardSection => {
  const secured = doors.some(({ policies }) => policies.some((policy) => policy !== 'None'))
  if (!secured || !own) return { title: 'Trust', rows: [{ label: 'Certificates', text: 'none are asked for' }], steps: [] }
  return {
    title: 'Trust, on both sides',
    rows: [
      { label: 'Our certificate', text: own.name },
      { label: 'Application URI', text: own.applicationUri ?? 'none' },
      { label: 'Is for', text: own.hosts.join(', ') },
      { label: 'Valid until', text: new Date(own.validTo).toISOString().slice(0, 10) },
      { label: 'SHA-1', text: fingerprintText(own.fingerprintSha1) },
      { label: 'SHA-256', text: fingerprintText(own.fingerprint) },
    ],
    steps: [
      'Connect once with one of the secured ways above. The first try is refused on one side or both: that is expected.',
      'In the consumer, find the certificate among those it has not decided about, compare the fingerprint with the one above, and trust it.',
      'In Keen Conduit the consumer now stands at the door of this outlet. Compare its fingerprint there and let it in.',
      'Connect again.',
    ],
  }
}

const identitySection = (settings: OpcuaServerSettings): CardSection => ({
  title: 'Who may do what',
  rows: [
    ...([...settings.doors, ...settings.dialled].some(({ anonymous }) => anonymous)
      ? [{ label: 'Anonymous', text: rulesText(settings.anonymous) }]
      : []),
    ...settings.users.map(({ name, key, rules }) => ({
      label: name,
      text: `${key.kind === 'password' ? 'by password' : 'by certificate'}: ${rulesText(rules)}`,
    })),
  ],
  steps: settings.users.some(({ key }) => key.kind === 'password')
    ? ['Passwords are not on this card. Ask whoever set up the outlet.']
    : [],
})

export const rulesText = (rules: readonly FolderRule[]): string =>
  rules.map(({ folder, may }) => `${folder || 'the whole site'}: ${rightText[may]}`).join('; ')

const valuesSection = (settings: OpcuaServerSettings): CardSection => ({
  title: 'What is there',
  rows: [
    { label: 'Shown', text: rulesText(settings.shows) },
    { label: 'A tag', text: 'nsu=urn:keen-conduit:tags;s=<path>, in folders below Objects' },
    ...(settings.shortNames.on
      ? [{ label: 'Short names', text: 'nsu=urn:keen-conduit:names;s=<short name>, all in Objects / Short names' }]
      : []),
    ...(settings.health
      ? [{ label: 'Links', text: 'nsu=urn:keen-conduit:links;s=<link>/State, and others beside it, in Objects / Links' }]
      : []),
    ...(settings.onRequest.on
      ? [{ label: 'On request', text: 'nsu=urn:keen-conduit:points;s=<link>|<address>|<type>; not browsed, asked for' }]
      : []),
  ],
  steps: ['Namespaces are named by URI. Their index may change; a client that stores an index should look it up in the NamespaceArray.'],
})
