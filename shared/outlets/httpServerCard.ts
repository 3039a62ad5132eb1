import { parametersOf } from '#core/endpoints/settings'
import { rightText, type FolderRule } from '#core/outlets/rules'
import type { CardSection, Known } from './card'
import { doorIdentityText, trustSection } from './cardParts'
import { isOpenToOthers } from './doors'
import { httpSchemeOf, type HttpDoor, type HttpServerSettings } from './httpServer'

export const httpServerCard = ({ settings, addresses, own }: Known<HttpServerSettings>): CardSection[] => [
  ...settings.doors.map((door, i) => doorSection(door, addresses[i] ?? `${httpSchemeOf(door)}://${door.interface}:${door.port}`, i)),
  ...trustSection(settings.doors, own),
  {
    title: 'Who may do what',
    rows: [
      ...(settings.doors.some(({ anonymous }) => anonymous)
        ? [{ label: 'Without a name', text: folderRulesText(settings.anonymous) }]
        : []),
      ...settings.users.map(({ name, rules }) => ({ label: name, text: folderRulesText(rules) })),
    ],
    steps: settings.users.length > 0 ? ['Tokens are not on this card. Ask whoever set up the outlet.'] : [],
  },
  {
    title: 'What is there',
    rows: [
      { label: 'Description', text: '/openapi.json (OpenAPI 3.1), and /docs to try it' },
      { label: 'One tag', text: 'GET /tags/{path}; PUT with {"value":…} sets it' },
      { label: 'Many tags', text: 'GET /tags?folder=… or ?path=…&path=…; POST /tags/read with {"paths":[…]}' },
      { label: 'Changes', text: 'GET /changes?folder=… (server-sent events)' },
      ...settings.endpoints.map((endpoint) => ({
        label: endpoint.about || 'Endpoint',
        text: `${endpoint.method} ${endpoint.path}${queryText(parametersOf(endpoint).filter((one) => one.in === 'query'))}`,
      })),
    ],
    steps: [],
  },
]

const queryText = (parameters: readonly { name: string }[]) =>
  parameters.length === 0 ? '' : `?${parameters.map(({ name }) => `${name}=…`).join('&')}`

const doorSection = (door: HttpDoor, address: string, i: number): CardSection => ({
  title: `Address ${i + 1}${door.on ? '' : ', closed now'}`,
  rows: [
    { label: 'Address', text: address },
    { label: 'Protocol', text: 'HTTP/1.1, JSON' },
    { label: 'Reached from', text: isOpenToOthers(door) ? `the network of ${door.interface}` : 'the same machine only' },
    { label: 'Security', text: door.tls ? 'TLS 1.2 or 1.3' : 'not encrypted' },
    { label: 'Identity', text: doorIdentityText(door) },
    ...(door.names ? [{ label: 'Header', text: 'Authorization: Bearer name.token, or Basic with name and token' }] : []),
    ...(isOpenToOthers(door) ? [{ label: 'Firewall', text: `TCP ${door.port}, in, at the Keen Conduit machine` }] : []),
  ],
  steps: [],
})

export const folderRulesText = (rules: readonly FolderRule[]): string =>
  rules.map(({ folder, may }) => `${folder || 'the whole site'}: ${rightText[may]}`).join('; ')
