import { AttributeIds, ServerState, type ClientSession } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import { duration } from '#core/text/duration'
import type { FarSide } from '#shared/status'

const clockSlackMs = 60_000
const serverStatus = 'i=2256'
const namespaceArray = 'i=2255'

/** As far as it is looked into (OPC 10000-5, 12.10). */
interface Status {
  state?: ServerState
  currentTime?: Date | null
  buildInfo?: { productName?: string | null; softwareVersion?: string | null; buildNumber?: string | null }
}

type First = { evidence: string; namespaces: string[]; farSide: FarSide } | { fault: Fault }

/** The server's own state and clock, and how it numbers its namespaces. */
export const firstValue = async (session: ClientSession): Promise<First> => {
  const [status, spaces] = await session.read([
    { nodeId: serverStatus, attributeId: AttributeIds.Value },
    { nodeId: namespaceArray, attributeId: AttributeIds.Value },
  ])
  const value = status!.value.value as Status | null
  if (value?.state !== undefined && value.state !== ServerState.Running)
    return { fault: fault('opcua.not-running', { state: ServerState[value.state] ?? String(value.state) }) }
  const namespaces = (spaces!.value.value as (string | null)[] | null)?.map((uri) => uri ?? '') ?? []
  const evidence = `${value?.buildInfo?.productName || 'the server'} runs${clockNote(value?.currentTime)}`
  return { namespaces, evidence, farSide: farSideIn(value) }
}

const farSideIn = (status: Status | null): FarSide => {
  const { productName, softwareVersion, buildNumber } = status?.buildInfo ?? {}
  const peer = [productName, softwareVersion, buildNumber && `build ${buildNumber}`].filter(Boolean).join(' ')
  const clock = status?.currentTime
  return { ...(peer ? { peer } : {}), ...(clock ? { clockAhead: clock.getTime() - Date.now() } : {}) }
}

const clockNote = (theirs: Date | null | undefined) => {
  if (!theirs) return ''
  const behind = Date.now() - theirs.getTime()
  if (Math.abs(behind) < clockSlackMs) return ', its clock agrees with ours'
  return `, and its clock is ${duration(Math.abs(behind))} ${behind > 0 ? 'behind' : 'ahead of'} ours`
}
