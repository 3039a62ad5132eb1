import type { CardSection, Known } from './card'
import type { CloudPlatformSettings, PlatformWay } from './cloudPlatform'

/** What whoever runs the platform has to know. */
export const cloudPlatformCard = ({ settings }: Known<CloudPlatformSettings>): CardSection[] => [
  {
    title: 'What comes to you',
    rows: [
      { label: 'Site', text: settings.site },
      { label: 'Equipment', text: settings.model.on ? areasText(settings.model.areas) : 'none; streams only' },
      ...settings.streams.map(({ folder, every }) => ({ label: folder || 'The whole site', text: everyText(every) })),
    ],
    steps: [],
  },
  wayTo(settings),
]

export const areasText = (areas: readonly string[]) => (areas.some((area) => area === '') ? 'all of the site' : areas.join(', ') || 'none')
export const everyText = (every: number | null) => (every === null ? 'each change' : `the latest, at most every ${every} ms`)

const wayTo = ({ way, site }: CloudPlatformSettings): CardSection =>
  way.kind === 'http'
    ? {
        title: 'By HTTP',
        rows: [
          { label: 'Address', text: way.base },
          { label: 'Signs in by', text: signInText(way.signIn.kind) },
          { label: 'Bodies', text: 'JSON (RFC 8259), packed with gzip' },
          { label: 'Firewall', text: `TCP ${portOf(way.base)}, out, at the Keen Conduit machine` },
        ],
        steps: [
          `GET ${way.base}/sites/${site}/model gives classes and equipment.`,
          `POST ${way.base}/sites/${site}/model takes steps that change them, and answers each.`,
          `POST ${way.base}/sites/${site}/values takes parcels of values; one with an id that was taken before is not taken again.`,
        ],
      }
    : {
        title: 'By MQTT 5',
        rows: [
          { label: 'Broker', text: `${way.host}:${way.port}` },
          { label: 'Topics', text: `${way.root}/${site}/model, …/model/steps and …/values` },
          { label: 'Bodies', text: 'JSON (RFC 8259), packed with gzip' },
          { label: 'Firewall', text: `TCP ${way.port}, out, at the Keen Conduit machine` },
        ],
        steps: ['Each request names a response topic and correlation data (MQTT 5.0, 4.10); answer there, with the same correlation data.'],
      }

const signInText = (kind: Extract<PlatformWay, { kind: 'http' }>['signIn']['kind']) =>
  ({ none: 'nothing', bearer: 'a token, as Bearer', basic: 'name and password', key: 'a key', oauth: 'tokens given out (OAuth 2.0)' })[kind]

const portOf = (base: string) => {
  try {
    const { port, protocol } = new URL(base)
    return port || (protocol === 'https:' ? '443' : '80')
  } catch {
    return '?'
  }
}
