import { counted } from '#core/text/counted'
import { duration, wholeSeconds } from '#core/text/duration'
import { momentText } from '#core/text/moment'
import type { LeadStatus, NodeMachine, NodeStatus } from '#shared/nodes'

export interface NodeFact {
  title: string
  text: string
  isMono?: boolean
  isLate?: boolean
}

/** Less of these, and it is time to look after it. */
const leastDiskMb = 1024
const mostClockMs = 2000
const none = '—'

/** What is told of a node that came in. */
export const nodeFacts = (status: NodeStatus): NodeFact[] => [
  { title: 'Last seen', text: seenText(status) },
  { title: 'Comes from', text: status.from || none, isMono: true },
  { title: 'Version', text: status.version || none },
  { title: 'Configuration', text: configurationText(status), isLate: status.isBehind },
  { title: 'Its clock', text: clockText(status.clockAheadMs), isLate: Math.abs(status.clockAheadMs ?? 0) > mostClockMs },
  { title: 'There and back', text: status.roundTripMs === null ? none : `${status.roundTripMs} ms` },
  ...(status.machine ? machineFacts(status.machine) : []),
  { title: 'Its record', text: recordText(status) },
  { title: 'Changes', text: status.isConnected ? `${status.changesPerSecond.toLocaleString('en-GB')} a second` : none },
]

/** How a site of several machines is led. */
export const leadText = ({ since, holdsBy, canHandOver }: LeadStatus, now: number): string => {
  const ready = canHandOver.length === 0 ? 'no other machine is ready to go on' : `${counted(canHandOver.length, 'machine')} ready to go on`
  const how = holdsBy === 'promise' ? ' The database is away: it leads on because all others gave their word.' : ''
  return `It leads the site for ${wholeSeconds(Math.max(1000, now - since))}; ${ready}.${how}`
}

const machineFacts = ({ host, system, load, cores, ...machine }: NodeMachine): NodeFact[] => [
  { title: 'Machine', text: `${host}, ${system}` },
  { title: 'Load', text: `${load} on ${cores} cores`, isLate: load > 2 * cores },
  { title: 'Memory free', text: `${gb(machine.memoryFreeMb)} of ${gb(machine.memoryMb)}` },
  {
    title: 'Disk free',
    text: `${gb(machine.diskFreeMb)} of ${gb(machine.diskMb)}`,
    isLate: (machine.diskFreeMb ?? Infinity) < leastDiskMb,
  },
]

const gb = (mb: number | null) => (mb === null ? none : `${(mb / 1024).toLocaleString('en-GB', { maximumFractionDigits: 1 })} GB`)

const seenText = ({ lastSeenAt, isConnected }: NodeStatus) =>
  lastSeenAt === null ? 'not since this engine started' : isConnected ? 'now' : momentText(lastSeenAt)

const configurationText = ({ isBehind, isConnected, revision, wanted }: NodeStatus) => {
  if (isBehind) return `revision ${revision || none}; a change waits`
  return isConnected ? `revision ${revision}, as it should` : `nothing waits for it, up to revision ${wanted}`
}

const clockText = (ms: number | null) => {
  if (ms === null) return none
  return Math.abs(ms) < 50 ? 'as ours' : `${duration(Math.abs(ms))} ${ms > 0 ? 'ahead of' : 'behind'} ours`
}

const recordText = ({ isConnected, waiting }: NodeStatus) => {
  if (!isConnected) return 'comes once it is back'
  return waiting === 0 ? 'all here' : `${waiting.toLocaleString('en-GB')} samples on their way`
}
