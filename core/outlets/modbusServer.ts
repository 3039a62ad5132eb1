import { mbapFrames } from '../wire/frames'
import type { OutletFacts } from './kind'
import type { FolderRule } from './rules'

export const modbusServer: OutletFacts = {
  kind: 'modbus-server',
  title: 'Modbus server',
  subtitle: 'Tags on registers, coils and inputs, for controllers and SCADA that know addresses only',
  capabilities: { clients: true, write: true, check: true, names: false, map: true, card: true, messages: false, sends: false, tap: true },
  frames: mbapFrames,
  renamed: (settings, nowCalled) => {
    const { anyone, machines, map, ...rest } = settings as unknown as Paths
    const inRules = (rules: FolderRule[]) => rules.map((rule) => ({ ...rule, folder: nowCalled(rule.folder) }))
    return {
      ...rest,
      anyone: inRules(anyone),
      machines: machines.map((machine) => ({ ...machine, rules: inRules(machine.rules) })),
      map: map.map((entry) => ({ ...entry, path: nowCalled(entry.path) })),
    } as never
  },
  place: (settings) => `port ${(settings as { doors: { port: number }[] }).doors.map(({ port }) => port).join(', ')}`,
}

/** Where its settings name tags and folders. */
interface Paths {
  anyone: FolderRule[]
  machines: { rules: FolderRule[] }[]
  map: { path: string }[]
}
