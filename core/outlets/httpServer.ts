import type { OutletFacts } from './kind'
import type { FolderRule } from './rules'

export const httpServer: OutletFacts = {
  kind: 'http-server',
  title: 'HTTP server',
  subtitle: 'Tags for programs of the office, and endpoints of your own',
  capabilities: { clients: true, write: true, check: true, names: false, map: false, card: true, messages: true, sends: false, tap: true },
  frames: null,
  renamed: (settings, nowCalled) => {
    const { anonymous, users, endpoints, ...rest } = settings as unknown as Paths
    const inRules = (rules: FolderRule[]) => rules.map((rule) => ({ ...rule, folder: nowCalled(rule.folder) }))
    const named = (path: string) => (path.includes('{') ? path : nowCalled(path))
    return {
      ...rest,
      anonymous: inRules(anonymous),
      users: users.map((user) => ({ ...user, rules: inRules(user.rules) })),
      endpoints: endpoints.map((endpoint) =>
        endpoint.does.kind === 'tags'
          ? { ...endpoint, does: { ...endpoint.does, values: endpoint.does.values.map((one) => ({ ...one, path: named(one.path) })) } }
          : endpoint,
      ),
    } as never
  },
  place: (settings) => `port ${(settings as { doors: { port: number }[] }).doors.map(({ port }) => port).join(', ')}`,
}

/** Where its settings name tags and folders. */
interface Paths {
  anonymous: FolderRule[]
  users: { rules: FolderRule[] }[]
  endpoints: { does: { kind: 'tags'; values: { path: string }[] } | { kind: 'rows' | 'message' } }[]
}
