import { uaFrames } from '../wire/frames'
import type { OutletFacts } from './kind'
import type { FolderRule } from './rules'

export const opcuaServer: OutletFacts = {
  kind: 'opcua-server',
  title: 'OPC UA server',
  subtitle: 'SCADA and others browse, subscribe to and write the tags',
  capabilities: { clients: true, write: true, check: true, names: true, map: false, card: true, messages: false, sends: false, tap: true },
  frames: uaFrames,
  renamed: (settings, nowCalled) => {
    const { shows, anonymous, users, shortNames, ...rest } = settings as unknown as Paths
    const inRules = (rules: FolderRule[]) => rules.map((rule) => ({ ...rule, folder: nowCalled(rule.folder) }))
    return {
      ...rest,
      shows: inRules(shows),
      anonymous: inRules(anonymous),
      users: users.map((user) => ({ ...user, rules: inRules(user.rules) })),
      shortNames: { ...shortNames, own: shortNames.own.map((name) => ({ ...name, path: nowCalled(name.path) })) },
    } as never
  },
  place: (settings) => `port ${(settings as { doors: { port: number }[] }).doors.map(({ port }) => port).join(', ')}`,
}

/** Where its settings name tags and folders. */
interface Paths {
  shows: FolderRule[]
  anonymous: FolderRule[]
  users: { rules: FolderRule[] }[]
  shortNames: { own: { path: string; name: string }[] }
}
