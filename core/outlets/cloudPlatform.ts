import { goalOfBase } from '../http/base'
import type { OutletFacts } from './kind'

export const cloudPlatform: OutletFacts = {
  kind: 'cloud-platform',
  title: 'Cloud platform',
  subtitle: 'Equipment with its classes and live values, sent to a platform over HTTP or MQTT 5',
  capabilities: {
    clients: false,
    write: false,
    check: true,
    names: false,
    map: false,
    card: true,
    messages: false,
    sends: false,
    tap: true,
  },
  frames: null,
  renamed: (settings, nowCalled) => {
    const { model, streams, ...rest } = settings as unknown as Paths
    return {
      ...rest,
      model: { ...model, areas: model.areas.map((area) => (area === '' ? '' : nowCalled(area))) },
      streams: streams.map((one) => ({ ...one, folder: one.folder === '' ? '' : nowCalled(one.folder) })),
    } as never
  },
  goal: (settings) => {
    const { way } = settings as { way: GoingWay }
    return way.kind === 'mqtt'
      ? { speaks: 'MQTT', host: way.host, port: way.port, carries: 'tcp', usualPort: way.tls.mode === 'off' ? 1883 : 8883 }
      : goalOfBase(way)
  },
  place: (settings) => {
    const { way } = settings as { way: { kind: 'http'; base: string } | { kind: 'mqtt'; host: string; port: number } }
    return way.kind === 'http' ? way.base : `${way.host}:${way.port}`
  },
}

type GoingWay = ({ kind: 'http' } & Parameters<typeof goalOfBase>[0]) | { kind: 'mqtt'; host: string; port: number; tls: { mode: string } }

interface Paths {
  model: { areas: string[] }
  streams: { folder: string }[]
}
