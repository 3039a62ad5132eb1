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
  place: (settings) => {
    const { way } = settings as { way: { kind: 'http'; base: string } | { kind: 'mqtt'; host: string; port: number } }
    return way.kind === 'http' ? way.base : `${way.host}:${way.port}`
  },
}

interface Paths {
  model: { areas: string[] }
  streams: { folder: string }[]
}
